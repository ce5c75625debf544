<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import type { Design } from '@/api/types'
import { membersOf } from '@/design/kinds'
import GridCell from './GridCell.vue'
import { blankRow, cellText, cellValue, unfilled, type Column, type Grid, type GridRow } from './columns'

/** What was refused: the text stays in the cell, the reason stands below its row. */
export interface CellError {
  field: string
  reason: string
}

const ROW_HEIGHT = 27 // with its hairline
const MOST_DRAWN = 200 // beyond so many rows only those in sight are drawn
const NEW = '' // the id of the row in which a new object is typed

const props = defineProps<{
  grid: Grid
  design: Design
  at: string // "id/field" to put the cursor on
  save: (row: Record<string, unknown>) => Promise<CellError[]>
  remove: (id: string) => Promise<unknown>
}>()
const emit = defineEmits<{ paste: [text: string] }>()

const table = ref<HTMLTableElement>()
const active = ref({ row: 0, column: 0 })
const editing = ref(false)
const seed = ref<string | null>(null) // what was typed to start editing; null keeps the cell's text
const draft = ref<Record<string, unknown>>(blankRow(props.grid))
const errors = ref<Record<string, { error: CellError; text: string }>>({}) // by row id

const rows = computed(() => membersOf(props.design, props.grid.type) as GridRow[])
const all = computed<Record<string, unknown>[]>(() => [...rows.value, { ...draft.value, id: NEW }])
const few = computed(() => all.value.length <= MOST_DRAWN)
const virtual = useVirtualizer(
  computed(() => ({
    count: few.value ? 0 : all.value.length,
    getScrollElement: () => table.value?.parentElement ?? null,
    estimateSize: () => ROW_HEIGHT,
    overscan: 20,
    initialRect: { width: 800, height: 600 },
  })),
)
const drawn = computed(() => {
  if (few.value) return { rows: all.value.map((row, at) => ({ row, at })), before: 0, after: 0 }
  const items = virtual.value.getVirtualItems()
  return {
    rows: items.flatMap(({ index }) => {
      const row = all.value[index]
      return row ? [{ row, at: index }] : []
    }),
    before: items[0]?.start ?? 0,
    after: virtual.value.getTotalSize() - (items.at(-1)?.end ?? 0),
  }
})
const lastColumn = computed(() => props.grid.columns.length) // the column of the remove button

