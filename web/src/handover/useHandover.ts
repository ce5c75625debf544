/** Plans, runs, sheets and devices: what is asked of the server, and what is written there. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { RunShown, TickResult } from '@/api/types'
import type { DesignSession } from '@/design/useDesignSession'

const retry = (count: number, error: Error) => !(error instanceof Refusal) && count < 2
const PROGRESS_POLL_MS = 500
const RUN_POLL_MS = 4000 // what others tick shows after this at the latest

/** The plan from a revision, or of taking something down; none while nothing is chosen. */
export function usePlan({ designId, revision }: DesignSession, since: Ref<string>) {
  return useQuery({
    queryKey: ['plan', designId, revision, since],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/plan', {
          params: { path: { design_id: designId.value }, query: { since: since.value } },
          signal,
        }),
      ),
    enabled: computed(() => revision.value !== undefined && since.value !== ''),
    shallow: true,
    retry,
  })
}

/** How far a plan has come that is waited for. */
export function usePlanProgress({ designId }: DesignSession, isWaiting: Ref<boolean>) {
  return useQuery({
    queryKey: ['plan-progress', designId, isWaiting],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/plan/progress', {
          params: { path: { design_id: designId.value } },
        }),
      ),
    enabled: isWaiting,
    refetchInterval: PROGRESS_POLL_MS,
    retry,
  })
}

export function useRuns({ designId }: DesignSession) {
  return useQuery({
    queryKey: ['runs', designId],
    queryFn: () =>
      bodyOf(api.GET('/api/designs/{design_id}/runs', { params: { path: { design_id: designId.value } } })),
    refetchInterval: RUN_POLL_MS,
    retry,
  })
}

/** One run, and what is said of its steps. */
export function useRun({ designId }: DesignSession, runId: Ref<string>) {
  const client = useQueryClient()
  const query = useQuery({
    queryKey: ['run', designId, runId],
    queryFn: () => bodyOf(api.GET('/api/designs/{design_id}/runs/{run_id}', { params: { path: path() } })),
    enabled: computed(() => runId.value !== ''),
    refetchInterval: RUN_POLL_MS,
    retry,
  })
  function path() {
    return { design_id: designId.value, run_id: runId.value }
  }
  const seen = () => query.data.value?.ticks.length ?? 0
  /** Take over what a run has become; whoever was quicker shows, too. */
  async function taken(answer: Promise<RunShown>): Promise<void> {
    try {
      client.setQueryData(['run', designId.value, runId.value], await answer)
    } finally {
      await client.invalidateQueries({ queryKey: ['run', designId.value, runId.value] })
      await client.invalidateQueries({ queryKey: ['drift', designId.value] })
    }
  }
  /** Say what came of a step; throws a Refusal where somebody was quicker. */
  const tick = (step: number, result: TickResult, remark: string): Promise<void> =>
    taken(
      bodyOf(
        api.POST('/api/designs/{design_id}/runs/{run_id}/steps/{step}', {
          params: { path: { ...path(), step } },
          body: { seen: seen(), result, remark },
        }),
      ),
    )
  /** Make a step at its device, or take it back there; what is read back is ticked. Throws a Refusal of the device. */
  const make = (step: number, back: boolean): Promise<void> =>
    taken(
      bodyOf(
        api.POST('/api/designs/{design_id}/runs/{run_id}/steps/{step}/made', {
          params: { path: { ...path(), step } },
          body: { seen: seen(), back },
        }),
      ),
    )
  /** What a step would enter at its device, where that would take it; throws a Refusal of the device. */
  async function tryStep(step: number): Promise<string[]> {
    const found = await bodyOf(
      api.POST('/api/designs/{design_id}/runs/{run_id}/steps/{step}/tried', {
        params: { path: { ...path(), step } },
        body: { seen: seen() },
      }),
    )
    return found.lines
  }
  /** Say what was seen of a pair before or after; throws a Refusal where the text doesn't tell. */
  async function see(tries: string, phase: 'before' | 'after', text: string): Promise<void> {
    const found = await bodyOf(
      api.POST('/api/designs/{design_id}/runs/{run_id}/probes', {
        params: { path: path() },
        body: { tries, phase, text },
      }),
    )
    client.setQueryData(['run', designId.value, runId.value], found)
  }
  /** Have a pair tried from the gateway at its beginning; throws a Refusal where that can't be. */
  async function tryPair(tries: string, phase: 'before' | 'after'): Promise<void> {
    const found = await bodyOf(
      api.POST('/api/designs/{design_id}/runs/{run_id}/probes/made', {
        params: { path: path() },
        body: { tries, phase },
      }),
    )
    client.setQueryData(['run', designId.value, runId.value], found)
  }
  return { ...query, tick, make, tryStep, see, tryPair }
}

/** Begin to walk a plan. */
export function startRun(designId: string, since: string): Promise<RunShown> {
  return bodyOf(
    api.POST('/api/designs/{design_id}/runs', {
      params: { path: { design_id: designId } },
      body: { since },
    }),
  )
}

export function useSheet(
  { designId, revision }: DesignSession,
  tunnelId: Ref<string>,
  side: Ref<'left' | 'right'>,
) {
  return useQuery({
    queryKey: ['sheet', designId, revision, tunnelId, side],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/sheets/{side}', {
          params: { path: { design_id: designId.value, tunnel_id: tunnelId.value, side: side.value } },
          signal,
        }),
      ),
    enabled: computed(() => revision.value !== undefined && tunnelId.value !== ''),
    retry,
  })
}

export function useDrifts({ designId, revision }: DesignSession) {
  return useQuery({
    queryKey: ['drift', designId, revision],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/drift', {
          params: { path: { design_id: designId.value } },
          signal,
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    shallow: true,
    retry,
  })
}

/** Devices that were read and aren't as intended: asked at every screen, so of no others. */
export function useDevicesOff({ designId, revision }: DesignSession) {
  const { data } = useQuery({
    queryKey: ['drift', designId, revision, 'read'],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/drift', {
          params: { path: { design_id: designId.value }, query: { read: true } },
          signal,
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    shallow: true,
    retry,
  })
  return computed(() => (data.value ?? []).filter((candidate) => candidate.off))
}

export function useDrift({ designId, revision }: DesignSession, gatewayId: Ref<string>) {
  return useQuery({
    queryKey: ['drift', designId, revision, gatewayId],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/gateways/{gateway_id}/drift', {
          params: { path: { design_id: designId.value, gateway_id: gatewayId.value } },
          signal,
        }),
      ),
    enabled: computed(() => revision.value !== undefined && gatewayId.value !== ''),
    shallow: true,
    retry,
  })
}

/** Keep a reading, as its file; throws a Refusal that says what is wrong with it. */
export function keepReading(designId: string, text: string) {
  return bodyOf(
    api.POST('/api/designs/{design_id}/readings', {
      params: { path: { design_id: designId } },
      body: { text },
    }),
  )
}
