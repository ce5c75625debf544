/** How the text of a cell becomes a value of the model, and how a value is shown. */
import type { ColumnDescription, Design, KindDescription, Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { choicesOf, type Choice } from './choices'

export type GridRow = { id: string } & Record<string, unknown>
export type Column = ColumnDescription & { widthPx: number }
export type Grid = Omit<KindDescription, 'columns'> & { columns: Column[] }

const PARTS = /[;\n]|,(?![^(]*\))/ // what parts the members of a list; a comma inside brackets doesn't
/** How good a path must be, as it is written behind it: "radio (delay 60, loss 2)". */
const LIMITS: Record<string, string> = {
  delay: 'most_delay_ms',
  jitter: 'most_jitter_ms',
  loss: 'most_loss_percent',
}
const YES_NO: Record<string, boolean> = { yes: true, no: false, true: true, false: false }

type Row = Record<string, unknown>

/** What a cell shows. */
export function cellText(column: Column, value: unknown, design: Design, row?: Row): string {
  if (value === null || value === undefined || value === '') return ''
  const choices = choicesOf(column, design, row)
  if (Array.isArray(value)) return value.map((part) => memberText(part, choices)).join('; ')
  if (column.form === 'yes-no') return value ? 'yes' : 'no'
  return memberText(value, choices)
}

function memberText(value: unknown, choices: Choice[]): string {
  if (typeof value !== 'object') return labelOf(String(value), choices)
  if (value !== null && 'suffix' in value) {
    const { suffix, resolver } = value as { suffix: string; resolver: string }
    return `${suffix} by ${resolver}`
  }
  const path = value as { type: string; id: string } & Record<string, unknown>
  const limits = Object.entries(LIMITS).flatMap(([word, field]) =>
    typeof path[field] === 'number' ? [`${word} ${path[field]}`] : [],
  )
  const label = labelOf(`${path.type} ${path.id}`, choices)
  return limits.length ? `${label} (${limits.join(', ')})` : label
}
function labelOf(plain: string, choices: Choice[]): string {
  return choices.find((one) => one.value === plain)?.label ?? plain
}

/**
 * The value that a typed text stands for. What can't be a value is passed on as text: the server says what is wrong
 * with it.
 */
export function cellValue(column: Column, text: string, design: Design, row?: Row): unknown {
  const typed = text.trim()
  if (!typed) return column.default
  const choices = choicesOf(column, design, row)
  if (!column.many) return memberValue(column, typed, choices)
  const parts = typed.split(PARTS).map((part) => part.trim())
  return parts.filter(Boolean).map((part) => memberValue(column, part, choices))
}

/** One value, or one member of a list: a path is a type and an id with its limits. */
function memberValue(column: Column, text: string, choices: Choice[]): unknown {
  if (column.form === 'number') return Number.isNaN(Number(text)) ? text : Number(text)
  if (column.form === 'yes-no') return YES_NO[text.toLowerCase()] ?? text
  if (column.form === 'structure') {
    const [suffix, resolver] = text.split(/\s+by\s+|\s+/)
    return resolver ? { suffix, resolver } : text
  }
  return column.structure ? referred(text, choices) : chosen(text, choices)
}
function chosen(typed: string, choices: Choice[]): string {
  const wanted = typed.toLowerCase()
  return choices.find((one) => one.value === typed || one.label.toLowerCase() === wanted)?.value ?? typed
}
function referred(text: string, choices: Choice[]): unknown {
  const whole = chosen(text, choices)
  const [, name = text, inside = ''] = whole === text ? (/^(.*?)\s*\(([^)]*)\)$/.exec(text) ?? []) : []
  const [type, id] = (whole === text ? chosen(name.trim(), choices) : whole).split(' ', 2)
  return id ? { type, id, ...limitsOf(inside) } : text
}
function limitsOf(text: string): Record<string, number> {
  const words = text.split(',').map((one) => one.trim().split(/\s+/))
  return Object.fromEntries(
    words.flatMap(([word = '', value]) => (LIMITS[word] && value ? [[LIMITS[word], Number(value)]] : [])),
  )
}

/** The columns of a row that must still be filled before it can be written. */
export function unfilled(grid: Grid, row: Row): Column[] {
  return grid.columns.filter((column) => column.required && (row[column.field] ?? '') === '')
}

/** A row without values. */
export function blankRow(grid: Grid): Record<string, unknown> {
  return Object.fromEntries(grid.columns.map((column) => [column.field, column.default]))
}

/** An id for a new row, made of the names that tell it from others. */
export function rowId(grid: Grid, row: Row, taken: ReadonlySet<string>): string {
  const [first] = grid.columns
  const parent = first?.form === 'reference' ? String(row[first.field] ?? '').replace(/-gateway$/, '') : ''
  return freshId(`${parent} ${String(row.name || row.prefix)}`.trim(), taken)
}

/** The operation that writes a row. */
export function putRow(grid: Grid, row: GridRow): Operation {
  return { op: `put-${grid.type}`, object: row } as unknown as Operation
}
