/** The cell of a grid that the keyboard is at, and the range that is chosen from an anchor to it. */
import { computed, ref, type Ref } from 'vue'

export interface Spot {
  row: number
  column: number
}

export interface Range {
  top: number
  bottom: number
  left: number
  right: number
}

export function useGridSelection(rows: Ref<number>, columns: Ref<number>) {
  const cursor = ref<Spot>({ row: 0, column: 0 })
  const anchor = ref<Spot>({ row: 0, column: 0 })
  const range = computed<Range>(() => ({
    top: Math.min(anchor.value.row, cursor.value.row),
    bottom: Math.max(anchor.value.row, cursor.value.row),
    left: Math.min(anchor.value.column, cursor.value.column),
    right: Math.max(anchor.value.column, cursor.value.column),
  }))

  /** Put the cursor on a cell, or on the nearest one that there is; with `extends`, the range follows it. */
  function goTo(row: number, column: number, extend = false): void {
    const within = (at: number, count: number) => Math.min(Math.max(at, 0), Math.max(count - 1, 0))
    cursor.value = { row: within(row, rows.value), column: within(column, columns.value) }
    if (!extend) anchor.value = cursor.value
  }
  function step(rowStep: number, columnStep: number, extend = false): void {
    goTo(cursor.value.row + rowStep, cursor.value.column + columnStep, extend)
  }
  function chooseAll(): void {
    anchor.value = { row: 0, column: 0 }
    cursor.value = { row: Math.max(rows.value - 1, 0), column: Math.max(columns.value - 1, 0) }
  }
  const isAt = (row: number, column: number) => cursor.value.row === row && cursor.value.column === column
  function isChosen(row: number, column: number): boolean {
    const { top, bottom, left, right } = range.value
    return row >= top && row <= bottom && column >= left && column <= right
  }
  return { cursor, range, goTo, step, chooseAll, isAt, isChosen }
}

export type GridSelection = ReturnType<typeof useGridSelection>

const FAR = 1_000_000
const PAGE = 20

/** Where a key moves the cursor: rows and columns. */
export const MOVES: Readonly<Record<string, readonly [number, number]>> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  Home: [0, -FAR],
  End: [0, FAR],
  PageUp: [-PAGE, 0],
  PageDown: [PAGE, 0],
}
/** With the Ctrl key, to the edge. */
export const FAR_MOVES: Readonly<Record<string, readonly [number, number]>> = {
  ArrowUp: [-FAR, 0],
  ArrowDown: [FAR, 0],
  ArrowLeft: [0, -FAR],
  ArrowRight: [0, FAR],
  Home: [-FAR, -FAR],
  End: [FAR, FAR],
}
