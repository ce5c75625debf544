<script setup lang="ts">
import { computed } from 'vue'
import type { CloudPeeringShown, CloudsShown } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { REACH_WORDS } from '@/paths/reach'
import ReachMark from '@/paths/ReachMark.vue'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import { dateAndTime } from '@/ui/words'
import CloudCard from './CloudCard.vue'
import StepTable from './StepTable.vue'
import { PEERING_WORDS } from './useClouds'

/** Two cloud networks and what links them: who has what, the steps that are left, and what reaches what before and after. */
const props = defineProps<{
  peering: CloudPeeringShown
  shown: CloudsShown
  reached: ReadonlySet<string>
  busy: boolean
}>()
const emit = defineEmits<{ take: [key: string] }>()
const { design } = useOpenDesign()
const tunnel = computed(() =>
  design.value?.tunnels.find((candidate) => candidate.id === props.peering.tunnel_id),
)
const networks = computed(() =>
  [props.peering.requester_id, props.peering.accepter_id].flatMap((id) =>
    props.shown.networks.filter((network) => network.id === id),
  ),
)
const steps = computed(() => props.shown.steps.filter((step) => step.tunnel_id === props.peering.tunnel_id))
const lacking = computed(
  () => new Set(props.shown.steps.filter((step) => step.state !== 'done').map((step) => step.key)),
)
const state = computed(() => props.peering.state ?? 'none')
const COLUMNS: readonly TableColumn[] = [
  { name: 'pair', title: 'From and to', minWidth: 200 },
  { name: 'service', title: 'Service', width: 90, figures: true },
  { name: 'before', title: 'As the clouds are', minWidth: 260 },
  { name: 'after', title: 'Once all is done', minWidth: 130 },
]
const nameOf = (id: string) => {
  const network = design.value?.networks.find((candidate) => candidate.id === id)
  const site = design.value?.sites.find((candidate) => candidate.id === network?.site_id)
  return `${site?.name ?? ''} ${network?.name ?? id}`
}
</script>

<template>
  <section class="peering" :aria-label="tunnel?.name">
    <header>
      <h2>{{ tunnel?.name }}</h2>
      <RouterLink :to="{ name: 'match', params: { designId: design?.id, tunnelId: peering.tunnel_id } }"
        >Both ends in Match</RouterLink
      >
    </header>
    <div class="picture">
      <CloudCard v-if="networks[0]" :network="networks[0]" :lacking="lacking" />
      <div class="link" :class="state">
        <span class="line" aria-hidden="true" />
        <strong role="status">{{ PEERING_WORDS[state] }}</strong>
        <span v-if="peering.since" class="muted">since {{ dateAndTime(peering.since) }}</span>
        <span v-if="peering.until" class="muted">ends {{ dateAndTime(peering.until) }}</span>
        <span class="muted">nothing passes on beyond either</span>
      </div>
      <CloudCard v-if="networks[1]" :network="networks[1]" :lacking="lacking" />
    </div>
    <h3>Steps</h3>
    <StepTable :steps="steps" :reached="reached" :busy="busy" @take="emit('take', $event)" />
    <h3>What reaches what</h3>
    <DataTable :rows="peering.reach" :columns="COLUMNS" label="What reaches what">
      <template #pair="{ row }">{{ nameOf(row.source_id) }} → {{ nameOf(row.destination_id) }}</template>
      <template #before="{ row }">
        <span class="reach"><ReachMark :reach="row.before" /> {{ REACH_WORDS[row.before] }}</span>
        <span v-if="row.before !== 'reaches'" class="muted why">{{ row.why }}</span>
      </template>
      <template #after="{ row }"
        ><span class="reach"><ReachMark :reach="row.after" /> {{ REACH_WORDS[row.after] }}</span></template
      >
    </DataTable>
  </section>
</template>

<style scoped>
.peering {
  padding: 8px 16px 16px;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h2 {
  margin: 0 0 6px;
  font-size: 16px;
}
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.picture {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 194px minmax(0, 1fr);
}
.link {
  display: flex;
  flex-direction: column;
  gap: 2px;
  align-items: center;
  padding: 10px 8px;
  font-size: 12px;
  text-align: center;
}
.line {
  align-self: stretch;
  margin: 10px -8px 4px;
  border-top: 2px dashed var(--slate);
}
.active .line {
  border-top: 3px solid var(--verdigris);
}
.rejected .line,
.expired .line,
.none .line {
  border-top: 2px dotted var(--madder);
}
.reach {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.why {
  display: block;
  font-size: 12px;
}
@media (max-width: 1020px) {
  .picture {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
