/** The clouds of a design: what is asked of the server, how accounts are reached, and the steps that are taken there. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { components } from '@/api/schema'
import type { CloudPeeringShown, CloudStep } from '@/api/types'
import type { DesignSession } from '@/design/useDesignSession'

export type NewCloudAccount = components['schemas']['NewCloudAccount']
export type PeeringState = NonNullable<CloudPeeringShown['state']>

const retry = (count: number, error: Error) => !(error instanceof Refusal) && count < 2

export const STEP_WORDS: Record<CloudStep['state'], string> = {
  done: 'done',
  due: 'due',
  settling: 'the cloud is at it',
  later: 'later',
  refused: 'not possible',
  'not-read': 'not read yet',
}
export const PEERING_WORDS: Record<PeeringState | 'none', string> = {
  none: 'not requested',
  requested: 'requested',
  pending: 'waits for an answer',
  accepted: 'accepted, being made',
  active: 'active',
  rejected: 'refused',
  expired: 'expired',
  deleting: 'being taken down',
  deleted: 'taken down',
}

export function useClouds({ designId, revision }: DesignSession) {
  const client = useQueryClient()
  const path = () => ({ path: { design_id: designId.value } })
  const clouds = useQuery({
    queryKey: ['clouds', designId, revision],
    queryFn: ({ signal }) => bodyOf(api.GET('/api/designs/{design_id}/clouds', { params: path(), signal })),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    retry,
  })
  const accounts = useQuery({
    queryKey: ['cloud-accounts', designId, revision],
    queryFn: () => bodyOf(api.GET('/api/designs/{design_id}/clouds/accounts', { params: path() })),
    enabled: computed(() => revision.value !== undefined),
    placeholderData: keepPreviousData,
    retry,
  })
  /** What was read may be new, also where something was refused: it is looked at again in any case. */
  async function done(work: Promise<unknown>): Promise<void> {
    try {
      await work
    } finally {
      await Promise.all([
        client.invalidateQueries({ queryKey: ['clouds', designId.value] }),
        client.invalidateQueries({ queryKey: ['cloud-accounts', designId.value] }),
      ])
    }
  }
  const read = (names: string[] = []) =>
    done(
      bodyOf(
        api.POST('/api/designs/{design_id}/clouds/readings', { params: path(), body: { accounts: names } }),
      ),
    )
  const take = (key: string) =>
    done(bodyOf(api.POST('/api/designs/{design_id}/clouds/steps', { params: path(), body: { key } })))
  const keep = (way: NewCloudAccount) =>
    done(bodyOf(api.PUT('/api/designs/{design_id}/clouds/access', { params: path(), body: way })))
  const forget = (account: string) =>
    done(api.DELETE('/api/designs/{design_id}/clouds/access', { params: { ...path(), query: { account } } }))
  const shownBy = async (address: string): Promise<string> =>
    (await bodyOf(api.POST('/api/designs/{design_id}/clouds/shown', { params: path(), body: { address } })))
      .fingerprint
  return { clouds, accounts, read, take, keep, forget, shownBy }
}
export type CloudActs = ReturnType<typeof useClouds>
