/** What the server works out about paths, fresh at every revision and for whatever is supposed. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { DesignSession } from '@/design/useDesignSession'
import type { Supposed } from './useSupposed'

const retry = (count: number, error: Error) => !(error instanceof Refusal) && count < 2

export function useMatrix(
  { designId, revision }: DesignSession,
  supposed: Ref<Supposed>,
  service: Ref<string>,
  dscp: Ref<string>,
) {
  return useQuery({
    queryKey: ['paths-matrix', designId, revision, supposed, service, dscp],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/matrix', {
          params: {
            path: { design_id: designId.value },
            query: { ...supposed.value, service: service.value, dscp: dscp.value },
          },
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    shallow: true,
    retry,
  })
}

export function useTrace(
  { designId, revision }: DesignSession,
  supposed: Ref<Supposed>,
  asked: Ref<{ source: string; destination: string; service: string; dscp: string }>,
) {
  return useQuery({
    queryKey: ['paths-trace', designId, revision, supposed, asked],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/trace', {
          params: { path: { design_id: designId.value }, query: { ...supposed.value, ...asked.value } },
        }),
      ),
    enabled: computed(() => asked.value.source !== '' && asked.value.destination !== ''),
    placeholderData: keepPreviousData,
    retry,
  })
}

export function useSweep({ designId, revision }: DesignSession, allUp: Ref<boolean>) {
  return useQuery({
    queryKey: ['paths-sweep', designId, revision, allUp],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/sweep', {
          params: { path: { design_id: designId.value }, query: { all_up: allUp.value } },
        }),
      ),
    placeholderData: keepPreviousData,
    shallow: true,
    retry,
  })
}

export function useLinks({ designId, revision }: DesignSession, supposed: Ref<Supposed>) {
  return useQuery({
    queryKey: ['paths-links', designId, revision, supposed],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/links', {
          params: { path: { design_id: designId.value }, query: supposed.value },
        }),
      ),
    placeholderData: keepPreviousData,
    retry,
  })
}

/** What a rule takes while a measure of a path goes its course. */
export function useQualityCourse(
  { designId, revision }: DesignSession,
  asked: Ref<{ ruleId: string; pathId: string; measure: string; point: string[] }>,
  supposed: Ref<Supposed>,
) {
  return useQuery({
    queryKey: ['quality-course', designId, revision, asked, supposed],
    queryFn: () => {
      const { ruleId, pathId, measure, point } = asked.value
      return bodyOf(
        api.GET('/api/designs/{design_id}/paths/rules/{rule_id}/paths/{path_id}/course', {
          params: {
            path: { design_id: designId.value, rule_id: ruleId, path_id: pathId },
            query: { ...supposed.value, measure, point },
          },
        }),
      )
    },
    placeholderData: keepPreviousData,
    retry,
  })
}

export function useRoutes({ designId, revision }: DesignSession) {
  return useQuery({
    queryKey: ['paths-routes', designId, revision],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/routes', { params: { path: { design_id: designId.value } } }),
      ),
    placeholderData: keepPreviousData,
  })
}

/** The commands of a gateway that is a Linux machine; none while no gateway is chosen. */
export function useLinuxPlan({ designId, revision }: DesignSession, gatewayId: Ref<string>) {
  return useQuery({
    queryKey: ['linux-plan', designId, revision, gatewayId],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/gateways/{gateway_id}/linux', {
          params: { path: { design_id: designId.value, gateway_id: gatewayId.value } },
        }),
      ),
    enabled: computed(() => gatewayId.value !== ''),
  })
}

export function useDifference(
  { designId, revision }: DesignSession,
  since: Ref<number>,
  until: Ref<number | null>, // null for now
  service: Ref<string>,
  allUp: Ref<boolean>,
) {
  return useQuery({
    queryKey: ['paths-difference', designId, revision, since, until, service, allUp],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/paths/difference', {
          params: {
            path: { design_id: designId.value },
            query: {
              since: since.value,
              ...(until.value === null ? {} : { until: until.value }),
              service: service.value,
              all_up: allUp.value,
            },
          },
        }),
      ),
    retry,
  })
}
