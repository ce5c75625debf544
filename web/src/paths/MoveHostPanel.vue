<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, bodyOf } from '@/api/client'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { REACH_WORDS } from './reach'
import { useSupposed } from './useSupposed'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** A host in another network: which networks it reaches then, or is reached from, and which no longer. */
const { design, designId, revision, change } = useOpenDesign()
const { supposed, asked, set } = useSupposed()
const hostId = ref(asked('host'))
const networkId = ref(asked('network'))
const address = ref(asked('address'))

const networks = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return (design.value?.networks ?? [])
    .filter((network) => !network.zone)
    .map((network) => ({
      id: network.id,
      name: `${sites.get(network.site_id)}: ${network.name}`,
      prefix: network.prefix,
    }))
})
const hostChoices = computed(() =>
  (design.value?.hosts ?? []).map((anyHost) => ({
    value: anyHost.id,
    label: `${anyHost.name} ${anyHost.address}`,
  })),
)
const networkChoices = computed(() =>
  networks.value.map((network) => ({ value: network.id, label: `${network.name} ${network.prefix}` })),
)
const networkName = computed(() => new Map(networks.value.map((network) => [network.id, network.name])))
const host = computed(() => design.value?.hosts.find((candidate) => candidate.id === hostId.value))
const target = computed(() => networks.value.find((network) => network.id === networkId.value))

const { answer, problem, settled } = useAnswer(
  'moved-host',
  () =>
    host.value && target.value && address.value.trim()
      ? {
          revision: revision.value,
          host_id: hostId.value,
          query: supposed.value,
          body: { network_id: networkId.value, address: address.value.trim() },
        }
      : null,
  ({ host_id, query, body }, signal) => {
    const params = { path: { design_id: designId.value, host_id }, query }
    return bodyOf(api.POST('/api/designs/{design_id}/paths/hosts/{host_id}/move', { params, body, signal }))
  },
)
const trouble = computed(() => problem.value?.errors[0]?.detail ?? problem.value?.detail ?? '')
watch([hostId, networkId, address], () =>
  set({ host: hostId.value, network: networkId.value, address: address.value }),
)
async function carryOut(): Promise<void> {
  if (answer.value) await change(answer.value.operations, `Move ${host.value?.name} to ${target.value?.name}`)
}

const COLUMNS: TableColumn[] = [
  { name: 'network', title: 'Network', minWidth: 150 },
  { name: 'begun', title: 'Begun by', width: 100 },
  { name: 'now', title: 'Now', width: 150 },
  { name: 'then', title: 'Then', minWidth: 260 },
]
</script>

<template>
  <section class="move plain-fields" aria-label="Move a host">
    <p v-if="!design?.hosts.length">
      The design has no hosts yet. Add some in the
      <RouterLink :to="{ name: 'survey', params: { grid: 'hosts' } }">Survey</RouterLink>.
    </p>
    <div v-else class="ask">
      <SelectField v-model="hostId" label="Host to move" placeholder="host …" :options="hostChoices" />
      <SelectField v-model="networkId" label="To network" placeholder="network …" :options="networkChoices" />
      <label>
        as
        <ElInput
          v-model="address"
          class="figures"
          :placeholder="target?.prefix ?? 'address'"
          aria-label="Address there"
          :aria-invalid="trouble !== ''"
          spellcheck="false"
        />
      </label>
      <ElButton type="primary" :disabled="!answer || !settled" @click="carryOut"> Move host </ElButton>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <p v-else-if="answer && !answer.pairs.length">Nothing changes for it.</p>
    <DataTable v-else-if="answer" :rows="answer.pairs" :columns="COLUMNS" label="What changes for it"
      ><template #network="{ row }">
        {{ networkName.get(row.network_id) ?? row.network_id }}
      </template>
      <template #begun="{ row }">
        {{ row.begins ? 'the host' : 'the network' }}
      </template>
      <template #now="{ row }">
        <span :title="row.verdict_before">{{ REACH_WORDS[row.before] }}</span>
      </template>
      <template #then="{ row }">
        <component :is="row.before === row.after ? 'span' : 'strong'">{{ REACH_WORDS[row.after] }}</component>
        <span class="muted verdict">{{ row.verdict_after }}</span>
      </template></DataTable
    >
    <p v-else class="muted">
      Choose a host, a network, and its address there: what changes for it is told before it moves.
    </p>
  </section>
</template>

<style scoped>
.move {
  padding: 10px 16px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding-bottom: 8px;
}
.verdict {
  display: block;
  font-size: 12px;
}
</style>
