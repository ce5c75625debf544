import { describe, expect, it } from 'vitest'
import type { Design, PathsMatrix } from '@/api/types'
import { cellAt, networksOf, summaryOf, wantedOf } from './reach'
import { readSlow, writeSlow } from './useSupposed'

const MATRIX: PathsMatrix = {
  revision: 3,
  service: 'any',
  services: ['any'],
  network_ids: ['staff', 'bridge', 'gates'],
  rows: ['.rU', 'o.h', 'ba.'],
  wanted: [
    { row: 0, column: 1 },
    { row: 0, column: 2 },
    { row: 2, column: 1 },
  ],
}
const network = (id: string, site_id: string, prefix: string) => ({ id, name: id, site_id, prefix })
const DESIGN = {
  sites: [
    { id: 'harbour', name: 'Harbour House' },
    { id: 'brenna', name: 'Brenna Terminal' },
  ],
  networks: [
    network('staff', 'harbour', '10.64.0.0/22'),
    network('bridge', 'harbour', '10.70.1.0/27'),
    network('gates', 'brenna', '10.66.1.0/26'),
  ],
} as unknown as Design

describe('the matrix', () => {
  it('reads a letter as what a pair gets, capitals as not for all addresses, and a point as nothing', () => {
    const wanted = wantedOf(MATRIX)
    expect(cellAt(MATRIX, wanted, 0, 0)).toBeNull()
    expect(cellAt(MATRIX, wanted, 0, 1)).toEqual({ reach: 'reaches', whole: true, wanted: true })
    expect(cellAt(MATRIX, wanted, 0, 2)).toEqual({ reach: 'unprotected', whole: false, wanted: true })
    expect(cellAt(MATRIX, wanted, 1, 0)).toEqual({ reach: 'one-way', whole: true, wanted: false })
    expect(cellAt(MATRIX, wanted, 7, 7)).toBeNull()
  })
  it('counts what arrives, and what is wanted and does not', () => {
    const { counts, unmet } = summaryOf(MATRIX)
    expect(Object.fromEntries(counts)).toEqual({
      reaches: 1,
      unprotected: 1,
      'one-way': 1,
      held: 1,
      blocked: 1,
      asymmetric: 1,
    })
    expect(unmet).toBe(1)
  })
  it('stands site by site, and is narrowed by site, name or prefix', () => {
    expect(networksOf(MATRIX, DESIGN, '').map((shown) => shown.id)).toEqual(['gates', 'staff', 'bridge'])
    expect(networksOf(MATRIX, DESIGN, 'harbour').map((shown) => shown.place)).toEqual([0, 1])
    expect(networksOf(MATRIX, DESIGN, '10.66')).toHaveLength(1)
    expect(networksOf(MATRIX, DESIGN, 'nothing')).toHaveLength(0)
  })
})

describe('what is supposed of a link', () => {
  it('is written into an address and read back', () => {
    const slow = { id: 'radio', delay: 80, jitter: null, loss: 2.5, used: 3 }
    expect(writeSlow(slow)).toBe('radio:delay=80,loss=2.5,used=3')
    expect(readSlow('radio:delay=80,loss=2.5,used=3')).toEqual(slow)
    expect(writeSlow({ id: 'radio', delay: null, jitter: null, loss: null, used: null })).toBe('')
    expect(readSlow('radio:speed=3')).toEqual({
      id: 'radio',
      delay: null,
      jitter: null,
      loss: null,
      used: null,
    })
  })
})
