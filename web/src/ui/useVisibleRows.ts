/** Of a long list only the rows in sight are drawn, and all on paper: which ones, and where each begins. */
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useMediaQuery } from '@vueuse/core'
import { computed, type Ref } from 'vue'

interface Rows<Item> {
  items: Readonly<Ref<readonly Item[]>>
  scroller: Readonly<Ref<HTMLElement | null>>
  heightPx: (item: Item) => number
  beyond: number // how many are drawn above and below what is in sight
}
const BEFORE_IT_IS_MEASURED = { width: 800, height: 600 }

export function useVisibleRows<Item>({ items, scroller, heightPx, beyond }: Rows<Item>) {
  const isPrinted = useMediaQuery('print')
  const rows = useVirtualizer(
    computed(() => ({
      count: items.value.length,
      getScrollElement: () => scroller.value,
      estimateSize: (at: number) => heightPx(items.value[at]!),
      overscan: isPrinted.value ? items.value.length : beyond,
      initialRect: BEFORE_IT_IS_MEASURED,
    })),
  )
  const drawn = computed(() =>
    rows.value.getVirtualItems().flatMap(({ index, start }) => {
      const item = items.value[index]
      return item === undefined ? [] : [{ item, at: index, top: start }]
    }),
  )
  const totalPx = computed(() => rows.value.getTotalSize())
  return { rows, drawn, totalPx }
}
