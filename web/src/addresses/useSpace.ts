/** What the server works out about address space, fresh at every revision. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { DesignSession } from '@/design/useDesignSession'

export function useUsage({ designId, revision }: DesignSession) {
  return useQuery({
    queryKey: ['usage', designId, revision],
    queryFn: () =>
      bodyOf(api.GET('/api/designs/{design_id}/space', { params: { path: { design_id: designId.value } } })),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    structuralSharing: false,
    shallow: true,
  }).data
}

export function useWaysOut({ designId, revision }: DesignSession) {
  return useQuery({
    queryKey: ['ways-out', designId, revision],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/ways-out', { params: { path: { design_id: designId.value } } }),
      ),
    placeholderData: keepPreviousData,
  })
}

/** Free blocks of a length for a site; none while either is open. */
export function useOffers(
  { designId, revision }: DesignSession,
  siteId: Ref<string>,
  length: Ref<number>,
  version: Ref<number>,
) {
  return useQuery({
    queryKey: ['room', designId, revision, siteId, length, version],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/sites/{site_id}/room', {
          params: {
            path: { design_id: designId.value, site_id: siteId.value },
            query: { length: length.value, family: version.value },
          },
        }),
      ),
    enabled: computed(() => siteId.value !== '' && length.value >= 0 && length.value <= 128),
    placeholderData: keepPreviousData,
  }).data
}
