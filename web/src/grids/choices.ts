/** What a cell may be: fixed choices, and the objects of the design that a reference may name. */
import type { ColumnDescription, Design, ObjectType } from '@/api/types'
import { membersOf, parentOf, type AnyObject } from '@/design/kinds'
import { words } from '@/ui/words'

export interface Choice {
  value: string
  label: string
}
type End = { gateway_id?: string }

/** The choices of a cell in their order; none where anything may be typed. */
export function choicesOf(
  column: ColumnDescription,
  design: Design,
  row: Record<string, unknown> = {},
): Choice[] {
  if (column.form === 'yes-no') return ['yes', 'no'].map((word) => ({ value: word, label: word }))
  if (column.choices.length) return column.choices.map((value) => ({ value, label: words(value) }))
  return column.refers.flatMap((type) =>
    named(design, type, row).map(({ value, label }) => ({
      value: column.structure ? `${type} ${value}` : value, // a member says its type before its id
      label,
    })),
  )
}

const LABELS = new WeakMap<Design, Map<string, Map<string, string>>>() // a grid asks for each cell that it draws

/** What a value of a cell is called; the value itself where nothing in the design has it. */
export function labelOf(
  column: ColumnDescription,
  value: string,
  design: Design,
  row: Record<string, unknown> = {},
): string {
  if (column.choices.length) return words(value)
  if (!column.refers.length) return value
  const known = LABELS.get(design) ?? new Map<string, Map<string, string>>()
  LABELS.set(design, known)
  const key = `${column.refers.join()} ${column.structure} ${String(row.gateway_id ?? '')}`
  let labels = known.get(key)
  if (!labels) {
    labels = new Map(choicesOf(column, design, row).map((choice) => [choice.value, choice.label]))
    known.set(key, labels)
  }
  return labels.get(value) ?? value
}

/** The objects of a type; of what belongs to gateways, only what belongs to the row's. */
function named(design: Design, type: ObjectType, row: Record<string, unknown>): Choice[] {
  const items = membersOf(design, type).filter((item) => {
    const gateways = gatewaysOf(item)
    return !row.gateway_id || !gateways.length || gateways.includes(String(row.gateway_id))
  })
  const names = new Set<string>()
  const repeated = new Set(
    items.map((item) => item.name).filter((name) => names.size === names.add(name).size),
  )
  return items.map((item) => {
    const parent = repeated.has(item.name) ? parentOf(design, type, item) : ''
    return { value: item.id, label: parent ? `${parent}: ${item.name}` : item.name }
  })
}
function gatewaysOf(item: AnyObject): string[] {
  return [item as End, item.left as End | undefined, item.right as End | undefined].flatMap((end) =>
    end?.gateway_id ? [end.gateway_id] : [],
  )
}
