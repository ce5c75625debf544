<script setup lang="ts">
/** The heads of a grid's columns: a press sorts, the right edge is drawn to a width. */
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import PictureButton from '@/ui/PictureButton.vue'
import type { GridColumn } from './useGridColumns'
import type { Sorting } from './useGridOrder'

const STEP_PX = 16

defineProps<{
  columns: readonly GridColumn[]
  frozen: number
  lefts: readonly number[]
  sorting: Sorting | null
  widthPx: number
  at: number // the column of the cursor, whose head the keyboard reaches
}>()
const emit = defineEmits<{ sort: [field: string]; resize: [field: string, px: number] }>()

const drawn = ref<{ field: string; from: number; px: number } | null>(null)
function grip(event: PointerEvent, column: GridColumn): void {
  event.preventDefault()
  drawn.value = { field: column.field, from: event.clientX, px: column.widthPx }
}
useEventListener(window, 'pointermove', (event: PointerEvent) => {
  if (drawn.value) emit('resize', drawn.value.field, drawn.value.px + event.clientX - drawn.value.from)
})
useEventListener(window, 'pointerup', () => (drawn.value = null))
function onKey(event: KeyboardEvent, column: GridColumn): void {
  const step = { ArrowLeft: -STEP_PX, ArrowRight: STEP_PX }[event.key]
  event.stopPropagation()
  if (step && event.altKey) emit('resize', column.field, column.widthPx + step)
}
const orderOf = (field: string, sorting: Sorting | null) =>
  sorting?.field !== field ? 'none' : sorting.descending ? 'descending' : 'ascending'
</script>

<template>
  <div role="row" class="head" :style="{ width: `${widthPx + 27}px` }">
    <div
      v-for="(column, c) in columns"
      :key="column.field"
      role="columnheader"
      class="title"
      :class="{ frozen: c < frozen }"
      :style="{ width: `${column.widthPx}px`, ...(c < frozen ? { left: `${lefts[c] ?? 0}px` } : {}) }"
      :aria-colindex="c + 1"
      :aria-sort="orderOf(column.field, sorting)"
    >
      <PictureButton
        class="sort"
        :tabindex="c === at ? 0 : -1"
        :title="[column.title, column.description].filter(Boolean).join('. ')"
        @click="emit('sort', column.field)"
        @keydown="onKey($event, column)"
        >{{ column.title
        }}<span v-if="sorting?.field === column.field" aria-hidden="true">
          {{ sorting.descending ? '▾' : '▴' }}</span
        ></PictureButton
      >
      <span class="grip" aria-hidden="true" @pointerdown="grip($event, column)" />
    </div>
    <div role="columnheader" class="title narrow" :aria-colindex="columns.length + 1">
      <span class="visually-hidden">Remove</span>
    </div>
  </div>
</template>

<style scoped>
.head {
  position: sticky;
  top: 0;
  z-index: 3;
  display: flex;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
}
.title {
  position: relative;
  flex: none;
  padding: 3px 6px;
  font-size: 12px;
  line-height: 1.25;
  color: var(--muted);
  background: var(--paper);
}
.title.frozen {
  position: sticky;
  z-index: 1;
}
.sort {
  width: 100%;
  height: 100%;
  font-weight: 500;
  color: inherit;
  overflow-wrap: break-word;
}
.grip {
  position: absolute;
  top: 0;
  right: 0;
  bottom: 0;
  width: 6px;
  cursor: col-resize;
  border-right: 1px solid var(--line);
}
.narrow {
  width: 27px;
  overflow: hidden;
}
</style>
