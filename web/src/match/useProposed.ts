/** Values for a field of an end that follow from the rest of the design. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Side } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

export function useProposed(tunnelId: () => string, side: () => Side, field: () => string, enabled: boolean) {
  const { designId, revision } = useOpenDesign()
  const { data } = useQuery({
    enabled,
    queryKey: ['proposed', designId, tunnelId, revision],
    queryFn: ({ signal }) =>
      bodyOf(
        api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/proposed', {
          params: { path: { design_id: designId.value, tunnel_id: tunnelId() } },
          signal,
        }),
      ),
  })
  const offers = computed(() =>
    (data.value ?? []).filter((candidate) => candidate.side === side() && candidate.field === field()),
  )
  return { offers }
}
