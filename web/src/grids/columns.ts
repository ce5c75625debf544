/** How the text of a cell becomes a value of the model, and how a value is shown. */
import type { ColumnDescription, Design, KindDescription } from '@/api/types'
import { freshId } from '@/design/ids'
import { kindOf } from '@/design/kinds'
import { choicesOf, labelOf, type Choice } from './choices'

export type GridRow = { id: string } & Record<string, unknown>
export type Column = ColumnDescription & { widthPx: number; figures: boolean }
export type Grid = Omit<KindDescription, 'columns'> & { columns: Column[] }

type Row = Record<string, unknown>

/** A typed text that can't be a value of its column, with the reason. */
export class Misread extends Error {}

const PARTS = /[;\n]|,(?![^(]*\))/ // what parts the members of a list; a comma inside brackets doesn't
const YES_NO: Record<string, boolean> = { yes: true, no: false, true: true, false: false }
const BRACKETS = /^(.*?)\s*\(([^)]*)\)$/

/** What a cell shows. */
export function cellText(column: ColumnDescription, value: unknown, design: Design, row?: Row): string {
  if (value === null || value === undefined || value === '') return ''
  if (Array.isArray(value)) return value.map((part) => memberText(column, part, design, row)).join('; ')
  if (column.form === 'yes-no') return value ? 'yes' : 'no'
  return memberText(column, value, design, row)
}

function memberText(column: ColumnDescription, value: unknown, design: Design, row?: Row): string {
  if (typeof value !== 'object' || value === null) return labelOf(column, String(value), design, row)
  if ('suffix' in value) {
    const { suffix, resolver } = value as { suffix: string; resolver: string }
    return `${suffix} by ${resolver}`
  }
  const member = value as { type: string; id: string } & Row
  const limits = column.parts.flatMap(({ word, field }) =>
    typeof member[field] === 'number' ? [`${word} ${member[field]}`] : [],
  )
  const label = labelOf(column, `${member.type} ${member.id}`, design, row)
  return limits.length ? `${label} (${limits.join(', ')})` : label
}

/** The texts of the members of a list. */
export function membersIn(text: string): string[] {
  return text
    .split(PARTS)
    .map((part) => part.trim())
    .filter(Boolean)
}

/**
 * The value that a typed text stands for. Throws a Misread where a word of it is nothing that the column knows; what
 * is right or wrong with addresses and names is left for the server to say.
 */
export function cellValue(column: ColumnDescription, text: string, design: Design, row?: Row): unknown {
  const typed = text.trim()
  if (!typed) return column.default
  const choices = choicesOf(column, design, row)
  if (!column.many) return memberValue(column, typed, choices)
  return membersIn(typed).map((part) => memberValue(column, part, choices))
}

/** One value, or one member of a list: a path is a type and an id with its limits. */
function memberValue(column: ColumnDescription, text: string, choices: Choice[]): unknown {
  switch (column.form) {
    case 'number':
      return numberIn(text)
    case 'yes-no':
      return YES_NO[text.toLowerCase()] ?? misread(`'${text}' is neither yes nor no`)
    case 'structure': {
      const [suffix, resolver, ...rest] = text.split(/\s+by\s+|\s+/)
      if (!resolver || rest.length)
        misread(`'${text}' is no suffix with its resolver, such as: skerry.example by 10.64.8.10`)
      return { suffix, resolver }
    }
    case 'choice':
    case 'reference':
      return column.structure ? referred(column, text, choices) : chosen(column, text, choices)
    default:
      return text
  }
}
function misread(reason: string): never {
  throw new Misread(reason)
}
function numberIn(text: string): number {
  return Number.isNaN(Number(text)) ? misread(`'${text}' is no number`) : Number(text)
}

/** The choice that a text is, by its name or its value, without regard to letter case. */
function found(text: string, choices: Choice[]): string | undefined {
  const wanted = text.toLowerCase()
  return choices.find((choice) => choice.value === text || choice.label.toLowerCase() === wanted)?.value
}
function chosen(column: ColumnDescription, text: string, choices: Choice[]): string {
  return found(text, choices) ?? misread(unknownName(column, text, choices))
}
function unknownName(column: ColumnDescription, text: string, choices: Choice[]): string {
  if (!column.refers.length)
    return `'${text}' is none of: ${choices.map((choice) => choice.label).join(', ')}`
  const kinds = column.refers.map((type) => kindOf(type)?.label ?? type)
  const last = kinds.length > 1 ? ` or ${kinds.at(-1)}` : ''
  const named = `${kinds.slice(0, last ? -1 : undefined).join(', ')}${last}`
  return `there is no ${named} called '${text}'`
}
function referred(column: ColumnDescription, text: string, choices: Choice[]): unknown {
  const whole = found(text, choices)
  const [, name = text, inside = ''] = whole ? [] : (BRACKETS.exec(text) ?? [])
  const [type = '', id] = (whole ?? chosen(column, name.trim(), choices)).split(' ', 2)
  return { type, id, ...limitsIn(column, inside) }
}
function limitsIn(column: ColumnDescription, text: string): Record<string, number> {
  const words = text.split(',').filter((candidate) => candidate.trim())
  return Object.fromEntries(
    words.map((pair) => {
      const [word = '', value = ''] = pair.trim().split(/\s+/)
      const part = column.parts.find((known) => known.word === word.toLowerCase())
      if (!part) misread(notAllowed(column, word))
      return [part.field, numberIn(value)]
    }),
  )
}
function notAllowed(column: ColumnDescription, word: string): string {
  const known = column.parts.map((part) => part.word).join(', ')
  return known ? `'${word}' is no limit; there are: ${known}` : `'${word}' means nothing here`
}

/** The columns of a row that must still be filled before it can be written. */
export function unfilled(grid: Grid, row: Row): Column[] {
  const isEmpty = (field: string) => {
    const value = row[field] ?? ''
    return value === '' || (Array.isArray(value) && !value.length)
  }
  return grid.columns.filter(
    ({ required, instead, field }) =>
      (required || instead.length > 0) && isEmpty(field) && instead.every(isEmpty),
  )
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
