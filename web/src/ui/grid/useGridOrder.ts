/** In which order the rows of a grid stand, and which of them: sorted by a column, and filtered by a text. */
import { computed, ref, type Ref } from 'vue'

export interface Sorting {
  field: string
  descending: boolean
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

export function useGridOrder<Row>(
  rows: Ref<readonly Row[]>,
  fields: Ref<readonly string[]>,
  textOf: (row: Row, field: string) => string,
) {
  const sought = ref('')
  const sorting = ref<Sorting | null>(null)
  const found = computed(() => {
    const wanted = sought.value.trim().toLowerCase()
    if (!wanted) return rows.value
    return rows.value.filter((row) =>
      fields.value.some((field) => textOf(row, field).toLowerCase().includes(wanted)),
    )
  })
  const ordered = computed<readonly Row[]>(() => {
    const by = sorting.value
    if (!by) return found.value
    const texts = new Map(found.value.map((row) => [row, textOf(row, by.field)]))
    const way = by.descending ? -1 : 1
    return [...found.value].sort((a, b) => way * collator.compare(texts.get(a) ?? '', texts.get(b) ?? ''))
  })
  /** A press on a head sorts by it, a second one turns the order round, a third one gives it up. */
  function sortBy(field: string): void {
    const now = sorting.value
    if (now?.field !== field) sorting.value = { field, descending: false }
    else sorting.value = now.descending ? null : { field, descending: true }
  }
  return { sought, sorting, ordered, sortBy }
}
