import { describe, expect, it } from 'vitest'
import type { Analysis, Changed, Design } from '@/api/types'
import { patchedAnalysis, patchedDesign } from './patch'

const design = {
  revision: 4,
  name: 'Skerry Line',
  sites: [{ id: 'a' }, { id: 'c' }],
  tunnels: [{ id: 't1', name: 'old' }],
} as unknown as Design
const changed = (fields: object) =>
  ({ revision: 5, operations: [], analysis: null, ...fields }) as unknown as Changed

describe('what a change does to the design shown', () => {
  it('puts, removes and keeps the order of ids', () => {
    const operations = [
      { op: 'put-site', object: { id: 'b' } },
      { op: 'remove', type: 'site', id: 'c' },
      { op: 'put-tunnel', object: { id: 't1', name: 'new' } },
      { op: 'put-settings', object: { name: 'Renamed' } },
    ]
    const after = patchedDesign(design, changed({ operations }))
    expect(after.revision).toBe(5)
    expect(after.name).toBe('Renamed')
    expect(after.sites.map((site) => site.id)).toEqual(['a', 'b'])
    expect(after.tunnels[0]?.name).toBe('new')
    expect(design.sites).toHaveLength(2)
  })
})

describe('what a change does to the analysis shown', () => {
  const finding = (code: string) => ({ code })
  const analysis = {
    revision: 4,
    forecasts: [{ tunnel_id: 't1', state: 'fails' }],
    overlaps: [],
    findings: ['a', 'b', 'c'].map(finding),
  } as unknown as Analysis
  const step = {
    forecasts: [{ tunnel_id: 't1', state: 'holds' }],
    overlaps: null,
    removed: [1],
    added: [{ place: 0, finding: finding('z') }],
  }

  it('drops, adds at their places, and replaces forecasts', () => {
    const after = patchedAnalysis(analysis, changed({ analysis: step }), ['t1'])
    expect(after?.findings.map((kept) => kept.code)).toEqual(['z', 'a', 'c'])
    expect(after?.forecasts[0]?.state).toBe('holds')
    expect(after?.revision).toBe(5)
  })
  it('is read anew where it does not follow', () => {
    expect(patchedAnalysis(analysis, changed({}), ['t1'])).toBeNull()
    expect(patchedAnalysis({ ...analysis, revision: 3 }, changed({ analysis: step }), ['t1'])).toBeNull()
  })
})
