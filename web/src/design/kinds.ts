/** The kinds of object, as the API describes them. */
import described from '@/api/kinds.json'
import type { Design, KindDescription, ObjectType, Operation } from '@/api/types'

export const KINDS = described.kinds as KindDescription[]
const BY_TYPE = new Map(KINDS.map((kind) => [kind.type, kind]))

/** The kind of a type; what holds for the design as a whole has none. */
export function kindOf(type: ObjectType): KindDescription | undefined {
  return BY_TYPE.get(type)
}

/** An object of any kind: what it has beside its id and name, its kind says. */
export type AnyObject = { id: string; name: string } & Record<string, unknown>

/** The objects of a type in a design. */
export function membersOf(design: Design, type: ObjectType): AnyObject[] {
  const list = kindOf(type)?.members as keyof Design | undefined
  return list ? ((design[list] ?? []) as AnyObject[]) : []
}

/** The operation that puts an object of a kind; whether it is one is for the server to say, field by field. */
export function putOf(type: ObjectType, object: Record<string, unknown>): Operation {
  const put = { op: `put-${type}`, object }
  if (!isPut(put)) throw new Error(`no object of the type ${type} has an id`)
  return put
}
type Sent = { op: string; object: Record<string, unknown> }

/** Whether something sent puts an object that is known by an id; its fields are the server's to judge. */
function isPut(sent: Sent): sent is Sent & Operation {
  return typeof sent.object.id === 'string' || sent.op === 'put-settings'
}

/** What the object that an object belongs to is called; empty where it belongs to the design alone. */
export function parentOf(design: Design, type: ObjectType, item: Record<string, unknown>): string {
  const first = kindOf(type)?.columns[0]
  const [parent] = first?.form === 'reference' ? first.refers : []
  return parent
    ? (membersOf(design, parent).find((member) => member.id === item[first!.field])?.name ?? '')
    : ''
}
