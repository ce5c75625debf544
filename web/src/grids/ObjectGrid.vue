<script setup lang="ts">
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import type { Design } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import CellGrid from '@/ui/grid/CellGrid.vue'
import type { GridNote } from '@/ui/grid/useGridColumns'
import CellEditor from './CellEditor.vue'
import { type Grid, type GridRow } from './columns'
import { NEW, useRows } from './useRows'

/** The objects of one kind, typed like a spreadsheet. What isn't accepted stays in its cell, with the reason below. */
const props = defineProps<{
  grid: Grid
  design: Design
  at: string // "id/field" to put the cursor on
}>()
const emit = defineEmits<{ paste: [text: string]; remove: [id: string] }>()

const cells = useTemplateRef<{ goTo: (id: string, field: string) => Promise<void> }>('cells')
const { rows, textOf, valuesOf, write, again, cancel, typedIn, missing } = useRows(
  useOpenDesign(),
  props.grid,
)

const titleOf = new Map(props.grid.columns.map((column) => [column.field, column.title]))
/** What a row is called; routes need no name. */
function nameOf(row: GridRow): string {
  return String(row.name || row.prefix || 'the new row')
}
type Note = GridNote & { again: boolean }
/** What is said below rows: few have anything typed in them that isn't written. */
const notes = computed(() => {
  const found = new Map<string, Note[]>()
  for (const [id, typed] of typedIn.value) {
    const refused = typed.filter(([, { reason }]) => reason)
    const told = refused.map(([field, { reason, again: waits }]) => ({
      field,
      text: `${titleOf.get(field)}: ${reason}`,
      again: waits,
    }))
    if (told.length) found.set(id, told)
  }
  if (missing.value.length) {
    const text = `Still needs: ${missing.value.map((column) => column.title).join(', ')}`
    found.set(NEW, [...(found.get(NEW) ?? []), { field: '', text, again: false }])
  }
  return found
})
function goTo(at: string): void {
  const [id = '', field = ''] = at.split('/')
  if (id) void cells.value?.goTo(id, field)
}
watch(() => props.at, goTo, { flush: 'post' })
onMounted(() => goTo(props.at))
</script>

<template>
  <CellGrid
    ref="cells"
    :name="grid.members"
    :title="grid.title"
    :columns="grid.columns"
    :rows="rows"
    :text-of="textOf"
    :name-of="nameOf"
    :notes="notes"
    @write="write"
    @cancel="cancel"
    @remove="emit('remove', $event)"
    @paste="emit('paste', $event)"
  >
    <template #tools><slot /></template>
    <template #editor="{ row, column, text, commit, cancel: leave }">
      <CellEditor
        :column="column"
        :design="design"
        :row="valuesOf(row)"
        :text="text"
        :label="`${column.title} of ${nameOf(row)}`"
        @commit="commit"
        @cancel="leave"
      />
    </template>
    <template #note="{ row }">
      <p v-for="note in notes.get(row.id)" :key="note.field" :class="note.field ? 'field-error' : 'muted'">
        <span :role="note.field ? 'alert' : 'status'">{{ note.text }}</span>
        <template v-if="note.field">
          <ElButton v-if="note.again" link type="primary" @click="again(row.id)">Write again</ElButton>
          <ElButton link type="primary" @click="cancel(row.id, note.field)">Cancel</ElButton>
        </template>
      </p>
    </template>
  </CellGrid>
</template>

<style scoped>
p {
  display: flex;
  gap: 10px;
  align-items: center;
  height: 22px;
}
</style>
