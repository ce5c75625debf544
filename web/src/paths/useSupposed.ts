/** What is supposed of the links (down, slow) and asked (traffic, a flow): all of it stands in the address of the view. */
import { computed } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'

export interface Slow {
  id: string
  delay: number | null
  jitter: number | null
  loss: number | null
  used: number | null // Mbit/s that others take of an uplink
}
export interface Supposed {
  down: string[]
  slow: string[]
  all_up: boolean
}
const MEASURES = ['delay', 'jitter', 'loss', 'used'] as const

function several(query: LocationQuery, key: string): string[] {
  const value = query[key]
  return (Array.isArray(value) ? value : [value]).filter((candidate): candidate is string =>
    Boolean(candidate),
  )
}
export function readSlow(text: string): Slow {
  const [id = '', rest = ''] = text.split(':', 2)
  const found: Slow = { id, delay: null, jitter: null, loss: null, used: null }
  for (const part of rest.split(',')) {
    const [name, value] = part.split('=')
    const measure = MEASURES.find((candidate) => candidate === name)
    if (measure && value) found[measure] = Number(value)
  }
  return found
}
export function writeSlow(slow: Slow): string {
  const parts = MEASURES.flatMap((measure) => (slow[measure] === null ? [] : [`${measure}=${slow[measure]}`]))
  return parts.length ? `${slow.id}:${parts.join(',')}` : ''
}

export function useSupposed() {
  const route = useRoute()
  const router = useRouter()
  const text = (key: string) => String(several(route.query, key)[0] ?? '')
  const down = computed(() => several(route.query, 'down'))
  const slow = computed(() => several(route.query, 'slow'))
  const allUp = computed(() => route.query.up === '1')
  const service = computed(() => text('service') || 'any')
  const dscp = computed(() => text('class') || 'DF')
  const asked = text // any other parameter of the address
  const asks = (key: string) => several(route.query, key)
  const from = computed(() => text('from'))
  const to = computed(() => text('to'))
  /** The parameters that every question about paths takes. */
  const supposed = computed<Supposed>((before) => {
    const now = { down: down.value, slow: slow.value, all_up: allUp.value }
    return JSON.stringify(before) === JSON.stringify(now) ? before! : now // the same, while the address changes otherwise
  })

  function set(changed: Record<string, string | string[] | undefined>): void {
    const query = { ...route.query, ...changed }
    for (const [key, value] of Object.entries(query))
      if (value === undefined || value === '' || (Array.isArray(value) && !value.length)) delete query[key]
    void router.replace({ query, params: route.params })
  }
  function toggleDown(id: string): void {
    const now = down.value
    set({ down: now.includes(id) ? now.filter((candidate) => candidate !== id) : [...now, id] })
  }
  function setSlow(changed: Slow): void {
    const others = slow.value.filter((candidate) => readSlow(candidate).id !== changed.id)
    set({ slow: [...others, writeSlow(changed)].filter(Boolean) })
  }
  return { asked, asks, down, slow, allUp, service, dscp, from, to, supposed, set, toggleDown, setSlow }
}
