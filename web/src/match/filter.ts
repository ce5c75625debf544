/** Which tunnels of a long list are shown. */
import type { Analysis, Design, Forecast, Severity, Stage, Tunnel } from '@/api/types'

export interface TunnelFilter {
  text: string
  stage: Stage | ''
  severity: Severity | ''
  siteId: string
}

export interface ListedTunnel {
  tunnel: Tunnel
  forecast: Forecast | undefined
}

export const STAGES: readonly Stage[] = ['reach', 'init', 'auth', 'child', 'traffic', 'rekey', 'restart']
export const NO_FILTER: TunnelFilter = { text: '', stage: '', severity: '', siteId: '' }

/** The tunnels that pass: whose name holds the text, that are troubled at the stage, and so on. */
export function filtered(
  design: Design,
  analysis: Analysis | undefined,
  filter: TunnelFilter,
): ListedTunnel[] {
  const forecasts = new Map((analysis?.forecasts ?? []).map((forecast) => [forecast.tunnel_id, forecast]))
  const severe = new Set(
    (analysis?.findings ?? [])
      .filter((finding) => finding.severity === filter.severity)
      .flatMap((finding) => finding.where.map((place) => place.id)),
  )
  const gateways = new Set(
    design.gateways.filter((gateway) => gateway.site_id === filter.siteId).map((gateway) => gateway.id),
  )
  const wanted = filter.text.trim().toLowerCase()
  return design.tunnels
    .map((tunnel) => ({ tunnel, forecast: forecasts.get(tunnel.id) }))
    .filter(
      ({ tunnel, forecast }) =>
        (!wanted || tunnel.name.toLowerCase().includes(wanted)) &&
        (!filter.stage || isTroubledAt(forecast, filter.stage)) &&
        (!filter.severity || severe.has(tunnel.id)) &&
        (!filter.siteId || gateways.has(tunnel.left.gateway_id) || gateways.has(tunnel.right.gateway_id)),
    )
}

function isTroubledAt(forecast: Forecast | undefined, stage: Stage): boolean {
  const state = forecast?.stages.find((candidate) => candidate.stage === stage)?.state
  return state !== undefined && state !== 'holds' && state !== 'behind'
}
