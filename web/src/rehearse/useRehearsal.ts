/** A tunnel that is dialled in virtual time, fresh at every revision and for whatever is let happen. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, bodyOf, Refusal } from '@/api/client'
import type { DesignSession } from '@/design/useDesignSession'
import { severalOf } from './asked'

export interface Asked {
  fault: string[]
  step: string[]
  until: string
  seed: number
  plan: string // whose steps are walked; empty for none
}

/** What is asked, as it stands in the address, so that each rehearsal has a link. */
export function useAsked() {
  const route = useRoute()
  const router = useRouter()
  const asked = computed<Asked>(() => ({
    fault: severalOf(route.query.fault),
    step: severalOf(route.query.step),
    until: typeof route.query.until === 'string' ? route.query.until : '',
    seed: Number(route.query.seed) || 0,
    plan: typeof route.query.plan === 'string' ? route.query.plan : '',
  }))
  const at = computed(() => Number(route.query.at ?? -1))
  const show = computed({
    get: () => (typeof route.query.show === 'string' ? route.query.show : 'messages'),
    set: (panel) => set({ show: panel }),
  })
  function set(changed: Record<string, string | string[] | undefined>): void {
    void router.replace({ query: { ...route.query, ...changed } })
  }
  return { asked, at, show, set }
}

/** What was refused isn't asked again. */
export const retry = (count: number, error: Error) => !(error instanceof Refusal) && count < 2

export function useRehearsal(
  { designId, revision }: DesignSession,
  tunnelId: Ref<string>,
  asked: Ref<Asked>,
) {
  return useQuery({
    queryKey: ['rehearsal', designId, tunnelId, revision, asked],
    queryFn: ({ signal }) => rehearsed(designId.value, tunnelId.value, asked.value, signal),
    enabled: computed(() => revision.value !== undefined && tunnelId.value !== ''),
    shallow: true,
    retry,
  })
}

/** Rehearse one tunnel. */
export function rehearsed(designId: string, tunnelId: string, asked: Asked, signal: AbortSignal) {
  return bodyOf(
    api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/rehearsal', {
      params: { path: { design_id: designId, tunnel_id: tunnelId }, query: asked },
      signal,
    }),
  )
}

/** Fetch what went over the wire, and keep it as two files. */
export async function saveCapture(designId: string, tunnelId: string, asked: Asked): Promise<void> {
  const files = await bodyOf(
    api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/rehearsal/capture', {
      params: { path: { design_id: designId, tunnel_id: tunnelId }, query: asked },
    }),
  )
  const octets = Uint8Array.from(atob(files.pcapng), (letter) => letter.charCodeAt(0))
  keep(new Blob([octets]), `${tunnelId}.pcapng`)
  keep(new Blob([JSON.stringify(files.keys, null, 1)]), `${tunnelId}-session-keys.json`)
}

function keep(file: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
