/** Which columns of a grid are shown, and how wide: remembered by the browser, by the name of the grid. */
import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'

export interface GridColumn {
  field: string
  title: string
  description: string
  widthPx: number
  figures: boolean
}

/** What is to be said of a cell, or with an empty field of its row. */
export interface GridNote {
  field: string
  text: string
}

const LEAST_PX = 40
const FROZEN = 2 // what an object belongs to and its name stay in sight

export function useGridColumns<Column extends GridColumn>(name: string, columns: Ref<readonly Column[]>) {
  const kept = useLocalStorage(`pontifex-grid-${name}`, {
    hidden: [] as string[],
    widths: {} as Record<string, number>,
  })
  const shown = computed(() =>
    columns.value
      .filter((column) => !kept.value.hidden.includes(column.field))
      .map((column) => ({ ...column, widthPx: kept.value.widths[column.field] ?? column.widthPx })),
  )
  const frozen = computed(() => Math.min(FROZEN, shown.value.length))
  /** Where each frozen column begins, from the left. */
  const lefts = computed(() => {
    let left = 0
    return shown.value.map((column) => (left += column.widthPx) - column.widthPx)
  })
  const widthPx = computed(() => shown.value.reduce((sum, column) => sum + column.widthPx, 0))
  const visible = computed({
    get: () => shown.value.map((column) => column.field),
    set: (fields: string[]) => {
      const hidden = columns.value.map((column) => column.field).filter((field) => !fields.includes(field))
      kept.value = { ...kept.value, hidden }
    },
  })
  function setWidth(field: string, px: number): void {
    kept.value.widths = { ...kept.value.widths, [field]: Math.max(Math.round(px), LEAST_PX) }
  }
  return { shown, frozen, lefts, widthPx, visible, setWidth }
}