function idOf(row: Record<string, unknown>): string {
  return String(row.id)
}
/** What a row is called; routes need no name. */
function titleOf(row: Record<string, unknown>): string {
  return String(row.name || row.prefix || 'the new row')
}
function textOf(row: Record<string, unknown>, column: Column): string {
  const refused = errors.value[idOf(row)]
  if (refused?.error.field === column.field) return refused.text
  return cellText(column, row[column.field], props.design, row)
}
function isActive(row: number, column: number): boolean {
  return active.value.row === row && active.value.column === column
}
async function focusActive(): Promise<void> {
  if (!few.value && !drawn.value.rows.some(({ at }) => at === active.value.row)) {
    virtual.value.scrollToIndex(active.value.row)
    await new Promise((drawnAnew) => requestAnimationFrame(drawnAnew))
  }
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-cell="${active.value.row}-${active.value.column}"]`)?.focus()
}
async function move(rowStep: number, columnStep: number): Promise<void> {
  editing.value = false
  const bounded = (value: number, most: number) => Math.min(Math.max(value, 0), most)
  active.value = {
    row: bounded(active.value.row + rowStep, all.value.length - 1),
    column: bounded(active.value.column + columnStep, lastColumn.value),
  }
  await focusActive()
}
function edit(row: number, column: number, typed: string | null = null): void {
  active.value = { row, column }
  seed.value = typed
  editing.value = column < lastColumn.value
}

const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  Home: [0, -99],
  End: [0, 99],
}
let settling: Promise<void> = Promise.resolve() // a cell is being written, and the cursor moves after it

function onKey(event: KeyboardEvent): void {
  if (editing.value) return
  const types = event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey
  const edits = event.key === 'Enter' || event.key === 'F2' || types
  const step = MOVES[event.key]
  if (!step && (!edits || active.value.column >= lastColumn.value)) return
  event.preventDefault()
  void settling.then(() => {
    if (step) return move(...step)
    edit(active.value.row, active.value.column, types ? event.key : null)
  })
}
function settle(column: Column, text: string, step: [number, number]): void {
  settling = commit(column, text, step)
}
async function commit(column: Column, text: string, step: [number, number]): Promise<void> {
  const row = all.value[active.value.row]
  editing.value = false
  if (!row) return
  await focusActive() // keys that are typed while it is being written belong to the grid
  const value = cellValue(column, text, props.design, row)
  const isNew = idOf(row) === NEW
  if (isNew) draft.value = { ...draft.value, [column.field]: value }
  const changed = { ...row, [column.field]: value }
  const ready = !isNew || unfilled(props.grid, changed).length === 0
  if (ready && (isNew || !same(value, row[column.field]) || errors.value[idOf(row)]))
    await write(changed, column, text)
  await move(...step)
}
function same(one: unknown, other: unknown): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other)
}
async function write(row: Record<string, unknown>, column: Column, text: string): Promise<void> {
  const id = idOf(row)
  const known = new Set(rows.value.map(idOf))
  const found = await props.save(row)
  const first = found.find((error) => error.field === column.field) ?? found[0]
  const others = { ...errors.value }
  delete others[id]
  errors.value = first ? { ...others, [id]: { error: first, text } } : others
  if (first || id !== NEW) return
  draft.value = blankRow(props.grid)
  const at = rows.value.findIndex((one) => !known.has(one.id))
  if (at >= 0) active.value = { ...active.value, row: at } // the cursor goes on in the row that was typed
}
async function cancel(): Promise<void> {
  const row = all.value[active.value.row]
  if (row) delete errors.value[idOf(row)]
  editing.value = false
  await focusActive()
}
async function removeRow(row: Record<string, unknown>): Promise<void> {
  await props.remove(idOf(row))
  await move(0, 0)
}
function onPaste(event: ClipboardEvent): void {
  if (editing.value) return
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!text.trim()) return
  event.preventDefault()
  emit('paste', text)
}
const missing = computed(() => {
  const started = props.grid.columns.some(
    (column) => !same(draft.value[column.field] ?? '', column.default ?? ''),
  )
  return started ? unfilled(props.grid, draft.value).map((column) => column.title) : []
})

watch(
  () => [props.at, props.grid.members],
  async () => {
    if (!props.at) return
    const [id, field] = props.at.split('/')
    const row = rows.value.findIndex((item) => item.id === id)
    const column = props.grid.columns.findIndex((one) => one.field === field)
    if (row < 0) return
    active.value = { row, column: Math.max(column, 0) }
    await focusActive()
  },
  { immediate: true },
)
watch(
  () => props.grid.members,
  () => {
    draft.value = blankRow(props.grid)
    errors.value = {}
    editing.value = false
    if (!props.at) active.value = { row: 0, column: 0 }
  },
)
</script>

<template>
  <table
    ref="table"
    class="grid"
    role="grid"
    :aria-label="grid.title"
    :aria-rowcount="all.length + 1"
    @keydown="onKey"
    @paste="onPaste"
  >
    <thead>
      <tr>
        <th
          v-for="column in grid.columns"
          :key="column.field"
          scope="col"
          :style="{ width: `${column.widthPx}px` }"
        >
          {{ column.title }}
        </th>
        <th scope="col" class="narrow"><span class="visually-hidden">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-if="drawn.before" aria-hidden="true" :style="{ height: `${drawn.before}px` }" />
      <template v-for="{ row, at: rowAt } in drawn.rows" :key="idOf(row)">
        <tr :class="{ fresh: idOf(row) === NEW }" :aria-rowindex="rowAt + 2">
          <td
            v-for="(column, columnAt) in grid.columns"
            :key="column.field"
            role="gridcell"
            :class="{
              figures: ['figures', 'number'].includes(column.form),
              wrong: errors[idOf(row)]?.error.field === column.field,
            }"
            :data-cell="`${rowAt}-${columnAt}`"
            :tabindex="isActive(rowAt, columnAt) ? 0 : -1"
            :aria-invalid="errors[idOf(row)]?.error.field === column.field"
            @click="edit(rowAt, columnAt)"
            @focus="active = { row: rowAt, column: columnAt }"
          >
            <GridCell
              v-if="editing && isActive(rowAt, columnAt)"
              :column="column"
              :design="design"
              :row="row"
              :text="seed ?? textOf(row, column)"
              :label="`${column.title} of ${titleOf(row)}`"
              @commit="(text, step) => settle(column, text, step)"
              @cancel="cancel"
            />
            <template v-else-if="textOf(row, column)">{{ textOf(row, column) }}</template>
            <span v-else-if="idOf(row) === NEW && columnAt === 0" class="muted">+ new</span>
          </td>
          <td role="gridcell" class="narrow">
            <button
              v-if="idOf(row) !== NEW"
              class="remove"
              type="button"
              :data-cell="`${rowAt}-${lastColumn}`"
              :tabindex="isActive(rowAt, lastColumn) ? 0 : -1"
              :aria-label="`Remove ${titleOf(row)}`"
              :title="`Remove ${titleOf(row)}`"
              @focus="active = { row: rowAt, column: lastColumn }"
              @click="removeRow(row)"
            >
              ×
            </button>
            <span v-else :data-cell="`${rowAt}-${lastColumn}`" tabindex="-1" />
          </td>
        </tr>
        <tr v-if="errors[idOf(row)]" class="message">
          <td :colspan="grid.columns.length + 1" class="field-error" role="alert">
            {{ grid.columns.find((column) => column.field === errors[idOf(row)]?.error.field)?.title }}:
            {{ errors[idOf(row)]?.error.reason }}
          </td>
        </tr>
        <tr v-else-if="idOf(row) === NEW && missing.length" class="message">
          <td :colspan="grid.columns.length + 1" class="muted">Still needs: {{ missing.join(', ') }}</td>
        </tr>
      </template>
      <tr v-if="drawn.after" aria-hidden="true" :style="{ height: `${drawn.after}px` }" />
    </tbody>
  </table>
</template>

<style scoped>
.grid {
  border-collapse: collapse;
  background: var(--card);
  table-layout: fixed;
}
th {
  position: sticky;
  top: 0;
  z-index: 1;
  padding: 4px 6px;
  font-size: 12px;
  font-weight: 500;
  text-align: left;
  color: var(--muted);
  background: var(--paper);
  border-bottom: 1px solid var(--line);
}
td {
  position: relative;
  height: 26px;
  padding: 2px 6px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border: 1px solid var(--line);
  cursor: text;
}
td:focus {
  outline: 2px solid var(--verdigris);
  outline-offset: -2px;
}
td.wrong {
  background: var(--madder-wash);
}
.narrow {
  width: 28px;
  padding: 0;
  text-align: center;
}
.remove {
  width: 24px;
  padding: 0;
  color: var(--muted);
  background: none;
  border: 0;
  cursor: pointer;
}
.remove:hover,
.remove:focus-visible {
  color: var(--madder);
}
.message td {
  height: auto;
  padding: 4px 8px;
  white-space: normal;
  border-top: 0;
}
</style>
