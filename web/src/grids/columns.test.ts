import { describe, expect, it } from 'vitest'
import type { Design } from '@/api/types'
import { slug, freshId } from '@/design/ids'
import { cellText, cellValue, Misread } from './columns'
import { gridOf } from './grids'

const SITE = { id: 'ostvik', name: 'Ostvik Terminal', kind: 'office', organisation: '', place: '' }
const DESIGN = {
  sites: [SITE],
  networks: [],
  gateways: [],
  uplinks: [],
  tunnels: [],
} as unknown as Design

const columnOf = (members: string, field: string) =>
  gridOf(members)!.columns.find((column) => column.field === field)!

describe('typed cells', () => {
  const column = (field: string) => columnOf('uplinks', field)
  it('takes what is meant, and leaves the rest for the server to judge', () => {
    expect(cellValue(column('preference'), ' 2 ', DESIGN)).toBe(2)
    expect(cellValue(column('delay_ms'), '', DESIGN)).toBeNull()
    expect(cellValue(column('inbound_ike'), 'No', DESIGN)).toBe(false)
    expect(cellValue(column('address_kind'), 'Carrier NAT', DESIGN)).toBe('carrier-nat')
  })
})

describe('words that mean nothing', () => {
  it.each([
    ['uplinks', 'preference', 'two', "'two' is no number"],
    ['uplinks', 'inbound_ike', 'maybe', "'maybe' is neither yes nor no"],
    ['sites', 'kind', 'palace', "'palace' is none of: office, data centre, cloud, vehicle, home, partner"],
    ['networks', 'site_id', 'Elsewhere', "there is no site called 'Elsewhere'"],
    ['rules', 'paths', 'Moon', "there is no tunnel or uplink called 'Moon'"],
    ['rules', 'paths', 'Cable (latency 60)', "'latency' is no limit; there are: delay, jitter, loss"],
    ['rules', 'paths', 'Cable (delay fast)', "'fast' is no number"],
    ['intents', 'sources', 'Ostvik Terminal (delay 5)', "'delay' means nothing here"],
  ])('are refused, never dropped: %s %s %s', (members, field, text, reason) => {
    const tunnels = [{ id: 'c', name: 'Cable', left: { gateway_id: 'g' }, right: { gateway_id: 'h' } }]
    const design = { ...DESIGN, hosts: [], tunnels } as unknown as Design
    const read = () => cellValue(columnOf(members, field), text, design)
    expect(read).toThrow(Misread)
    expect(read).toThrow(reason)
  })
})

describe('ids', () => {
  it('are made of names', () => {
    expect(slug('Årdal – Works & Co.')).toBe('ardal-works-co')
    expect(freshId('Ostvik', new Set(['ostvik', 'ostvik-2']))).toBe('ostvik-3')
    expect(slug('港')).toBe('new')
  })
  it('keeps the limits of a rule’s paths, and suffixes with their resolvers', () => {
    const design = {
      ...DESIGN,
      hosts: [],
      tunnels: [
        { id: 'by-radio', name: 'Radio (old)', left: { gateway_id: 'g' }, right: { gateway_id: 'h' } },
        { id: 'by-cable', name: 'Cable', left: { gateway_id: 'g' }, right: { gateway_id: 'h' } },
      ],
    } as unknown as Parameters<typeof cellValue>[2]
    const paths = columnOf('rules', 'paths')
    const row = { gateway_id: 'g' }
    const value = [
      { type: 'tunnel', id: 'by-radio' },
      { type: 'tunnel', id: 'by-cable', most_delay_ms: 60, most_loss_percent: 2.5 },
    ]
    const written = cellText(paths, value, design, row)
    expect(written).toBe('Radio (old); Cable (delay 60, loss 2.5)')
    expect(cellValue(paths, written, design, row)).toEqual(value)
    const resolvers = columnOf('profiles', 'own_resolvers')
    const told = [{ suffix: 'booking.example', resolver: '10.80.0.53' }]
    expect(cellText(resolvers, told, design)).toBe('booking.example by 10.80.0.53')
    expect(cellValue(resolvers, 'booking.example by 10.80.0.53', design)).toEqual(told)
  })
})
