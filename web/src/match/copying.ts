/** Taking a value over from the other end: which rows allow it, and what it makes of the tunnel. */
import type { Proposal, Row, Side, Tunnel } from '@/api/types'
import type { EndField } from './fields'

export const otherSide = (side: Side): Side => (side === 'left' ? 'right' : 'left')

function valueOf(tunnel: Tunnel, row: Row, side: Side): unknown {
  return tunnel[side][row[side].field as EndField]
}

export function isSame(tunnel: Tunnel, row: Row): boolean {
  return JSON.stringify(valueOf(tunnel, row, 'left')) === JSON.stringify(valueOf(tunnel, row, 'right'))
}

/** The tunnel with a row's field of one side set. */
export function withValue(tunnel: Tunnel, row: Row, side: Side, value: unknown): Tunnel {
  return { ...tunnel, [side]: { ...tunnel[side], [row[side].field]: value } }
}

/** The tunnel with one side made like the other, in each of some rows. */
export function madeLike(tunnel: Tunnel, rows: readonly Row[], side: Side): Tunnel {
  return rows.reduce((made, row) => withValue(made, row, side, valueOf(tunnel, row, otherSide(side))), tunnel)
}

/** The tunnel with all proposals of both ends offered at both, each end's own first. */
export function withBothOffered(tunnel: Tunnel, row: Row): Tunnel {
  const [left, right] = (['left', 'right'] as const).map((side) => valueOf(tunnel, row, side) as Proposal[])
  const together = (own: Proposal[], others: Proposal[]) => {
    const known = new Set(own.map((proposal) => JSON.stringify(proposal)))
    return [...own, ...others.filter((other) => !known.has(JSON.stringify(other)))]
  }
  const ends = { left: together(left ?? [], right ?? []), right: together(right ?? [], left ?? []) }
  return withValue(withValue(tunnel, row, 'left', ends.left), row, 'right', ends.right)
}
