/** The transforms that a proposal may hold, for the editor. */
import type { Proposal, Transform, TransformInfo } from '@/api/types'

export type Protocol = 'ike' | 'esp'
export type TransformType = Transform['type']

export const TYPES_OF: Record<Protocol, readonly TransformType[]> = {
  ike: ['ENCR', 'PRF', 'INTEG', 'KE'],
  esp: ['ENCR', 'INTEG', 'KE', 'ESN'],
}
export const TYPE_TITLES: Partial<Record<TransformType, string>> = {
  ENCR: 'Encryption',
  PRF: 'PRF',
  INTEG: 'Integrity',
  KE: 'Key exchange',
  ESN: 'Sequence numbers',
}

/** What people call a type of transform, within a sentence. */
export function typeWords(type: string): string {
  const title = TYPE_TITLES[type as TransformType] ?? type
  return title === title.toUpperCase() ? title : title.toLowerCase()
}

export interface TransformChoice {
  key: string
  label: string
  name: string // IANA's
  transform: Transform
}

export function keyOf(transform: Transform): string {
  return `${transform.type}/${transform.id}/${transform.key_length ?? ''}`
}

/** The choices of a type: each key length is a transform of its own; retired ones are named as such. */
export function choicesOf(registry: readonly TransformInfo[], type: TransformType): TransformChoice[] {
  return registry
    .filter((row) => row.type === type)
    .flatMap((row) => {
      const lengths: (number | null)[] = row.key_lengths.length ? [...row.key_lengths].reverse() : [null]
      const mark = { weak: ' — weak', retired: ' — retired' }[row.level as string] ?? ''
      return lengths.map((key_length) => {
        const transform = { type, id: row.id, key_length }
        return {
          key: keyOf(transform),
          name: row.name,
          label: row.label + (key_length ? `-${key_length}` : '') + mark,
          transform,
        }
      })
    })
}

export function keysOfType(proposal: Proposal, type: TransformType): string[] {
  return proposal.transforms.filter((transform) => transform.type === type).map(keyOf)
}

/** The proposal with the transforms of one type replaced; the types stay in their order. */
export function withType(
  proposal: Proposal,
  type: TransformType,
  chosen: readonly Transform[],
  order: readonly TransformType[],
): Proposal {
  const others = proposal.transforms.filter((transform) => transform.type !== type)
  const unlisted = others.filter((transform) => !order.includes(transform.type)) // edited elsewhere, never dropped
  const listed = order.flatMap((listedType) =>
    listedType === type ? chosen : others.filter((t) => t.type === listedType),
  )
  return { transforms: [...listed, ...unlisted] }
}
