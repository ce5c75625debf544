/** The rows of a grid of objects: what each cell shows, and how typed texts are written. */
import { computed } from 'vue'
import type { Design, Operation } from '@/api/types'
import { membersOf, putOf } from '@/design/kinds'
import { reasonOf, refusedFields } from '@/design/refusals'
import type { DesignSession } from '@/design/useDesignSession'
import { useTyped, type Typed } from '@/design/useTyped'
import { blankRow, cellText, cellValue, Misread, rowId, unfilled, type Grid, type GridRow } from './columns'

export const NEW = '' // the id of the row in which a new object is typed

interface TypedCell {
  id: string
  field: string
  text: string
}
interface Written {
  id: string // of the row as it is shown
  object: GridRow
}

/** What rows need of an open design. */
export type RowsSession = Pick<DesignSession, 'designId' | 'design' | 'change' | 'refusal' | 'dismissRefusal'>

export function useRows(session: RowsSession, grid: Grid) {
  const { designId, design, change, refusal, dismissRefusal } = session
  const typed = useTyped(designId, grid.members)
  const columnOf = new Map(grid.columns.map((column) => [column.field, column]))
  const objects = computed(() => {
    const found = design.value ? membersOf(design.value, grid.type) : []
    return columnOf.has('position') ? [...found].sort(byPosition) : found
  })
  const byId = computed(() => new Map(objects.value.map((row) => [row.id, row])))
  const blank: GridRow = { ...blankRow(grid), id: NEW }
  const rows = computed<GridRow[]>(() => [...objects.value, blank])

  function textOf(row: GridRow, field: string): string {
    const waiting = typed.at(row.id, field)
    const column = columnOf.get(field)
    if (waiting || !column || !design.value) return waiting?.text ?? ''
    return cellText(column, row[field], design.value, valuesOf(row))
  }
  /** A row with what is typed in it so far: its references say which choices there are. */
  function valuesOf(row: GridRow): GridRow {
    if (!typed.of(row.id).length) return row
    return read(row, design.value!, () => undefined)
  }
  function read(row: GridRow, now: Design, refuse: (field: string, reason: string) => void): GridRow {
    const values: GridRow = { ...row }
    for (const column of grid.columns) {
      const waiting = typed.at(row.id, column.field)
      if (!waiting) continue
      try {
        values[column.field] = cellValue(column, waiting.text, now, values)
      } catch (error) {
        if (!(error instanceof Misread)) throw error
        refuse(column.field, error.message)
      }
    }
    return values
  }

  let queue = Promise.resolve() // one change after the other: what is typed meanwhile waits for its turn

  /** Write what was typed into cells, all as one change; what is refused stays where it is, with the reason. */
  function write(cells: readonly TypedCell[]): Promise<void> {
    const told = cells.filter(({ id, field, text }) => {
      const row = id === NEW ? blank : byId.value.get(id)
      return row && columnOf.has(field) && (typed.at(id, field) || text !== textOf(row, field))
    })
    for (const { id, field, text } of told) typed.keep(id, field, text)
    return sendAll([...new Set(told.map((cell) => cell.id))])
  }
  function sendAll(ids: readonly string[]): Promise<void> {
    queue = queue.then(() => send(ids.flatMap((id) => ready(id) ?? [])))
    return queue
  }
  /** The object that a row stands for with what is typed in it, once nothing of it is misread or still to be typed. */
  function ready(id: string): Written | null {
    const row = id === NEW ? blank : byId.value.get(id)
    if (!row || !design.value) return null
    let sound = true
    const values = read(row, design.value, (field, reason) => {
      typed.keep(id, field, typed.at(id, field)?.text ?? '', reason)
      sound = false
    })
    if (id !== NEW) return { id, object: soundPart(row, values) }
    if (!sound || unfilled(grid, values).length) return null
    const taken = new Set(objects.value.map((object) => object.id))
    return { id, object: { ...values, id: rowId(grid, values, taken) } }
  }
  /** Of a row that is there, what was refused before waits for itself: the rest is written meanwhile. */
  function soundPart(row: GridRow, values: GridRow): GridRow {
    const refused = typed.of(row.id).filter(([, cell]) => isRefused(cell))
    return { ...values, ...Object.fromEntries(refused.map(([field]) => [field, row[field]])) }
  }
  async function send(all: readonly Written[]): Promise<void> {
    const changed = all.filter(({ id, object }) => id === NEW || !same(object, byId.value.get(id)))
    for (const { id } of all.filter((candidate) => !changed.includes(candidate))) settle(id, id, textsOf(id))
    if (!changed.length) return
    const operations: Operation[] = changed.map(({ object }) => putOf(grid.type, object))
    const sent = new Map(changed.map(({ id }) => [id, textsOf(id)]))
    if (await change(operations, noteOf(changed))) {
      const later = changed.flatMap(({ id, object }) => settle(id, object.id, sent.get(id)!))
      if (later.length) await send(later.flatMap((id) => ready(id) ?? []))
      return
    }
    const refused = refusedFields(refusal.value)
    if (!refused.length) return waitAll(changed, reasonOf(refusal.value))
    dismissRefusal() // it stands below the cell
    const wrong = new Set(refused.map(({ operation }) => operation))
    for (const { operation, field, reason } of refused) {
      const id = changed[operation]?.id
      if (id !== undefined) refuse(id, field, reason)
    }
    const others = changed.filter((_, at) => !wrong.has(at))
    if (others.length) await send(others)
  }
  function refuse(id: string, field: string, reason: string): void {
    const fields = typed.of(id).map(([name]) => name)
    const at = fields.includes(field) ? field : (fields.at(-1) ?? grid.columns[0]?.field ?? '')
    const title = at === field ? '' : `${columnOf.get(field)?.title ?? ''}: `
    typed.keep(id, at, typed.at(id, at)?.text ?? '', `${title}${reason}`)
  }
  /** Nobody answered, or somebody else was faster: all of it waits, and is written again at the next press. */
  function waitAll(changed: readonly Written[], reason: string): void {
    for (const { id } of changed)
      for (const [field, { text }] of typed.of(id)) typed.keep(id, field, text, reason, true)
  }
  const textsOf = (id: string) => new Map(typed.of(id).map(([field, { text }]) => [field, text]))
  /** Let go of what was written; what was typed meanwhile into a new row belongs to the object that it became. */
  function settle(id: string, becameId: string, sent: ReadonlyMap<string, string>): string[] {
    const all = typed.of(id)
    const later = all.filter(([field, { text }]) => sent.get(field) !== text)
    const isWritten = ([field, cell]: [string, Typed]) =>
      sent.get(field) === cell.text && (id === NEW || !isRefused(cell))
    const gone = all.filter((candidate) => isWritten(candidate) || (id === NEW && later.includes(candidate)))
    typed.drop(
      id,
      gone.map(([field]) => field),
    )
    if (id !== NEW) return []
    for (const [field, { text }] of later) typed.keep(becameId, field, text)
    return later.length ? [becameId] : []
  }
  function noteOf(changed: readonly Written[]): string {
    const [first] = changed
    if (changed.length > 1) return `Edit ${changed.length} ${grid.title.toLowerCase()}`
    return `${first?.id === NEW ? 'Add' : 'Edit'} ${grid.label} ${String(first?.object.name || first?.object.prefix)}`
  }
  /** Write again what nobody has answered. */
  const again = (id: string) => sendAll([id])
  /** Give up what was typed in a cell. */
  const cancel = (id: string, field: string) => typed.drop(id, [field])
  /** Keep what is typed in a form, which is written as a whole. */
  const keep = (id: string, field: string, text: string) => typed.keep(id, field, text)
  /** Give up all that was typed in a row. */
  const giveUp = (id: string) => typed.drop(id)

  /** The columns that a new row still needs before it can be written. */
  const missing = computed(() => {
    if (!typed.of(NEW).length) return []
    return unfilled(grid, valuesOf(blank)).filter((column) => !typed.at(NEW, column.field)?.reason)
  })
  return { rows, textOf, valuesOf, write, keep, giveUp, again, cancel, typedIn: typed.byId, missing }
}

/** What is asked in an order stands in it, one gateway after the other. */
function byPosition(former: GridRow, other: GridRow): number {
  const gateway = String(former.gateway_id).localeCompare(String(other.gateway_id))
  return gateway || Number(former.position) - Number(other.position)
}
function isRefused(typed: Typed): boolean {
  return Boolean(typed.reason) && !typed.again
}
function same(former: unknown, other: unknown): boolean {
  return JSON.stringify(former) === JSON.stringify(other)
}
