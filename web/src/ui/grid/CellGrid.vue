<script setup lang="ts" generic="Row extends { id: string }, Column extends GridColumn">
/**
 * A grid that is used like a spreadsheet. Element Plus's virtual table draws its frozen columns as a second table, so
 * that a screen reader hears two halves of each row, and knows neither ranges nor a cursor; so its rows are drawn
 * here, by a virtualizer that draws only those in sight.
 */
import { useEventListener, useResizeObserver } from '@vueuse/core'
import { computed, nextTick, ref, toRef, useTemplateRef, watch } from 'vue'
import { useVisibleRows } from '@/ui/useVisibleRows'
import GridHead from './GridHead.vue'
import GridRow from './GridRow.vue'
import GridTools from './GridTools.vue'
import { clipboardText } from './clipboard'
import { useGridColumns, type GridColumn, type GridNote } from './useGridColumns'
import { useGridOrder } from './useGridOrder'
import { FAR_MOVES, MOVES, useGridSelection } from './useGridSelection'

/** What is to stand in a cell. */
export interface CellText {
  id: string
  field: string
  text: string
}

const NO_NOTES: readonly GridNote[] = []
const ROW_PX = 27 // with its hairline
const NOTE_PX = 22

const props = defineProps<{
  name: string // by which the browser remembers columns and widths
  title: string
  columns: readonly Column[]
  rows: readonly Row[] // the last one is where a new object is typed; its id is empty
  textOf: (row: Row, field: string) => string
  nameOf: (row: Row) => string
  notes: ReadonlyMap<string, readonly GridNote[]> // by id: what is wrong with a cell, below its row
}>()
const emit = defineEmits<{
  write: [cells: CellText[]]
  cancel: [id: string, field: string]
  remove: [id: string]
  paste: [text: string]
}>()
defineSlots<{
  tools: () => unknown
  note: (props: { row: Row }) => unknown
  editor: (props: {
    row: Row
    column: Column
    text: string
    commit: (text: string, step: [number, number]) => void
    cancel: () => void
  }) => unknown
}>()

const notesOf = (row: Row) => props.notes.get(row.id) ?? NO_NOTES
const scroller = useTemplateRef<HTMLElement>('scroller')
const body = useTemplateRef<HTMLElement>('body')
const editing = ref(false)
const seed = ref<string | null>(null) // what was typed to start editing; null keeps the cell's text

const { shown, frozen, lefts, widthPx, visible, setWidth } = useGridColumns<Column>(
  props.name,
  toRef(props, 'columns'),
)
const fields = computed(() => shown.value.map((column) => column.field))
const objects = computed(() => props.rows.filter((row) => row.id))
const { sought, sorting, ordered, sortBy } = useGridOrder(objects, fields, (row, field) =>
  props.textOf(row, field),
)
const all = computed<readonly Row[]>(() => [...ordered.value, ...props.rows.filter((row) => !row.id)])
const selection = useGridSelection(
  computed(() => all.value.length),
  computed(() => shown.value.length + 1), // with the column that removes
)
const { cursor, range, isAt } = selection
const {
  rows: virtual,
  drawn,
  totalPx,
} = useVisibleRows({
  items: all,
  scroller,
  heightPx: (row) => ROW_PX + notesOf(row).length * NOTE_PX,
  beyond: 12,
})
watch(
  () => props.notes,
  () => virtual.value.measure(),
)
const noted = computed(() => drawn.value.filter(({ item }) => notesOf(item).length))
const headPx = ref(0)
useResizeObserver(body, () => (headPx.value = body.value?.offsetTop ?? 0))
/** The cell that is being edited: drawn above the rows, which have no slots. */
const opened = computed(() => {
  const { row: at, column: c } = cursor.value
  const [row, column] = [all.value[at], shown.value[c]]
  const place = drawn.value.find((candidate) => candidate.at === at)
  if (!editing.value || !row || !column || !place) return null
  const scrolled = c < frozen.value ? (scroller.value?.scrollLeft ?? 0) : 0
  const style = {
    top: `${headPx.value + place.top}px`,
    left: `${(lefts.value[c] ?? 0) + scrolled}px`,
    width: `${column.widthPx}px`,
  }
  return { row, column, style }
})

