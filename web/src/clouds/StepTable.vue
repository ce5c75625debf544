<script setup lang="ts">
import type { CloudStep } from '@/api/types'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import { STEP_WORDS } from './useClouds'

/** Steps at clouds in their order, each with what is intended and what is held; what is due has a button. */
defineProps<{ steps: readonly CloudStep[]; reached: ReadonlySet<string>; busy: boolean }>()
const emit = defineEmits<{ take: [key: string] }>()
const COLUMNS: readonly TableColumn[] = [
  { name: 'title', title: 'Step', minWidth: 190 },
  { name: 'account', title: 'Account', minWidth: 110 },
  { name: 'intended', title: 'Intended', minWidth: 120, figures: true },
  { name: 'held', title: 'In the cloud', minWidth: 110, figures: true },
  { name: 'state', title: '', minWidth: 150 },
]
</script>

<template>
  <DataTable :rows="steps" :columns="COLUMNS" label="Steps">
    <template #state="{ row }">
      <ElButton
        v-if="row.state === 'due' && reached.has(row.account)"
        size="small"
        type="primary"
        :disabled="busy"
        :aria-label="`Do it: ${row.title}, ${row.account}`"
        @click="emit('take', row.key)"
        >Do it</ElButton
      >
      <template v-else-if="row.state === 'due'"
        >to be done there: the account isn't reached from here</template
      >
      <span v-else :class="row.state">{{ row.why || STEP_WORDS[row.state] }}</span>
      <span v-if="row.state === 'due' && row.why" class="why muted">{{ row.why }}</span>
    </template>
  </DataTable>
</template>

<style scoped>
.done {
  color: var(--verdigris);
}
.refused {
  color: var(--madder);
}
.settling {
  color: var(--ochre-text, var(--ink));
}
.later,
.not-read {
  color: var(--muted);
}
.why {
  display: block;
  font-size: 12px;
}
</style>
