/**
 * Blocks of addresses as numbers that can be drawn.
 *
 * IPv4 is counted in addresses. IPv6 is counted in blocks of 64 bits from the start of a root prefix, so that ordinary
 * numbers stay exact: nothing smaller than a /64 is a network of its own there (RFC 4291 section 2.5.1).
 */

export type Version = 4 | 6

/** What positions are counted from, and what one unit is. */
export interface Root {
  version: Version
  prefix: string
  start: bigint // its first address
  units: number // how many units it holds
}

/** A block as drawn: first unit within the root, and how many. */
export interface Extent {
  first: number
  size: number
}

const V6_UNIT_BITS = 64
export const UNIT_LENGTH: Record<Version, number> = { 4: 32, 6: V6_UNIT_BITS } // the longest prefix that is drawn whole

export function versionOf(text: string): Version {
  return text.includes(':') ? 6 : 4
}

/** The number of an address; it must be well written, as those of the server are. */
export function addressValue(text: string): bigint {
  if (versionOf(text) === 4) return v4Value(text)
  const [head = '', tail] = text.split('::')
  const before = groups(head)
  const after = tail === undefined ? [] : groups(tail)
  const all = [...before, ...Array<bigint>(8 - before.length - after.length).fill(0n), ...after]
  return all.reduce((value, group) => (value << 16n) | group, 0n)
}
function groups(text: string): bigint[] {
  return text ? text.split(':').map((group) => BigInt(`0x${group}`)) : []
}
function v4Value(text: string): bigint {
  return text.split('.').reduce((value, octet) => (value << 8n) | BigInt(octet), 0n)
}

/** Write a number as an address: dotted, or by RFC 5952. */
export function addressText(value: bigint, version: Version): string {
  if (version === 4) return [24n, 16n, 8n, 0n].map((shift) => String((value >> shift) & 255n)).join('.')
  const parts = Array.from({ length: 8 }, (_, at) =>
    ((value >> BigInt(112 - 16 * at)) & 0xffffn).toString(16),
  )
  const run = longestZeros(parts)
  if (!run) return parts.join(':')
  return `${parts.slice(0, run.at).join(':')}::${parts.slice(run.at + run.size).join(':')}`
}
function longestZeros(parts: string[]): { at: number; size: number } | null {
  let best: { at: number; size: number } | null = null
  let start = 0
  for (let at = 0; at <= parts.length; at += 1) {
    if (parts[at] === '0') continue
    if (at - start > Math.max(best?.size ?? 0, 1)) best = { at: start, size: at - start }
    start = at + 1
  }
  return best
}

/** A root for drawing what is inside a prefix. */
export function rootOf(prefix: string): Root {
  const [address = '', length = '0'] = prefix.split('/')
  const version = versionOf(prefix)
  return {
    version,
    prefix,
    start: addressValue(address),
    units: 2 ** Math.max(UNIT_LENGTH[version] - Number(length), 0),
  }
}

/** Where a prefix, or a range "first-last", lies within a root; null when it is of the other version or outside. */
export function extentIn(root: Root, text: string): Extent | null {
  if (versionOf(text) !== root.version) return null
  const [low = '', high] = text.split('-')
  const [address = '', length] = low.split('/')
  const first = unitOf(root, addressValue(address))
  let size: number
  if (high !== undefined) size = unitOf(root, addressValue(high)) - first + 1
  else size = 2 ** (UNIT_LENGTH[root.version] - Number(length ?? UNIT_LENGTH[root.version]))
  return first + size <= 0 || first >= root.units ? null : { first, size }
}
function unitOf(root: Root, value: bigint): number {
  const distance = value - root.start
  return root.version === 4 ? Number(distance) : Number(distance >> BigInt(128 - V6_UNIT_BITS))
}

/** The prefix that an aligned extent of a power of two stands for. */
export function prefixText(root: Root, extent: Extent): string {
  const value =
    root.start + (BigInt(Math.round(extent.first)) << BigInt(root.version === 4 ? 0 : 128 - V6_UNIT_BITS))
  return `${addressText(value, root.version)}/${UNIT_LENGTH[root.version] - Math.round(Math.log2(extent.size))}`
}

/** The largest aligned block that begins at or after `low`, ends before `high`, and is no larger than the way between. */
export function snapped(low: number, high: number, bounds: Extent): Extent | null {
  const from = Math.max(Math.floor(Math.min(low, high)), bounds.first)
  const until = Math.min(Math.floor(Math.max(low, high)) + 1, bounds.first + bounds.size)
  for (let size = 2 ** Math.floor(Math.log2(Math.max(until - from, 1))); size >= 1; size /= 2) {
    const first = Math.ceil(from / size) * size
    if (first + size <= until) return { first, size }
  }
  return null
}

/** The smallest aligned block around some extents. */
export function around(extents: readonly Extent[]): Extent | null {
  if (!extents.length) return null
  const first = Math.min(...extents.map((extent) => extent.first))
  const last = Math.max(...extents.map((extent) => extent.first + extent.size)) - 1
  let size = 1
  while (Math.floor(first / size) !== Math.floor(last / size)) size *= 2
  return { first: Math.floor(first / size) * size, size }
}
