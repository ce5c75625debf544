/** The kinds of object, as the API describes them. */
import described from '@/api/kinds.json'
import type { Design, KindDescription, ObjectType } from '@/api/types'

export const KINDS = described.kinds as KindDescription[]
const BY_TYPE = new Map(KINDS.map((kind) => [kind.type, kind]))

/** The kind of a type; what holds for the design as a whole has none. */
export function kindOf(type: ObjectType): KindDescription | undefined {
  return BY_TYPE.get(type)
}

/** The objects of a type in a design. */
export function membersOf(design: Design, type: ObjectType): { id: string; name: string }[] {
  const list = kindOf(type)?.members as keyof Design | undefined
  return list ? ((design[list] ?? []) as { id: string; name: string }[]) : []
}

/** What the object that an object belongs to is called; empty where it belongs to the design alone. */
export function parentOf(design: Design, type: ObjectType, item: Record<string, unknown>): string {
  const first = kindOf(type)?.columns[0]
  const [parent] = first?.form === 'reference' ? first.refers : []
  return parent ? (membersOf(design, parent).find((one) => one.id === item[first!.field])?.name ?? '') : ''
}