async function focusCursor(): Promise<void> {
  virtual.value.scrollToIndex(cursor.value.row)
  await nextTick()
  const find = () =>
    scroller.value?.querySelector<HTMLElement>(`[data-cell="${cursor.value.row}-${cursor.value.column}"]`)
  if (!find()) await new Promise((drawnAnew) => requestAnimationFrame(drawnAnew))
  const cell = find()
  cell?.focus({ preventScroll: true })
  cell?.scrollIntoView?.({ block: 'nearest', inline: 'nearest' })
}
async function goTo(id: string, field: string): Promise<void> {
  if (!all.value.some((row) => row.id === id)) sought.value = ''
  const column = shown.value.findIndex((candidate) => candidate.field === field)
  const row = all.value.findIndex((candidate) => candidate.id === id)
  if (row < 0) return
  selection.goTo(row, Math.max(column, 0))
  await focusCursor()
}
defineExpose({ goTo })

const typedRow = ref('') // the row that is new, or was when its typing began: there Enter goes on to the right

/** The cursor stays with its object when rows are sorted anew, or come and go, and with the one that was just typed. */
watch(all, (now, before) => {
  let id = before[cursor.value.row]?.id
  if (id === '' && now.length === before.length + 1) {
    const known = new Set(before.map((row) => row.id))
    id = typedRow.value = now.find((row) => !known.has(row.id))?.id ?? ''
  }
  const at = id ? now.findIndex((row) => row.id === id) : -1
  if (at >= 0 && at !== cursor.value.row) selection.goTo(at, cursor.value.column)
  else if (cursor.value.row >= now.length) selection.goTo(now.length - 1, cursor.value.column)
})

function edit(typed: string | null): void {
  if (cursor.value.column >= shown.value.length) return
  selection.goTo(cursor.value.row, cursor.value.column)
  seed.value = typed
  editing.value = true
}
async function commit(row: Row, column: Column, text: string, step: [number, number]): Promise<void> {
  editing.value = false
  emit('write', [{ id: row.id, field: column.field, text }])
  const goesOn = !row.id || row.id === typedRow.value
  const [down, across]: [number, number] = goesOn && step[0] ? [0, 1] : step
  selection.step(down, across)
  await focusCursor()
}
async function cancel(row: Row, column: Column): Promise<void> {
  editing.value = false
  emit('cancel', row.id, column.field)
  await focusCursor()
}
/** The cells of the range, row by row. */
function chosenCells(): { row: Row; column: Column }[][] {
  const { top, bottom, left, right } = range.value
  const columns = shown.value.slice(left, right + 1)
  return all.value.slice(top, bottom + 1).map((row) => columns.map((column) => ({ row, column })))
}
function fillDown(): void {
  const [first, ...rest] = chosenCells()
  const texts = first?.map(({ row, column }) => props.textOf(row, column.field)) ?? []
  emit(
    'write',
    rest.flatMap((cells) =>
      cells.map(({ row, column }, at) => ({ id: row.id, field: column.field, text: texts[at] ?? '' })),
    ),
  )
}
function clear(): void {
  const cells = chosenCells().flat()
  emit(
    'write',
    cells.map(({ row, column }) => ({ id: row.id, field: column.field, text: '' })),
  )
}
function onKey(event: KeyboardEvent): void {
  if (editing.value) return
  const control = event.ctrlKey || event.metaKey
  const types = event.key.length === 1 && !control && !event.altKey
  const step = (control ? FAR_MOVES : MOVES)[event.key]
  if (step) {
    selection.step(...step, event.shiftKey)
    void focusCursor()
  } else if (cursor.value.column >= shown.value.length) return
  else if (event.key === 'Enter' || event.key === 'F2' || types) edit(types ? event.key : null)
  else if (event.key === 'Delete' || event.key === 'Backspace') clear()
  else if (control && event.key === 'd') fillDown()
  else if (control && event.key === 'a') selection.chooseAll()
  else return
  event.preventDefault()
}
function onCopy(event: ClipboardEvent): void {
  if (editing.value) return
  const rows = chosenCells().map((cells) => cells.map(({ row, column }) => props.textOf(row, column.field)))
  event.clipboardData?.setData('text/plain', clipboardText.of(rows))
  event.preventDefault()
}
/** In the first column, or in the new row, whole rows are pasted, which are shown first; elsewhere cells. */
function onPaste(event: ClipboardEvent): void {
  if (editing.value) return
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!text.trim()) return
  event.preventDefault()
  const { row: top, column: left } = cursor.value
  const cells = clipboardText.read(text)
  const isRows = (cells[0]?.length ?? 0) > 1 && left === 0
  if (isRows || !all.value[top]?.id) return emit('paste', text)
  const under = all.value.slice(top, top + cells.length).filter((row) => row.id)
  const isOne = cells.length === 1 && cells[0]?.length === 1
  const targets = isOne
    ? chosenCells().map((row) => row.map(({ row: { id }, column: { field } }) => ({ id, field })))
    : under.map(({ id }) => shown.value.slice(left).map(({ field }) => ({ id, field })))
  emit(
    'write',
    targets.flatMap((row, r) =>
      row.flatMap((target, c) => {
        const found = isOne ? cells[0]?.[0] : cells[r]?.[c]
        return found === undefined ? [] : [{ ...target, text: found }]
      }),
    ),
  )
}

