import { describe, expect, it } from 'vitest'
import type { Design, Proposal, TransformInfo } from '@/api/types'
import { networksOf, numberOf, unbroken, uplinksOf, withVisibleEdges } from './fields'
import { choicesOf, keysOfType, TYPES_OF, withType } from './transforms'

function row(fields: Partial<TransformInfo>): TransformInfo {
  const base = { type: 'ENCR', id: 12, name: 'ENCR_AES_CBC', label: 'AES-CBC', level: 'current' } as const
  return { ...base, reference: 'RFC 3602', key_lengths: [], combined_mode: false, ...fields }
}

describe('transforms of a proposal', () => {
  it('offers each key length as a choice of its own, the longest first', () => {
    const choices = choicesOf([row({ key_lengths: [128, 192, 256] }), row({ type: 'PRF', id: 5 })], 'ENCR')
    expect(choices.map((choice) => choice.label)).toEqual(['AES-CBC-256', 'AES-CBC-192', 'AES-CBC-128'])
    expect(choices[0]?.transform).toEqual({ type: 'ENCR', id: 12, key_length: 256 })
  })
  it('says what is weak or retired', () => {
    const registry = [
      row({ id: 3, label: '3DES', level: 'weak' }),
      row({ id: 2, label: 'DES', level: 'retired' }),
    ]
    expect(choicesOf(registry, 'ENCR').map((choice) => choice.label)).toEqual([
      '3DES — weak',
      'DES — retired',
    ])
  })
  it('replaces one type and keeps the others in their order, those that it does not show included', () => {
    const proposal: Proposal = {
      transforms: [
        { type: 'KE', id: 14, key_length: null },
        { type: 'ADDKE1', id: 36, key_length: null },
        { type: 'ENCR', id: 12, key_length: 128 },
        { type: 'PRF', id: 5, key_length: null },
      ],
    }
    const changed = withType(proposal, 'ENCR', [{ type: 'ENCR', id: 20, key_length: 256 }], TYPES_OF.ike)
    expect(changed.transforms.map((transform) => `${transform.type} ${transform.id}`)).toEqual([
      'ENCR 20',
      'PRF 5',
      'KE 14',
      'ADDKE1 36',
    ])
    expect(keysOfType(changed, 'ENCR')).toEqual(['ENCR/20/256'])
    expect(withType(changed, 'KE', [], TYPES_OF.ike).transforms).toHaveLength(3)
  })
})

describe('fields of an end', () => {
  it('reads networks and seconds, and leaves the rest for the server to judge', () => {
    expect(networksOf(' 10.1.0.0/16, 10.2.0.0/16;10.3.0.0/16\n10.4.0.0/33 ')).toHaveLength(4)
    expect(networksOf('10.1.0.0/16 10.2.0.1-10.2.0.9 tcp 443')).toEqual([
      '10.1.0.0/16',
      '10.2.0.1-10.2.0.9 tcp 443',
    ])
    expect(networksOf('  ')).toEqual([])
    expect(numberOf(' 3600 ')).toBe(3600)
    expect(numberOf('an hour')).toBe('an hour')
    expect(numberOf('')).toBeNull()
  })
  it('shows blanks at the edges and keeps group numbers whole', () => {
    expect(withVisibleEdges('  key ')).toBe('␣␣key␣')
    expect(withVisibleEdges('a b')).toBe('a b')
    expect(unbroken('PRF · group 20')).toBe('PRF · group\u00a020')
  })
  it('offers the uplinks of the own gateway only', () => {
    const uplink = { name: 'fibre', address: '198.51.100.10', dns_name: null }
    const uplinks = [
      { ...uplink, id: 'a', gateway_id: 'g' },
      { ...uplink, id: 'b', gateway_id: 'other' },
      { ...uplink, id: 'c', gateway_id: 'g', address: null },
    ]
    const found = uplinksOf({ uplinks } as unknown as Design, { gateway_id: 'g' } as never)
    expect(found.map((choice) => choice.label)).toEqual(['fibre · 198.51.100.10', 'fibre · no address'])
  })
})
