/** Which sites the span chart shows: one in focus, and as many of those it is joined to as there is room for. */
import { computed, ref, watch, type Ref } from 'vue'
import type { Analysis, Design } from '@/api/types'
import { PIER_SPACING } from '@/geometry/spans'

const FEWEST = 3 // piers, however narrow it is

export function useNeighbourhood(
  design: Ref<Design>,
  analysis: Ref<Analysis | undefined>,
  asked: Ref<string>, // id of the site that the address names
  roomPx: Ref<number>,
) {
  const siteOfGateway = computed(
    () => new Map(design.value.gateways.map((gateway) => [gateway.id, gateway.site_id])),
  )
  const troubled = computed(
    () =>
      new Set(
        (analysis.value?.forecasts ?? []).flatMap((forecast) =>
          forecast.state === 'holds' ? [] : forecast.tunnel_id,
        ),
      ),
  )
  /** For each site, those that it is joined to, with whether one of the tunnels between has troubles. */
  const joinedTo = computed(() => {
    const found = new Map<string, Map<string, boolean>>(
      design.value.sites.map((site) => [site.id, new Map()]),
    )
    for (const { id, left, right } of design.value.tunnels) {
      const [here = '', there = ''] = [left, right].map((end) => siteOfGateway.value.get(end.gateway_id))
      const hasTrouble = troubled.value.has(id)
      for (const [from, to] of [
        [here, there],
        [there, here],
      ] as const)
        if (from !== to) found.get(from)?.set(to, found.get(from)?.get(to) || hasTrouble)
    }
    return found
  })
  const hub = computed(() => {
    const sites = design.value.sites.map((site) => site.id)
    return (
      sites.sort((a, b) => (joinedTo.value.get(b)?.size ?? 0) - (joinedTo.value.get(a)?.size ?? 0))[0] ?? ''
    )
  })
  const focus = computed(() => (joinedTo.value.has(asked.value) ? asked.value : hub.value))
  /** What the site in focus is joined to, what has troubles first; then sites that nothing joins, if it is none of them. */
  const neighbours = computed(() => {
    const all = [...(joinedTo.value.get(focus.value) ?? [])]
    return all.sort(([, a], [, b]) => Number(b) - Number(a)).map(([id]) => id)
  })
  const capacity = computed(() => Math.max(Math.floor(roomPx.value / PIER_SPACING), FEWEST) - 1)
  const page = ref(0)
  watch(focus, () => (page.value = 0))
  const pages = computed(() => Math.max(Math.ceil(neighbours.value.length / capacity.value), 1))
  const first = computed(() => Math.min(page.value, pages.value - 1) * capacity.value)
  const shownNeighbours = computed(() => neighbours.value.slice(first.value, first.value + capacity.value))
  /** Where there is room left, sites that are joined to none of those that are shown: a small design is shown whole. */
  const others = computed(() => {
    const near = new Set([focus.value, ...neighbours.value])
    const far = design.value.sites.map((site) => site.id).filter((id) => !near.has(id))
    return far.slice(0, capacity.value - shownNeighbours.value.length)
  })
  const shown = computed(() => new Set([focus.value, ...shownNeighbours.value, ...others.value]))
  const hidden = computed(() => design.value.sites.length - shown.value.size)
  const next = () => (page.value = (page.value + 1) % pages.value)
  return { focus, shown, hidden, pages, page, neighbours, next }
}
