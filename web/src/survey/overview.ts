/** The tunnels of an estate in groups: by the hub that they hang on, by region, or by the stage that they get to. */
import type { Analysis, Design, Forecast, Stage, Tunnel } from '@/api/types'

export type Grouping = 'hub' | 'region' | 'stage'
export const GROUPINGS: readonly { value: Grouping; label: string }[] = [
  { value: 'hub', label: 'by hub' },
  { value: 'region', label: 'by region' },
  { value: 'stage', label: 'by stage' },
]

export interface OverviewTunnel {
  tunnel: Tunnel
  forecast: Forecast | undefined
  sites: string
}
export interface OverviewGroup {
  title: string
  tunnels: OverviewTunnel[]
  sound: number // how many of them come up and stay
}

const WELL = 'come up and stay'

/** The groups, those with the most troubles first; a tunnel stands in one of them. */
export function overviewOf(
  design: Design,
  analysis: Analysis | undefined,
  grouping: Grouping,
  sought: string,
): OverviewGroup[] {
  const siteOf = new Map(design.gateways.map((gateway) => [gateway.id, gateway.site_id]))
  const sites = new Map(design.sites.map((site) => [site.id, site]))
  const forecasts = new Map((analysis?.forecasts ?? []).map((forecast) => [forecast.tunnel_id, forecast]))
  const ends = (tunnel: Tunnel) => [tunnel.left, tunnel.right].map((end) => siteOf.get(end.gateway_id) ?? '')
  const degree = new Map<string, number>()
  for (const id of design.tunnels.flatMap(ends)) degree.set(id, (degree.get(id) ?? 0) + 1)
  const hubOf = (tunnel: Tunnel) =>
    ends(tunnel).sort((a, b) => (degree.get(b) ?? 0) - (degree.get(a) ?? 0) || a.localeCompare(b))[0] ?? ''
  const titles: Record<Grouping, (tunnel: Tunnel) => string> = {
    hub: (tunnel) => sites.get(hubOf(tunnel))?.name ?? 'no site',
    region: (tunnel) => sites.get(hubOf(tunnel))?.region || 'no region',
    stage: (tunnel) => stageTitle(forecasts.get(tunnel.id)),
  }
  const wanted = sought.trim().toLowerCase()
  const groups = new Map<string, OverviewGroup>()
  for (const tunnel of design.tunnels) {
    const between = ends(tunnel).map((id) => sites.get(id)?.name ?? id)
    const text = [tunnel.name, ...between].join(' ').toLowerCase()
    if (!text.includes(wanted)) continue
    const title = titles[grouping](tunnel)
    const group = groups.get(title) ?? { title, tunnels: [], sound: 0 }
    const forecast = forecasts.get(tunnel.id)
    group.tunnels.push({ tunnel, forecast, sites: between.join(' – ') })
    if (forecast?.state === 'holds') group.sound += 1
    groups.set(title, group)
  }
  const troubles = (group: OverviewGroup) => group.tunnels.length - group.sound
  return [...groups.values()].sort((a, b) => troubles(b) - troubles(a) || a.title.localeCompare(b.title))
}

/** The first stage that doesn't hold, as a heading. */
function stageTitle(forecast: Forecast | undefined): string {
  const stage: Stage | undefined = forecast?.stages.find((candidate) => candidate.state !== 'holds')?.stage
  return stage ? `stop or are in doubt at ${stage}` : forecast ? WELL : 'not examined yet'
}
