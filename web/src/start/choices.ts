/** What connecting begins with: the pattern and the hub that are likely meant. */
import type { Connect, Design } from '@/api/types'

export type Pattern = NonNullable<Connect['pattern']>

export const PATTERNS: { value: Pattern; label: string; says: string }[] = [
  { value: 'hub', label: 'Hub and branches', says: 'every other site with the hub' },
  { value: 'mesh', label: 'Full mesh', says: 'every site with every other' },
  { value: 'pairs', label: 'Pair by pair', says: 'the first with the second, the third with the fourth' },
  { value: 'chain', label: 'Chain', says: 'each site with the next' },
]

/** Two sites are a pair; more are branches of a hub. */
export function likelyPattern(sites: number): Pattern {
  return sites > 2 ? 'hub' : 'pairs'
}

/** The site that others can call: with a fixed address, and of those the one with most networks. */
export function likelyHub(design: Design): string {
  const networks = new Map<string, number>()
  for (const { site_id } of design.networks) networks.set(site_id, (networks.get(site_id) ?? 0) + 1)
  const siteOf = new Map(design.gateways.map((gateway) => [gateway.id, gateway.site_id]))
  const weight = new Map<string, number>()
  for (const uplink of design.uplinks) {
    const site = siteOf.get(uplink.gateway_id)
    if (!site || !uplink.inbound_ike || uplink.address_kind === 'carrier-nat') continue
    const found = uplink.address_kind === 'fixed-public' && uplink.address ? 2 : uplink.dns_name ? 1 : 0
    weight.set(site, Math.max(weight.get(site) ?? 0, found))
  }
  const rank = (id: string) => (weight.get(id) ?? -1) * 10_000 + (networks.get(id) ?? 0)
  return design.sites.reduce(
    (best, site) => (rank(site.id) > rank(best) ? site.id : best),
    design.sites[0]?.id ?? '',
  )
}

/** What asks for a tunnel like a site's own, from where that one leads to a new site; nothing where it has none. */
export function likeTunnel(
  design: Design,
  siteId: string,
  newSiteId: string,
): { like?: string; site?: string[] } {
  const siteOf = new Map(design.gateways.map((gateway) => [gateway.id, gateway.site_id]))
  for (const { id, left, right } of design.tunnels) {
    const ends = [left, right].map((end) => siteOf.get(end.gateway_id) ?? '')
    const far = ends.find((end) => end !== siteId)
    if (ends.includes(siteId) && far) return { like: id, site: [far, newSiteId] }
  }
  return {}
}
