<script setup lang="ts">
import { computed } from 'vue'
import type { ProbePair, Rehearsal } from '@/api/types'
import DataTable from '@/ui/DataTable.vue'
import { isForeseen, type ProbeKind, toldProbes } from './probes'

/** The same probe before the call and after it, beside what forecast and trace expect. */
const props = defineProps<{ rehearsal: Rehearsal }>()

const COLUMNS = [
  { name: 'what', title: 'Probe', minWidth: 230 },
  { name: 'before', title: 'Before', minWidth: 150 },
  { name: 'after', title: 'After', minWidth: 170 },
  { name: 'expected', title: 'Expected', width: 130 },
]
const names = computed(() => ({ left: props.rehearsal.left_name, right: props.rehearsal.right_name }))
/** What the tunnel itself carries goes from network to network; what hosts try is told by what they want. */
const KINDS: Record<ProbeKind, string> = {
  across: 'ping',
  largest: 'ping, the largest packet',
  'too-large': 'ping, one octet more',
  tcp: 'a connection of TCP',
  hops: 'hop by hop',
  outside: 'the address seen outside',
  resolver: 'who answers a name',
}
const AT_HOME: readonly ProbeKind[] = ['outside', 'resolver']
function what(pair: ProbePair): string {
  const { sender, kind } = pair.after
  const far = names.value[sender === 'left' ? 'right' : 'left']
  return AT_HOME.includes(kind)
    ? `${names.value[sender]}: ${KINDS[kind]}`
    : `${names.value[sender]} → ${far}: ${KINDS[kind]}`
}
const rows = computed(() => toldProbes(props.rehearsal))
function expected(pair: ProbePair): string {
  return pair.foreseen.join(', ') || (pair.expected ? 'passes' : 'lost')
}
function colour(pair: ProbePair): string {
  if (pair.after.passes) return isForeseen(props.rehearsal, pair) ? 'good' : 'bad'
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
      <template #expected="{ row }">
        {{ expected(row) }}
        <span v-if="!isForeseen(rehearsal, row)" class="bad"
          >Not as foreseen: one of the two is wrong, and that is our fault.</span
        >
      </template>
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
