/** The seam of a comparison: two half-discs whose shape says how the ends relate. All lengths in px. */
import type { Verdict } from '@/api/types'

export interface HalfDiscs {
  left: string // SVG paths
  right: string
  filled: boolean
  hatched: boolean
}

export const SEAM_WIDTH = 44
export const SEAM_HEIGHT = 20
const RADIUS = 9
const APART = 9 // from the middle to either half when they differ
const SMALL_RADIUS = 6
const NOTCH = 4

/** Half of a disc with its flat side on a vertical line at x; direction -1 bulges to the left, 1 to the right. */
function half(x: number, y: number, radius: number, direction: -1 | 1): string {
  const sweep = direction === 1 ? 1 : 0
  return `M${x},${y - radius}A${radius},${radius},0,0,${sweep},${x},${y + radius}Z`
}

/** Half of a disc whose flat side has a notch at the top. */
function notchedHalf(x: number, y: number, radius: number, direction: -1 | 1): string {
  const sweep = direction === 1 ? 1 : 0
  const startX = x + direction * NOTCH
  const startY = y - Math.sqrt(radius * radius - NOTCH * NOTCH)
  return `M${round(startX)},${round(startY)}A${radius},${radius},0,0,${sweep},${x},${y + radius}V${y - radius + NOTCH * 2}Z`
}

function round(value: number): number {
  return Math.round(value * 100) / 100
}

/** Return the two halves for a verdict. */
export function halfDiscs(verdict: Verdict): HalfDiscs {
  const x = SEAM_WIDTH / 2
  const y = SEAM_HEIGHT / 2
  const touching = {
    left: half(x, y, RADIUS, -1),
    right: half(x, y, RADIUS, 1),
    filled: true,
    hatched: false,
  }
  switch (verdict) {
    case 'agreed':
      return touching
    case 'negotiated':
      return { ...touching, left: notchedHalf(x, y, RADIUS, -1), right: notchedHalf(x, y, RADIUS, 1) }
    case 'narrowed':
      return { ...touching, right: half(x, y, SMALL_RADIUS, 1) }
    case 'differs':
      return { ...touching, left: half(x - APART, y, RADIUS, -1), right: half(x + APART, y, RADIUS, 1) }
    case 'differs-later':
      return { ...touching, hatched: true }
    case 'unknown':
      return { ...touching, filled: false }
  }
}
