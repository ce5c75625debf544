import { describe, expect, it } from 'vitest'
import type { Design } from '@/api/types'
import { slug, freshId } from '@/design/ids'
import { cellText, cellValue } from './columns'
import { GRIDS } from './grids'
import { MOST_ROWS, readPaste } from './paste'

const SITE = { id: 'ostvik', name: 'Ostvik Terminal', kind: 'office', organisation: '', place: '' }
const NETWORK = {
  id: 'ostvik-cameras',
  site_id: 'ostvik',
  name: 'cameras',
  prefix: '10.65.4.0/23',
  role: 'server',
  vlan: 40,
  gateway_address: null,
  zone: '',
}
const DESIGN = {
  sites: [SITE],
  networks: [NETWORK],
  gateways: [],
  uplinks: [],
  tunnels: [],
} as unknown as Design

describe('pasted rows', () => {
  it('says what each row becomes', () => {
    const text = [
      'Site\tNetwork\tPrefix',
      'ostvik terminal\tkiosks\t10.65.8.0/24',
      'Ostvik Terminal\tcameras\t10.65.4.0/23',
      'Ostvik Terminal\tCameras\t10.65.6.0/23',
      'Dry Dock\tyard\t10.72.0.0/24',
      'Dry Dock\toffice',
    ].join('\n')
    const paste = readPaste(text, GRIDS.networks, DESIGN)
    expect(paste.rows.map((row) => row.outcome)).toEqual(['new', 'same', 'changes', 'new', 'wrong'])
    expect(paste.rows.at(-1)?.detail).toBe('still needs: Prefix')
    expect(paste.newSites).toEqual(['Dry Dock'])
    expect(paste.operations.map((one) => one.op)).toEqual([
      'put-network',
      'put-network',
      'put-site',
      'put-network',
    ])
    expect(paste.operations[1]).toMatchObject({
      object: { id: 'ostvik-cameras', prefix: '10.65.6.0/23', vlan: 40 },
    })
  })
  it('reads commas and quotes as well as tabs', () => {
    const paste = readPaste('"Ostvik Terminal", "kiosks, new", 10.65.8.0/24', GRIDS.networks, DESIGN)
    expect(paste.rows[0]?.outcome).toBe('new')
  })
  it('gives every new row an id of its own', () => {
    const rows = Array.from({ length: 50 }, (_, at) => `Ostvik Terminal\tn ${at % 5}\t10.90.${at}.0/24`)
    const ids = readPaste(rows.join('\n'), GRIDS.networks, DESIGN).operations.map(
      (one) => (one as { object: { id: string } }).object.id,
    )
    expect(new Set(ids).size).toBe(50)
  })
  it('refuses too many rows with the limit', () => {
    const paste = readPaste('a\tb\tc\n'.repeat(MOST_ROWS + 1), GRIDS.networks, DESIGN)
    expect(paste.operations).toEqual([])
    expect(paste.trouble).toContain(`${MOST_ROWS} at most at once`)
  })
})

describe('typed cells', () => {
  const column = (field: string) => GRIDS.uplinks.columns.find((one) => one.field === field)!
  it('takes what is meant, and leaves the rest for the server to judge', () => {
    expect(cellValue(column('preference'), ' 2 ', DESIGN)).toBe(2)
    expect(cellValue(column('preference'), 'two', DESIGN)).toBe('two')
    expect(cellValue(column('delay_ms'), '', DESIGN)).toBeNull()
    expect(cellValue(column('inbound_ike'), 'No', DESIGN)).toBe(false)
    expect(cellValue(column('address_kind'), 'Carrier NAT', DESIGN)).toBe('carrier-nat')
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
    const paths = GRIDS.rules.columns.find((one) => one.field === 'paths')!
    const row = { gateway_id: 'g' }
    const value = [
      { type: 'tunnel', id: 'by-radio' },
      { type: 'tunnel', id: 'by-cable', most_delay_ms: 60, most_loss_percent: 2.5 },
    ]
    const written = cellText(paths, value, design, row)
    expect(written).toBe('Radio (old); Cable (delay 60, loss 2.5)')
    expect(cellValue(paths, written, design, row)).toEqual(value)
    const resolvers = GRIDS.profiles.columns.find((one) => one.field === 'own_resolvers')!
    const told = [{ suffix: 'booking.example', resolver: '10.80.0.53' }]
    expect(cellText(resolvers, told, design)).toBe('booking.example by 10.80.0.53')
    expect(cellValue(resolvers, 'booking.example by 10.80.0.53', design)).toEqual(told)
  })
})
