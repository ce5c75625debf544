<script setup lang="ts">
/** Above a grid: what it is filtered by, which columns it shows, and its keys. */
import type { GridColumn } from './useGridColumns'

defineProps<{ title: string; columns: readonly GridColumn[]; found: number; total: number }>()
const sought = defineModel<string>('sought', { required: true })
const visible = defineModel<string[]>('visible', { required: true })
const KEYS = [
  ['Enter, F2 or typing', 'edits a cell; Enter writes it, Esc leaves it as it was'],
  ['Shift with arrows', 'chooses a range'],
  ['Ctrl-C, Ctrl-V', 'copies the range, pastes over it'],
  ['Ctrl-D', 'fills the range with its first row'],
  ['Delete', 'empties the range'],
  ['Shift-Tab, then Enter', 'sorts by the column; Alt with arrows sets its width'],
  ['Tab', 'leaves the grid'],
] as const
</script>

<template>
  <div class="tools">
    <ElInput
      v-model="sought"
      class="sought"
      clearable
      placeholder="Only rows that hold …"
      :aria-label="`Filter ${title.toLowerCase()}`"
    />
    <span v-if="sought" class="muted" role="status">{{ found }} of {{ total }}</span>
    <ElPopover trigger="click" width="240" placement="bottom-start">
      <template #reference><ElButton>Columns</ElButton></template>
      <ElCheckboxGroup v-model="visible" class="columns" aria-label="Columns that are shown">
        <ElCheckbox v-for="column in columns" :key="column.field" :value="column.field">{{
          column.title
        }}</ElCheckbox>
      </ElCheckboxGroup>
    </ElPopover>
    <ElPopover trigger="click" width="400" placement="bottom-start">
      <template #reference><ElButton>Keys</ElButton></template>
      <dl>
        <template v-for="[key, does] in KEYS" :key="key">
          <dt>{{ key }}</dt>
          <dd class="muted">{{ does }}</dd>
        </template>
      </dl>
    </ElPopover>
    <span class="muted hint">Tab leaves the grid</span>
    <slot />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.sought {
  --el-input-width: 190px;
}
.columns {
  display: flex;
  flex-direction: column;
  max-height: 320px;
  overflow: auto;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 12px;
  margin: 0;
}
dd {
  margin: 0;
}
.hint {
  font-size: 12px;
}
@media print {
  .tools {
    display: none;
  }
}
</style>
