/** What the span chart shows, derived from the design and its analysis. */
import { computed, type Ref } from 'vue'
import type { Analysis, Design, Forecast, StageState } from '@/api/types'
import { PIER_SPACING, pierOrder, placePiers, rise, span, tie } from '@/geometry/spans'

const TOP = 20 // px above the highest crown, for its label
const PIER_HEIGHT = 16
const TITLE_Y = 34 // baselines of text below the baseline of the chart, px
const FIRST_NETWORK_Y = 54
const NETWORK_STEP = 16
const TIE_SHIFT = 5 // so that ties that pass one gap don't run into one line
const TIE_DEPTH = 20
const TEXT_REACH = 54 // half the width of a prefix as text, and a little more

const LOOK: Record<StageState, string> = {
  holds: 'whole',
  partial: 'hatched',
  'fails-later': 'hatched',
  fails: 'broken',
  unknown: 'dashed',
  behind: 'broken',
}
type Network = Design['networks'][number]
const byPrefix = (a: Network, b: Network) => a.prefix.localeCompare(b.prefix, 'en', { numeric: true })
const STATE: Record<string, string> = {
  whole: 'comes up',
  hatched: 'comes up, not for all or not for long',
  broken: 'stays down',
  dashed: 'not known yet',
}

const MOST_NETWORKS = 4 // of a site; more are counted

/** The chart of some sites, and of the tunnels between them. */
export function useSpanChart(
  design: Ref<Design>,
  analysis: Ref<Analysis | undefined>,
  widthPx: Ref<number>,
  shown: Ref<ReadonlySet<string>>,
) {
  const sites = computed(() => design.value.sites.filter((site) => shown.value.has(site.id)))
  const siteOfGateway = computed(
    () => new Map(design.value.gateways.map((gateway) => [gateway.id, gateway.site_id])),
  )
  const tunnels = computed(() =>
    design.value.tunnels.filter(({ left, right }) =>
      [left, right].every((end) => shown.value.has(siteOfGateway.value.get(end.gateway_id) ?? '')),
    ),
  )
  const joined = computed(() =>
    tunnels.value.map(
      (tunnel) =>
        [
          siteOfGateway.value.get(tunnel.left.gateway_id) ?? '',
          siteOfGateway.value.get(tunnel.right.gateway_id) ?? '',
        ] as const,
    ),
  )
  const layout = computed(() =>
    placePiers(
      pierOrder(
        sites.value.map((site) => site.id),
        joined.value,
      ),
      widthPx.value,
    ),
  )
  const xOf = computed(() => new Map(layout.value.piers.map((pier) => [pier.id, pier.x])))
  const spacing = computed(() => layout.value.widthPx / Math.max(sites.value.length, 1) || PIER_SPACING)
  const rises = computed(() => {
    const between = new Map<string, number>() // how many tunnels join two sites, so far
    return joined.value.map((pair) => {
      const key = [...pair].sort().join()
      const below = between.get(key) ?? 0
      between.set(key, below + 1)
      return rise(xOf.value.get(pair[0]) ?? 0, xOf.value.get(pair[1]) ?? 0, spacing.value, below)
    })
  })
  const baselineY = computed(() => TOP + Math.max(60, ...rises.value) + PIER_HEIGHT)
  const forecasts = computed(
    () => new Map((analysis.value?.forecasts ?? []).map((forecast) => [forecast.tunnel_id, forecast])),
  )
  const arcs = computed(() =>
    tunnels.value.map((tunnel, at) => {
      const [from, to] = joined.value[at] ?? ['', '']
      const forecast: Forecast | undefined = forecasts.value.get(tunnel.id)
      const look = forecast ? LOOK[forecast.state] : 'dashed'
      const drawn = span(
        xOf.value.get(from) ?? 0,
        xOf.value.get(to) ?? 0,
        baselineY.value - PIER_HEIGHT,
        rises.value[at] ?? 0,
        look === 'broken',
      )
      return { tunnel, look, state: STATE[look] ?? '', sentence: forecast?.sentence ?? '', ...drawn }
    }),
  )
  const meeting = computed(() => (analysis.value?.overlaps ?? []).filter((pair) => pair.joined))
  const collided = computed(() => new Set(meeting.value.flatMap((pair) => [pair.outer_id, pair.inner_id])))
  const piers = computed(() =>
    layout.value.piers.map((pier) => {
      const site = design.value.sites.find((candidate) => candidate.id === pier.id)
      const all = design.value.networks
        .filter((network) => network.site_id === pier.id)
        .sort((a, b) => Number(collided.value.has(b.id)) - Number(collided.value.has(a.id)) || byPrefix(a, b))
      const networks = all.slice(0, MOST_NETWORKS).map((network, at) => ({
        ...network,
        y: baselineY.value + FIRST_NETWORK_Y + at * NETWORK_STEP,
        collides: collided.value.has(network.id),
      }))
      const more = all.length - networks.length
      const moreY = baselineY.value + FIRST_NETWORK_Y + networks.length * NETWORK_STEP
      return { ...pier, name: site?.name ?? pier.id, kind: site?.kind ?? 'office', networks, more, moreY }
    }),
  )
  const deepest = computed(() =>
    Math.max(1, ...piers.value.map((pier) => pier.networks.length + (pier.more ? 1 : 0))),
  )
  const tieTop = computed(() => baselineY.value + FIRST_NETWORK_Y + deepest.value * NETWORK_STEP)
  const ties = computed(() => {
    const place = new Map(
      piers.value.flatMap((pier) =>
        pier.networks.map((network) => [network.id, { x: pier.x, network }] as const),
      ),
    )
    const drawn = meeting.value.filter((pair) => place.has(pair.outer_id) && place.has(pair.inner_id))
    return drawn.flatMap((pair, at) => {
      const outer = place.get(pair.outer_id)
      const inner = place.get(pair.inner_id)
      if (!outer || !inner) return []
      const depthY = tieTop.value + at * TIE_DEPTH + 12
      return [
        {
          key: pair.outer_id + pair.inner_id,
          path: tie(
            outer.x,
            outer.network.y - 4,
            inner.x,
            inner.network.y - 4,
            depthY,
            TEXT_REACH - at * TIE_SHIFT,
          ),
          x: (outer.x + inner.x) / 2,
          y: depthY - 4,
          text: `${outer.network.prefix} ${pair.overlap === 'identical' ? 'is at both' : `contains ${inner.network.prefix}`}`,
        },
      ]
    })
  })
  const heightPx = computed(() => tieTop.value + ties.value.length * TIE_DEPTH + 4)
  return {
    arcs,
    piers,
    ties,
    baselineY,
    heightPx,
    widthPx: computed(() => layout.value.widthPx),
    pierHeight: PIER_HEIGHT,
    titleY: TITLE_Y,
  }
}
