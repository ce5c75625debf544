<script setup lang="ts">
import { computed } from 'vue'
import type { ProbePair, Rehearsal } from '@/api/types'
import DataTable from '@/ui/DataTable.vue'

/** The same probe before the call and after it, beside what the forecast expects. */
const props = defineProps<{ rehearsal: Rehearsal }>()

const COLUMNS = [
  { name: 'what', title: 'Ping', minWidth: 150 },
  { name: 'before', title: 'Before', minWidth: 140 },
  { name: 'after', title: 'After', minWidth: 140 },
  { name: 'expected', title: 'Expected', width: 90 },
]
const names = computed(() => ({ left: props.rehearsal.left_name, right: props.rehearsal.right_name }))
function what(pair: ProbePair): string {
  const { sender } = pair.after
  return `${names.value[sender]} → ${names.value[sender === 'left' ? 'right' : 'left']}`
}
function told(result: ProbePair['after']): string {
  return result.passes ? result.text : `lost: ${result.text}`
}
</script>

<template>
  <section class="probes" aria-label="Probes before and after">
    <DataTable :rows="rehearsal.probes" :columns="COLUMNS" label="Probes before and after">
      <template #what="{ row }">{{ what(row) }}</template>
      <template #before="{ row }">{{ told(row.before) }}</template>
      <template #after="{ row }">
        <span :class="row.after.passes ? 'good' : 'bad'">{{ told(row.after) }}</span>
      </template>
      <template #expected="{ row }">{{ row.expected ? 'passes' : 'lost' }}</template>
    </DataTable>
  </section>
</template>

<style scoped>
.probes {
  margin-top: 10px;
}
.good {
  color: var(--verdigris);
}
.bad {
  color: var(--madder);
}
</style>
