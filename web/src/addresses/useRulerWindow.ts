/** The part of a ruler that is in sight: zoomed and moved within its root. */
import { computed, ref, watch, type Ref } from 'vue'
import type { Extent, Root } from './blocks'

const SMALLEST = 1 // unit

export function useRulerWindow(root: Ref<Root>, begin: () => Extent) {
  const window = ref<Extent>(begin())

  function show(extent: Extent): void {
    const size = Math.min(Math.max(extent.size, SMALLEST), root.value.units)
    const first = Math.min(Math.max(extent.first, 0), root.value.units - size)
    window.value = { first, size }
  }
  /** Make what is in sight larger or smaller; `at` (0 to 1) stays where it is. */
  function zoom(factor: number, at = 0.5): void {
    const { first, size } = window.value
    const wanted = Math.min(Math.max(size * factor, SMALLEST), root.value.units)
    show({ first: first + (size - wanted) * at, size: wanted })
  }
  /** Move by a part of what is in sight. */
  function move(part: number): void {
    show({ first: window.value.first + window.value.size * part, size: window.value.size })
  }
  /** Show an extent with some room around it. */
  function fit(extent: Extent): void {
    const margin = extent.size / 8
    show({ first: extent.first - margin, size: extent.size + 2 * margin })
  }
  watch(root, () => show(begin()))
  return {
    window,
    whole: computed(() => window.value.size >= root.value.units),
    show,
    fit,
    zoom,
    move,
    reset: () => show({ first: 0, size: root.value.units }),
  }
}
