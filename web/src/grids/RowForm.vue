<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Design } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import type { Grid, GridRow } from './columns'
import RowField from './RowField.vue'
import { NEW, useRows } from './useRows'

/**
 * One object in a form, with a control for each column of its table. What is typed in it and not yet written is what is
 * typed in the table's row: it stays when the form is closed, and is written or given up in either place.
 */
const props = defineProps<{
  grid: Grid
  design: Design
  id: string // NEW for one that isn't there yet
  preset?: Record<string, string> // what a new one begins with, as typed
}>()
const emit = defineEmits<{ close: [] }>()
const { rows, textOf, valuesOf, keep, giveUp, again, typedIn, missing } = useRows(useOpenDesign(), props.grid)

const row = computed(() => rows.value.find((candidate) => candidate.id === props.id) ?? rows.value.at(-1)!)
/** Whoever else has removed it leaves nothing to be edited. */
watch(
  () => rows.value.some((candidate) => candidate.id === props.id),
  (isThere) => isThere || emit('close'),
)
const values = computed(() => valuesOf(row.value))
const waiting = computed(() => new Map(typedIn.value.get(row.value.id) ?? []))
const writing = ref(false)
/** What an object is called; routes need no name. */
const nameOf = (object: GridRow) => String(object.name || object.prefix)
const title = computed(() =>
  row.value.id === NEW ? `Add ${props.grid.label}` : `Edit ${props.grid.label}: ${nameOf(row.value)}`,
)
if (row.value.id === NEW && !waiting.value.size)
  for (const [field, text] of Object.entries(props.preset ?? {})) keep(NEW, field, text)

async function save(): Promise<void> {
  writing.value = true
  await again(row.value.id)
  writing.value = false
  if (!waiting.value.size) emit('close')
}
function cancel(): void {
  giveUp(row.value.id)
  emit('close')
}
</script>

<template>
  <ElDrawer model-value :title="title" size="560" append-to-body @close="emit('close')">
    <ElForm label-position="top" class="row-form" @submit.prevent="save">
      <ElFormItem
        v-for="column in grid.columns"
        :key="column.field"
        :class="{ wide: column.many }"
        :label="column.title"
        :required="column.required"
        :error="waiting.get(column.field)?.reason"
      >
        <RowField
          :column="column"
          :design="design"
          :row="values"
          :model-value="textOf(row, column.field)"
          @update:model-value="keep(row.id, column.field, $event)"
        />
        <p v-if="column.description" class="muted told">{{ column.description }}</p>
      </ElFormItem>
    </ElForm>
    <template #footer>
      <span v-if="row.id === NEW && missing.length" class="muted needs" role="status"
        >Still needs: {{ missing.map((column) => column.title).join(', ') }}</span
      >
      <ElButton @click="cancel">Cancel</ElButton>
      <ElButton
        type="primary"
        :loading="writing"
        :disabled="row.id === NEW && (missing.length > 0 || !waiting.size)"
        @click="save"
        >Save</ElButton
      >
    </template>
  </ElDrawer>
</template>

<style scoped>
.row-form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 16px;
  align-items: start;
}
.row-form :deep(.el-form-item) {
  margin: 0;
}
.row-form .wide {
  grid-column: 1 / -1;
}
.row-form :deep(.el-form-item__label) {
  padding: 0;
  margin: 0;
  font-weight: 600;
}
.row-form :deep(.el-form-item__content) {
  line-height: 1.4;
}
.row-form :deep(.el-form-item__error) {
  position: static;
}
.told {
  font-size: 12px;
  line-height: 1.4;
}
.needs {
  margin-right: 12px;
}
.el-button + .el-button {
  margin-left: 8px;
}
</style>
