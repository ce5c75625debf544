<script setup lang="ts">
import { computed } from 'vue'
import type { ProbePair, Rehearsal } from '@/api/types'
import DataTable from '@/ui/DataTable.vue'

/** The same probe before the call and after it, beside what the forecast expects. */
const props = defineProps<{ rehearsal: Rehearsal }>()

const COLUMNS = [
  { name: 'what', title: 'Ping', minWidth: 230 },
  { name: 'before', title: 'Before', minWidth: 120 },
  { name: 'after', title: 'After', minWidth: 140 },
  { name: 'expected', title: 'Expected', width: 90 },
]
const names = computed(() => ({ left: props.rehearsal.left_name, right: props.rehearsal.right_name }))
const KINDS: Record<ProbePair['after']['kind'], string> = {
  across: '',
  largest: ', the largest packet',
  'too-large': ', one octet more',
  tcp: ', a connection',
  hops: ', hop by hop',
}
function what(pair: ProbePair): string {
  const { sender, kind } = pair.after
  return `${names.value[sender]} → ${names.value[sender === 'left' ? 'right' : 'left']}${KINDS[kind]}`
}
/** Sizes are told where there is a Child SA to be measured. */
const rows = computed(() =>
  props.rehearsal.probes.filter((pair) => pair.after.kind === 'across' || pair.after.octets > 0),
)
function colour(pair: ProbePair): string {
  if (pair.after.passes) return pair.expected ? 'good' : 'bad'
  return pair.after.kind === 'too-large' ? 'muted' : 'bad'
}
function told(result: ProbePair['after']): string {
  return result.passes ? result.text : `lost: ${result.text}`
}
</script>

<template>
  <section class="probes" aria-label="Probes before and after">
    <DataTable :rows="rows" :columns="COLUMNS" label="Probes before and after">
      <template #what="{ row }">{{ what(row) }}</template>
      <template #before="{ row }">{{ told(row.before) }}</template>
      <template #after="{ row }">
        <span :class="colour(row)">{{ told(row.after) }}</span>
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