const dragging = ref(false)
useEventListener(window, 'pointerup', () => (dragging.value = false))
function press(event: PointerEvent, row: number, column: number): void {
  if (editing.value && isAt(row, column)) return
  const again = isAt(row, column) && document.activeElement?.contains(event.target as Node)
  selection.goTo(row, column, event.shiftKey)
  dragging.value = true
  if (again && !event.shiftKey) edit(null)
}
function enter(row: number, column: number): void {
  if (dragging.value && !editing.value) selection.goTo(row, column, true)
}
</script>

<template>
  <div class="cell-grid">
    <GridTools
      v-model:sought="sought"
      v-model:visible="visible"
      :title="title"
      :columns="columns"
      :found="ordered.length"
      :total="objects.length"
    >
      <slot name="tools" />
    </GridTools>
    <div ref="scroller" class="scroller printed-whole" @keydown="onKey" @copy="onCopy" @paste="onPaste">
      <div
        role="grid"
        :aria-label="title"
        :aria-rowcount="all.length + 1"
        :aria-colcount="shown.length + 1"
        :style="{ width: `${widthPx + ROW_PX}px` }"
      >
        <GridHead
          :columns="shown"
          :frozen="frozen"
          :lefts="lefts"
          :sorting="sorting"
          :width-px="widthPx"
          :at="cursor.column"
          @sort="sortBy"
          @resize="setWidth"
        />
        <div ref="body" role="rowgroup" class="body" :style="{ height: `${totalPx}px` }">
          <GridRow
            v-for="{ item: row, at, top } in drawn"
            :key="row.id"
            class="placed"
            :style="{ transform: `translateY(${top}px)` }"
            :row="row"
            :at="at"
            :columns="shown"
            :frozen="frozen"
            :lefts="lefts"
            :selection="selection"
            :text-of="textOf"
            :name-of="nameOf"
            :notes="notesOf(row)"
            @press="(event, column) => press(event, at, column)"
            @enter="enter(at, $event)"
            @open="edit(null)"
            @remove="emit('remove', row.id)"
          />
        </div>
      </div>
      <div v-if="opened" class="opened" :style="opened.style">
        <slot
          name="editor"
          :row="opened.row"
          :column="opened.column as Column"
          :text="seed ?? textOf(opened.row, opened.column.field)"
          :commit="
            (text: string, step: [number, number]) =>
              commit(opened!.row, opened!.column as Column, text, step)
          "
          :cancel="() => cancel(opened!.row, opened!.column as Column)"
        />
      </div>
      <div
        v-for="{ item: row, top } in noted"
        :key="row.id"
        class="notes"
        :style="{ top: `${headPx + top + ROW_PX}px` }"
      >
        <div class="note"><slot name="note" :row="row" /></div>
      </div>
    </div>
  </div>
</template>

<style scoped src="./CellGrid.css"></style>
