<script setup lang="ts" generic="Row extends object">
/** A plain table of rows: Element Plus's, which doesn't know the type of a row in the cells that it draws. */
export interface TableColumn {
  name: string // of the slot that draws its cells, or of the field that they show
  title: string
  width?: number
  minWidth?: number
  figures?: boolean
}
defineProps<{
  rows: readonly Row[]
  columns: readonly TableColumn[]
  label: string
  empty?: string
  rowClass?: (row: Row) => string
}>()
/** What a row holds in a field, where no slot draws it; a column that is neither must not look empty. */
function plain(row: object, field: string): unknown {
  if (!(field in row)) throw new Error(`a column is drawn by no slot, and rows have no field ${field}`)
  return row[field as keyof typeof row]
}
defineSlots<Record<string, (props: { row: Row }) => unknown>>()
</script>

<template>
  <ElTable
    :data="rows as Row[]"
    :aria-label="label"
    :empty-text="empty ?? 'Nothing'"
    :row-class-name="({ row }) => rowClass?.(row as Row) ?? ''"
  >
    <ElTableColumn
      v-for="column in columns"
      :key="column.name"
      :prop="column.name"
      :label="column.title"
      :width="column.width"
      :min-width="column.minWidth"
      :class-name="column.figures ? 'figures' : ''"
    >
      <template #default="{ row }">
        <slot :name="column.name" :row="row as Row">{{ plain(row, column.name) }}</slot>
      </template>
    </ElTableColumn>
  </ElTable>
</template>
