/** The grids of the survey: which columns each type of object has, and how a typed text becomes a value. */
import type { Design, ObjectType, Operation } from '@/api/types'
import { freshId } from '@/design/ids'

export type GridName =
  | 'sites'
  | 'networks'
  | 'hosts'
  | 'gateways'
  | 'uplinks'
  | 'claims'
  | 'translations'
  | 'routes'
  | 'rules'
  | 'filters'
  | 'intents'
  | 'profiles'
export type GridRow = { id: string } & Record<string, unknown>

export interface Choice {
  value: string
  label: string
}

export interface Column {
  field: string
  title: string
  widthPx: number
  kind: 'text' | 'number' | 'choice' | 'yesno' | 'list'
  figures?: boolean // set in the typeface of addresses and numbers
  choices?: (design: Design, row?: Record<string, unknown>) => Choice[]
  blank?: unknown // what an empty cell stands for; a column without it must be filled
}

export interface Grid {
  name: GridName
  type: Exclude<ObjectType, 'tunnel' | 'settings'>
  title: string
  columns: Column[]
}

const PARTS = /[;\n]|,(?![^(]*\))/ // what parts the members of a list; a comma inside brackets doesn't
/** How good a path must be, as it is written behind it: "radio (delay 60, loss 2)". */
const LIMITS: Record<string, string> = {
  delay: 'most_delay_ms',
  jitter: 'most_jitter_ms',
  loss: 'most_loss_percent',
}

/** What a cell shows. */
export function cellText(
  column: Column,
  value: unknown,
  design: Design,
  row?: Record<string, unknown>,
): string {
  if (value === null || value === undefined || value === '') return ''
  if (Array.isArray(value)) return value.map((part) => memberText(column, part, design, row)).join('; ')
  if (column.kind === 'yesno') return value ? 'yes' : 'no'
  return memberText(column, value, design, row)
}

function memberText(column: Column, value: unknown, design: Design, row?: Record<string, unknown>): string {
  if (typeof value !== 'object') return chosenLabel(column, String(value), design, row)
  if (value !== null && 'suffix' in value) {
    const { suffix, resolver } = value as { suffix: string; resolver: string }
    return `${suffix} by ${resolver}`
  }
  const path = value as { type: string; id: string } & Record<string, unknown>
  const limits = Object.entries(LIMITS).flatMap(([word, field]) =>
    typeof path[field] === 'number' ? [`${word} ${path[field]}`] : [],
  )
  const label = chosenLabel(column, `${path.type} ${path.id}`, design, row)
  return limits.length ? `${label} (${limits.join(', ')})` : label
}
function chosenLabel(column: Column, plain: string, design: Design, row?: Record<string, unknown>): string {
  return column.choices?.(design, row).find((one) => one.value === plain)?.label ?? plain
}

/**
 * The value that a typed or pasted text stands for. What can't be a value is passed on as text: the server says what
 * is wrong with it.
 */
export function cellValue(
  column: Column,
  text: string,
  design: Design,
  row?: Record<string, unknown>,
): unknown {
  const typed = text.trim()
  if (!typed) return column.blank
  if (column.kind === 'number') return Number.isNaN(Number(typed)) ? typed : Number(typed)
  if (column.kind === 'yesno')
    return { yes: true, no: false, true: true, false: false }[typed.toLowerCase()] ?? typed
  if (column.kind === 'list') {
    const parts = typed.split(PARTS).map((part) => part.trim())
    return parts.filter(Boolean).map((part) => member(column, part, design, row))
  }
  return column.choices ? chosen(column, typed, design, row) : typed
}

function chosen(column: Column, typed: string, design: Design, row?: Record<string, unknown>): string {
  const wanted = typed.toLowerCase()
  const found = column
    .choices?.(design, row)
    .find((choice) => choice.value === typed || choice.label.toLowerCase() === wanted)
  return found?.value ?? typed
}
/** One member of a list: a path is a type and an id with its limits, a port a number, all others are texts. */
function member(column: Column, part: string, design: Design, row?: Record<string, unknown>): unknown {
  if (column.field === 'ports') return Number.isNaN(Number(part)) ? part : Number(part)
  if (column.field === 'own_resolvers') {
    const [suffix, resolver] = part.split(/\s+by\s+|\s+/)
    return resolver ? { suffix, resolver } : part
  }
  if (!column.choices) return part
  const whole = chosen(column, part, design, row)
  const [, name = part, inside = ''] = whole === part ? (/^(.*?)\s*\(([^)]*)\)$/.exec(part) ?? []) : []
  const [type, id] = (whole === part ? chosen(column, name.trim(), design, row) : whole).split(' ', 2)
  return id ? { type, id, ...limitsOf(inside) } : part
}
function limitsOf(text: string): Record<string, number> {
  const words = text.split(',').map((one) => one.trim().split(/\s+/))
  return Object.fromEntries(
    words.flatMap(([word = '', value]) => (LIMITS[word] && value ? [[LIMITS[word], Number(value)]] : [])),
  )
}

/** The columns of a row that must still be filled before it can be written. */
export function unfilled(grid: Grid, row: Record<string, unknown>): Column[] {
  return grid.columns.filter((column) => !('blank' in column) && (row[column.field] ?? '') === '')
}

/** A row without values. */
export function blankRow(grid: Grid): Record<string, unknown> {
  return Object.fromEntries(grid.columns.map((column) => [column.field, column.blank]))
}

/** An id for a new row, made of the names that tell it from others. */
export function rowId(grid: Grid, row: Record<string, unknown>, taken: ReadonlySet<string>): string {
  const parent = row.site_id ?? row.network_id ?? String(row.gateway_id ?? '').replace(/-gateway$/, '')
  const name = String(row.name || row.prefix)
  return freshId(
    ['site', 'profile', 'intent'].includes(grid.type) ? name : `${String(parent)} ${name}`,
    taken,
  )
}

/** The operation that writes a row. */
export function putRow(grid: Grid, row: GridRow): Operation {
  return { op: `put-${grid.type}`, object: row } as unknown as Operation
}
