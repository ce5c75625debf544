/** What stands on the rulers: one lane a site, and what collides or is free across them. */
import type { Analysis, Design, Usage } from '@/api/types'
import { extentIn, type Extent, type Root } from './blocks'

export type BlockKind = 'network' | 'reserved' | 'shown' // shown: what a translation leads to

export interface Block extends Extent {
  kind: BlockKind
  id: string
  name: string
  text: string // the prefix
  zone: string
  collides: boolean
  depth: number // 0 for what stands alone, 1 for what lies within another of its lane …
}

export interface Lane {
  siteId: string
  name: string
  blocks: Block[] // by first unit, the larger before those inside it
}

export interface Column extends Extent {
  key: string
  words: string
  lanes: [string, string] // ids of the two sites
}

/** One lane a site, in the order of the lowest address each has; sites without any come last. */
export function lanesOf(design: Design, analysis: Analysis | undefined, root: Root): Lane[] {
  const colliding = new Set(
    (analysis?.overlaps ?? [])
      .filter((pair) => pair.joined)
      .flatMap((pair) => [pair.outer_id, pair.inner_id]),
  )
  const lanes = new Map<string, Lane>(
    design.sites.map((site) => [site.id, { siteId: site.id, name: site.name, blocks: [] }]),
  )
  const add = (
    siteId: string | undefined,
    kind: BlockKind,
    item: { id: string; name: string; zone?: string },
    text: string,
  ) => {
    const extent = extentIn(root, text)
    if (!extent || !siteId) return
    const { id, name, zone = '' } = item
    lanes.get(siteId)?.blocks.push({
      ...extent,
      kind,
      id,
      name,
      text,
      zone,
      collides: kind === 'network' && colliding.has(id),
      depth: 0,
    })
  }
  for (const network of design.networks) add(network.site_id, 'network', network, network.prefix)
  for (const kept of design.prefix_reservations) add(kept.site_id, 'reserved', kept, kept.prefix)
  const siteOf = new Map(design.gateways.map((gateway) => [gateway.id, gateway.site_id]))
  for (const translation of design.translations)
    add(siteOf.get(translation.gateway_id), 'shown', translation, translation.outside)
  for (const lane of lanes.values()) {
    lane.blocks.sort((a, b) => a.first - b.first || b.size - a.size)
    nest(lane.blocks)
  }
  const first = (lane: Lane) => lane.blocks[0]?.first ?? Infinity
  return [...lanes.values()].sort((a, b) => first(a) - first(b) || a.name.localeCompare(b.name))
}

/** Say of each block how many others of its lane hold it. */
function nest(blocks: Block[]): void {
  const open: Block[] = []
  for (const block of blocks) {
    while (open.length && !holds(open.at(-1)!, block)) open.pop()
    block.depth = open.length
    open.push(block)
  }
}
function holds(outer: Extent, inner: Extent): boolean {
  return outer.first <= inner.first && inner.first + inner.size <= outer.first + outer.size
}

/** What collides, as columns through the lanes of both sites. */
export function columnsOf(design: Design, analysis: Analysis | undefined, root: Root): Column[] {
  const networks = new Map(design.networks.map((network) => [network.id, network]))
  const sites = new Map(design.sites.map((site) => [site.id, site.name]))
  const found = (analysis?.overlaps ?? []).flatMap((pair) => {
    const [outer, inner] = [networks.get(pair.outer_id), networks.get(pair.inner_id)]
    const extent = inner && extentIn(root, inner.prefix)
    if (!pair.joined || !outer || !inner || !extent) return []
    const verb = pair.overlap === 'identical' ? 'is also' : 'contains'
    const words = `${sites.get(outer.site_id)}: ${outer.name} ${outer.prefix} ${verb} ${sites.get(inner.site_id)}: ${inner.name} ${inner.prefix}`
    return [
      {
        ...extent,
        key: outer.id + inner.id,
        words,
        lanes: [outer.site_id, inner.site_id] as [string, string],
      },
    ]
  })
  return found.sort((a, b) => a.first - b.first)
}

/** What is free inside the supernets. */
export function gapsOf(usage: Usage | undefined, root: Root): (Extent & { text: string })[] {
  return (usage?.free ?? []).flatMap((text) => {
    const extent = extentIn(root, text)
    return extent ? [{ ...extent, text }] : []
  })
}

/** Blocks of a sorted lane that reach into a window. */
export function inWindow<T extends Extent>(blocks: readonly T[], window: Extent): T[] {
  const until = window.first + window.size
  const found: T[] = []
  for (const block of blocks) {
    if (block.first >= until) break
    if (block.first + block.size > window.first) found.push(block)
  }
  return found
}
