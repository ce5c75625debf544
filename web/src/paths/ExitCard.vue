<script setup lang="ts">
import { computed } from 'vue'
import type { ExitShown, ExitWorkload, Outside } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import { REACH_WORDS } from './reach'
import ExitRehearsal from './ExitRehearsal.vue'
import ReachMark from './ReachMark.vue'
import SeenOutside from './SeenOutside.vue'

/** One exit: its workloads on the left, the addresses under which the outside sees them on the right. */
const props = defineProps<{ shown: ExitShown }>()
const { design } = useOpenDesign()
const table = computed(() => props.shown.table)
const uplinkOf = (id: string | null | undefined) => design.value?.uplinks.find((uplink) => uplink.id === id)
const siteOf = (gatewayId: string | undefined) => {
  const gateway = design.value?.gateways.find((candidate) => candidate.id === gatewayId)
  return design.value?.sites.find((site) => site.id === gateway?.site_id)?.name ?? ''
}
const owner = computed(
  () =>
    design.value?.hosts.find((host) => host.id === table.value.host_id)?.name ??
    design.value?.gateways.find((gateway) => gateway.id === table.value.gateway_id)?.name,
)
const HOW: Record<ExitWorkload['how'], string> = {
  shares: 'shares its network',
  routed: 'is routed to it',
  aside: 'leaves elsewhere',
}
function words(outside: Outside): string {
  const uplink = uplinkOf(outside.uplink_id)
  if (!uplink) return outside.fate === 'lost' ? 'goes nowhere' : outside.fate
  return `${outside.address ?? 'its provider’s address'}, by ${siteOf(uplink.gateway_id)} ${uplink.name}`
}
const isBad = (outside: Outside) => outside.fate === 'leaks'
const last = (workload: ExitWorkload): Outside => workload.fallbacks.at(-1) ?? workload.outside
const COLUMNS: readonly TableColumn[] = [
  { name: 'name', title: 'Workload', minWidth: 120 },
  { name: 'outside', title: 'The outside sees', minWidth: 180 },
  { name: 'down', title: 'With its tunnels down', minWidth: 180 },
  { name: 'restarting', title: 'While the exit restarts', minWidth: 120 },
  { name: 'seen', title: 'Seen outside as', minWidth: 190 },
]
const RESTARTING: Record<ExitWorkload['restarting'], string> = {
  'leaves by the exit': 'goes on',
  leaks: 'leaks',
  held: 'is held',
  lost: 'has no network',
  'not known': 'not known',
}
const restarting = computed(() => `When it restarts, ${props.shown.order.restarting}`)
const nameOf = (hostId: string) => design.value?.hosts.find((host) => host.id === hostId)?.name ?? hostId
</script>

<template>
  <article class="exit" :aria-label="table.name">
    <h2>{{ table.name }}</h2>
    <p class="muted">The network of {{ owner }} at {{ siteOf(table.gateway_id) }}. {{ restarting }}.</p>
    <DataTable :rows="table.workloads" :columns="COLUMNS" label="Workloads" empty="Nothing hangs on it yet.">
      <template #name="{ row }">
        {{ row.name }}<span class="how muted">{{ HOW[row.how] }}</span>
        <span v-if="row.ports.length" class="how muted figures">port {{ row.ports.join(', ') }}</span>
      </template>
      <template #outside="{ row }">
        <span :class="{ bad: isBad(row.outside) }" :title="row.outside.why">{{ words(row.outside) }}</span>
        <span
          v-for="(fallback, at) in row.fallbacks.slice(0, -1)"
          :key="at"
          class="how muted"
          :title="fallback.why"
          >then {{ words(fallback) }}</span
        >
      </template>
      <template #down="{ row }">
        <strong v-if="isBad(last(row))" class="bad leak">leaks:</strong>
        <span :title="last(row).why"> {{ words(last(row)) }}</span>
      </template>
      <template #restarting="{ row }"
        ><span :class="{ bad: row.restarting === 'leaks' }">{{ RESTARTING[row.restarting] }}</span></template
      >
      <template #seen="{ row }"><SeenOutside v-if="row.host_id" :workload="row" /></template>
    </DataTable>
    <ExitRehearsal :exit-id="table.exit_id" />
    <h3>Starts in this order</h3>
    <ol class="chain">
      <li v-for="name in shown.order.starts" :key="name">{{ name }}</li>
    </ol>
    <template v-if="table.access.length">
      <h3>Reached from inside</h3>
      <ul class="access">
        <li
          v-for="access in table.access"
          :key="`${access.host_id} ${access.port} ${access.source}`"
          :title="access.why"
        >
          <ReachMark :reach="access.reach" />
          {{ nameOf(access.host_id) }},
          <span class="figures">{{ access.at }} port {{ access.port }}</span> from
          <span class="figures">{{ access.source }}</span>: {{ REACH_WORDS[access.reach] }}
        </li>
      </ul>
    </template>
    <template v-if="shown.order.attaching.length">
      <h3>Attaching, step by step</h3>
      <ol class="steps">
        <li v-for="step in shown.order.attaching" :key="step.what">
          {{ step.what }} <span class="muted">check: {{ step.check }}</span>
        </li>
      </ol>
    </template>
  </article>
</template>

<style scoped>
.exit {
  padding-bottom: 16px;
}
h2 {
  margin: 0;
  font-size: 16px;
}
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.how {
  display: block;
  font-size: 12px;
}
.bad {
  color: var(--madder);
}
.leak {
  margin-right: 4px;
}
.chain,
.access {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 0;
  margin: 0;
  list-style: none;
}
.access {
  flex-direction: column;
}
.access li {
  display: flex;
  gap: 6px;
  align-items: center;
}
.chain li {
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.chain li + li::before {
  margin-right: 8px;
  color: var(--muted);
  content: '→';
}
.steps {
  padding-left: 20px;
  margin: 0;
}
</style>
