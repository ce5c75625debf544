/** The span chart: sites as piers on one baseline, tunnels as arcs above, collisions as ties below. Lengths in px. */
import { scalePoint } from 'd3-scale'

export interface Pier {
  id: string
  x: number
}

export interface Span {
  leftHalf: string // SVG path from the left pier to the crown
  rightHalf: string // from the crown to the right pier
  crown: { x: number; y: number }
}

export const PIER_SPACING = 124
const CROWN_GAP = 13 // from the middle to either half of a broken span
const CROWN_DROP = 7 // how far the halves of a broken span hang down
const RISE_PER_PIER = 46
const LOWEST_RISE = 44
const RISE_PER_TWIN = 22
const CORNER = 8 // radius of the corners of a tie

/**
 * Order sites so that arcs stay short: the site with the most tunnels in the middle of its partners, sites without
 * tunnels last.
 */
export function pierOrder(
  sites: readonly string[],
  tunnels: readonly (readonly [string, string])[],
): string[] {
  const degree = new Map(sites.map((site) => [site, 0]))
  for (const pair of tunnels) for (const site of pair) degree.set(site, (degree.get(site) ?? 0) + 1)
  const ranked = [...sites].sort((a, b) => (degree.get(b) ?? 0) - (degree.get(a) ?? 0))
  const joined = ranked.filter((site) => (degree.get(site) ?? 0) > 0)
  const placed: string[] = []
  joined.forEach((site, rank) => (rank % 2 ? placed.push(site) : placed.unshift(site)))
  return [...placed, ...ranked.filter((site) => !degree.get(site))]
}

/** Place piers evenly; returns the width that they need, too. */
export function placePiers(order: readonly string[], widthPx: number): { piers: Pier[]; widthPx: number } {
  const needed = Math.max(widthPx, order.length * PIER_SPACING)
  const scale = scalePoint(order, [0, needed]).padding(0.5)
  return { piers: order.map((id) => ({ id, x: Math.round(scale(id) ?? 0) })), widthPx: needed }
}

/** How high the crown of an arc stands above the baseline: higher over more piers, and over others between the same two. */
export function rise(from: number, to: number, spacingPx: number, below = 0): number {
  return LOWEST_RISE + (Math.abs(to - from) / spacingPx - 1) * RISE_PER_PIER + below * RISE_PER_TWIN
}

/** The two halves of an arc from one pier to another. Broken, they part at the crown and hang. */
export function span(fromX: number, toX: number, baselineY: number, risePx: number, broken: boolean): Span {
  const [left, right] = fromX < toX ? [fromX, toX] : [toX, fromX]
  const middle = (left + right) / 2
  const crownY = baselineY - risePx
  const gap = broken ? CROWN_GAP : 0
  const endY = crownY + (broken ? CROWN_DROP : 0)
  const quarter = (middle - left) * 0.55
  const leftHalf = `M${left},${baselineY}C${left},${baselineY - risePx * 0.75},${round(middle - quarter)},${crownY},${middle - gap},${endY}`
  const rightHalf = `M${middle + gap},${endY}C${round(middle + quarter)},${crownY},${right},${baselineY - risePx * 0.75},${right},${baselineY}`
  return { leftHalf, rightHalf, crown: { x: middle, y: crownY } }
}

/**
 * A tie between two texts that lie on lines at fromY and toY: out at the side of each text, down, and across at depthY.
 * `reach` is how far the texts extend from their middles.
 */
export function tie(
  fromX: number,
  fromY: number,
  toX: number,
  toY: number,
  depthY: number,
  reach: number,
): string {
  const side = toX >= fromX ? 1 : -1
  const [startX, endX] = [fromX + side * reach, toX - side * reach]
  const [downX, upX] = [startX + side * CORNER, endX - side * CORNER]
  return (
    `M${startX},${fromY}H${startX + side * 2}Q${downX},${fromY},${downX},${fromY + CORNER}` +
    `V${depthY - CORNER}Q${downX},${depthY},${downX + side * CORNER},${depthY}` +
    `H${upX - side * CORNER}Q${upX},${depthY},${upX},${depthY - CORNER}` +
    `V${toY + CORNER}Q${upX},${toY},${endX - side * 2},${toY}H${endX}`
  )
}

function round(value: number): number {
  return Math.round(value * 10) / 10
}
