/** Links for partners: listed with what came back, made, and ended. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, bodyOf } from '@/api/client'
import type { components } from '@/api/schema'
import type { DesignSession } from '@/design/useDesignSession'

export type PartnerLink = components['schemas']['LinkShown']

const POLL_MS = 5000 // an answer shows after this at the latest

export function usePartnerLinks({ designId }: DesignSession) {
  const client = useQueryClient()
  const { data } = useQuery({
    queryKey: ['partner-links', designId],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/partner-links', {
          params: { path: { design_id: designId.value } },
        }),
      ),
    refetchInterval: POLL_MS,
  })
  const refresh = () => client.invalidateQueries({ queryKey: ['partner-links', designId.value] })
  return { data, refresh }
}

export function makeLink(designId: string, tunnelId: string, side: 'left' | 'right', days: number) {
  return bodyOf(
    api.POST('/api/designs/{design_id}/partner-links', {
      params: { path: { design_id: designId } },
      body: { tunnel_id: tunnelId, side, days },
    }),
  )
}

export async function endLink(designId: string, linkId: string): Promise<void> {
  await api.DELETE('/api/designs/{design_id}/partner-links/{link_id}', {
    params: { path: { design_id: designId, link_id: linkId } },
  })
}
