<script setup lang="ts" generic="Row extends { id: string }">
/** One row of a grid. It has no slots, so that scrolling draws only the rows that come into sight. */
import { computed } from 'vue'
import PictureButton from '@/ui/PictureButton.vue'
import type { GridColumn, GridNote } from './useGridColumns'
import type { GridSelection } from './useGridSelection'

const props = defineProps<{
  row: Row
  at: number
  columns: readonly GridColumn[]
  frozen: number
  lefts: readonly number[]
  selection: GridSelection
  textOf: (row: Row, field: string) => string
  nameOf: (row: Row) => string
  notes: readonly GridNote[]
}>()
const emit = defineEmits<{
  press: [event: PointerEvent, column: number]
  enter: [column: number]
  open: []
  remove: []
}>()
const wrong = computed(() => new Set(props.notes.map((note) => note.field)))
const texts = computed(() => props.columns.map((column) => props.textOf(props.row, column.field)))
const isAt = (column: number) => props.selection.isAt(props.at, column)
const isChosen = (column: number) => props.selection.isChosen(props.at, column)
</script>

<template>
  <div role="row" class="row" :aria-rowindex="at + 2">
    <div
      v-for="(column, c) in columns"
      :key="column.field"
      role="gridcell"
      class="cell"
      :class="{
        figures: column.figures,
        frozen: c < frozen,
        chosen: isChosen(c),
        wrong: wrong.has(column.field),
      }"
      :style="{ width: `${column.widthPx}px`, left: c < frozen ? `${lefts[c]}px` : undefined }"
      :data-cell="`${at}-${c}`"
      :tabindex="isAt(c) ? 0 : -1"
      :aria-colindex="c + 1"
      :aria-selected="isChosen(c)"
      :aria-invalid="wrong.has(column.field)"
      :title="texts[c]"
      @pointerdown="emit('press', $event, c)"
      @pointerenter="emit('enter', c)"
      @dblclick="emit('open')"
      @focus="isAt(c) || selection.goTo(at, c)"
    >
      <template v-if="texts[c]">{{ texts[c] }}</template>
      <span v-else-if="!row.id && c === 0" class="muted">+ new</span>
    </div>
    <div role="gridcell" class="cell narrow" :aria-colindex="columns.length + 1">
      <PictureButton
        v-if="row.id"
        class="remove"
        :data-cell="`${at}-${columns.length}`"
        :tabindex="isAt(columns.length) ? 0 : -1"
        :aria-label="`Remove ${nameOf(row)}`"
        :title="`Remove ${nameOf(row)}`"
        @focus="selection.goTo(at, columns.length)"
        @click="emit('remove')"
      >
        ×
      </PictureButton>
      <span v-else :data-cell="`${at}-${columns.length}`" tabindex="-1" />
    </div>
  </div>
</template>

<style scoped>
.row {
  display: flex;
}
.cell {
  flex: none;
  height: 27px;
  padding: 4px 6px;
  overflow: hidden;
  line-height: 18px;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: cell;
  user-select: none;
  background: var(--card);
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.cell.frozen {
  position: sticky;
  z-index: 1;
}
.cell.chosen {
  background: var(--verdigris-wash);
}
.cell.wrong {
  background: var(--madder-wash);
}
.cell:focus {
  outline: 2px solid var(--verdigris);
  outline-offset: -2px;
}
.narrow {
  width: 27px;
  padding: 0;
  text-align: center;
}
.remove {
  width: 26px;
  height: 26px;
  color: var(--muted);
  text-align: center;
}
.remove:hover,
.remove:focus-visible {
  color: var(--madder);
}
</style>
