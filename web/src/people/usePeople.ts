/** Profiles of people who dial in: what is asked of the server, and what is written beside the design. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { DeviceState, RolloutAct, RolloutShown, Sends } from '@/api/types'
import type { DesignSession } from '@/design/useDesignSession'

const retry = (count: number, error: Error) => !(error instanceof Refusal) && count < 2
const ROLLOUT_POLL_MS = 2500 // devices ask and report by themselves
const MANY = 1000 // devices, of which each look costs the server a while
const MANY_POLL_MS = 20_000

export const SENDS_WORDS: Record<Sends, string> = {
  through: 'through the tunnel',
  beside: 'beside the tunnel',
  local: 'stays where it is',
  held: 'held on the device',
}
export const DEVICE_STATE_WORDS: Record<DeviceState, string> = {
  assigned: 'nothing offered yet',
  offered: 'offered',
  fetched: 'fetched',
  active: 'active',
  refused: 'refused',
  outdated: 'outdated',
}

export function useProfileMatch({ designId, revision }: DesignSession, profileId: Ref<string>) {
  return useQuery({
    queryKey: ['profile-match', designId, profileId, revision],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/profiles/{profile_id}/match', {
          params: { path: { design_id: designId.value, profile_id: profileId.value } },
          signal,
        }),
      ),
    enabled: computed(() => profileId.value !== '' && revision.value !== undefined),
    placeholderData: keepPreviousData,
    retry,
  })
}

export function useFlows({ designId, revision }: DesignSession, profileId: Ref<string>) {
  return useQuery({
    queryKey: ['flows', designId, profileId, revision],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/profiles/{profile_id}/flows', {
          params: { path: { design_id: designId.value, profile_id: profileId.value } },
          signal,
        }),
      ),
    enabled: computed(() => profileId.value !== '' && revision.value !== undefined),
    placeholderData: keepPreviousData,
    retry,
  })
}

/** Where devices fetch their profiles, and what they are to compare. */
export function useProvisioning({ designId }: DesignSession) {
  return useQuery({
    queryKey: ['provisioning', designId],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/people/provisioning', {
          params: { path: { design_id: designId.value } },
        }),
      ),
    retry,
  })
}

/** A roll-out with a page of its devices, and what is done to it. */
export function useRollout(
  { designId, revision }: DesignSession,
  profileId: Ref<string>,
  state: Ref<DeviceState | ''>,
  begin: Ref<number>,
) {
  const client = useQueryClient()
  const path = () => ({ design_id: designId.value, profile_id: profileId.value })
  const query = useQuery({
    queryKey: ['rollout', designId, profileId, state, begin, revision],
    queryFn: ({ signal }): Promise<RolloutShown> =>
      bodyOf(
        api.GET('/api/designs/{design_id}/profiles/{profile_id}/rollout', {
          params: { path: path(), query: { state: state.value || undefined, begin: begin.value } },
          signal,
        }),
      ),
    enabled: computed(() => profileId.value !== ''),
    refetchInterval: ({ state: { data } }) =>
      (data?.states ?? []).reduce((sum, counted) => sum + counted.count, 0) > MANY
        ? MANY_POLL_MS
        : ROLLOUT_POLL_MS,
    placeholderData: keepPreviousData,
    retry,
  })
  const anew = () => client.invalidateQueries({ queryKey: ['rollout', designId.value] })
  async function act(what: RolloutAct, version: number | null, first: number): Promise<void> {
    const body = { act: what, version, first }
    await bodyOf(
      api.POST('/api/designs/{design_id}/profiles/{profile_id}/rollout', { params: { path: path() }, body }),
    )
    await anew()
  }
  async function sign(remark: string): Promise<void> {
    const body = { remark }
    await bodyOf(
      api.POST('/api/designs/{design_id}/profiles/{profile_id}/versions', { params: { path: path() }, body }),
    )
    await anew()
  }
  async function add(text: string) {
    const params = { path: { design_id: designId.value } }
    const added = await bodyOf(api.POST('/api/designs/{design_id}/people', { params, body: { text } }))
    await anew()
    return added
  }
  async function remove(ids: string[]): Promise<void> {
    const params = { path: { design_id: designId.value } }
    await bodyOf(api.POST('/api/designs/{design_id}/people/removed', { params, body: { ids } }))
    await anew()
  }
  return { ...query, act, sign, add, remove }
}

/** What differs between two versions. */
export function useVersionDifference(
  { designId }: DesignSession,
  profileId: Ref<string>,
  since: Ref<number>,
  until: Ref<number>,
) {
  return useQuery({
    queryKey: ['version-difference', designId, profileId, since, until],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/profiles/{profile_id}/versions/{number}/difference', {
          params: {
            path: { design_id: designId.value, profile_id: profileId.value, number: until.value },
            query: { since: since.value },
          },
        }),
      ),
    enabled: computed(() => since.value > 0 && until.value > since.value),
    retry,
  })
}
