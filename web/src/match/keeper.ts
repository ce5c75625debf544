/** Where the two ends that stand side by side are kept: in a tunnel of the design, or in a profile of people who dial in. */
import type { Design, Operation, Tunnel } from '@/api/types'

export interface EndsKeeper {
  now: (tunnel: Tunnel) => Tunnel // as it is kept now, whatever has become of the screen meanwhile
  put: (tunnel: Tunnel) => Operation
  keeps: (field: string) => boolean // other fields follow from something else, and aren't edited here
  hasOffers: boolean // whether values are proposed that follow from the rest of the design
}

/** The two ends as they stand, with the design around them. */
export interface ShownEnds {
  readonly design: Design
  readonly tunnel: Tunnel
}

export function tunnelKeeper(design: () => Design): EndsKeeper {
  return {
    now: (tunnel) => design().tunnels.find((candidate) => candidate.id === tunnel.id) ?? tunnel,
    put: (tunnel) => ({ op: 'put-tunnel', object: tunnel }),
    keeps: () => true,
    hasOffers: true,
  }
}
