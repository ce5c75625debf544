/** The comparison of the two ends of one tunnel, fresh at every revision. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { DesignSession } from '@/design/useDesignSession'

export function useMatch(session: DesignSession, tunnelId: Ref<string>) {
  const { designId, revision, design, analysis } = session
  const tunnel = computed(() => design.value?.tunnels.find((candidate) => candidate.id === tunnelId.value))
  const { data } = useQuery({
    queryKey: ['match', designId, tunnelId, revision],
    queryFn: () =>
      bodyOf(
        api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/match', {
          params: { path: { design_id: designId.value, tunnel_id: tunnelId.value } },
        }),
      ),
    enabled: computed(() => tunnel.value !== undefined),
    placeholderData: keepPreviousData,
    shallow: true, // its rows are replaced as a whole
  })
  const match = computed(() => (data.value?.tunnel_id === tunnelId.value ? data.value : undefined))
  const forecast = computed(() =>
    analysis.value?.forecasts.find((candidate) => candidate.tunnel_id === tunnelId.value),
  )
  return { tunnel, match, forecast }
}
