<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { MovedHost } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { REACH_WORDS } from './reach'
import { useSupposed } from './useSupposed'

/** A host in another network: which networks it reaches then, or is reached from, and which no longer. */
const { design, designId, revision, change } = useOpenDesign()
const { supposed, asked, set } = useSupposed()
const hostId = ref(asked('host'))
const networkId = ref(asked('network'))
const address = ref(asked('address'))
const answer = ref<MovedHost | null>(null)
const trouble = ref('')

const networks = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return (design.value?.networks ?? [])
    .filter((one) => !one.zone)
    .map((one) => ({ id: one.id, name: `${sites.get(one.site_id)}: ${one.name}`, prefix: one.prefix }))
})
const networkName = computed(() => new Map(networks.value.map((one) => [one.id, one.name])))
const host = computed(() => design.value?.hosts.find((one) => one.id === hostId.value))
const target = computed(() => networks.value.find((one) => one.id === networkId.value))

async function look(): Promise<void> {
  set({ host: hostId.value, network: networkId.value, address: address.value })
  trouble.value = ''
  if (!host.value || !target.value || !address.value.trim()) {
    answer.value = null
    return
  }
  try {
    answer.value = await bodyOf(
      api.POST('/api/designs/{design_id}/paths/hosts/{host_id}/move', {
        params: { path: { design_id: designId.value, host_id: hostId.value }, query: supposed.value },
        body: { network_id: networkId.value, address: address.value.trim() },
      }),
    )
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    answer.value = null
    trouble.value = error.problem.errors[0]?.detail ?? error.problem.detail
  }
}
watchDebounced([hostId, networkId, address, supposed, revision], look, { debounce: 250, immediate: true })
async function carryOut(): Promise<void> {
  if (answer.value) await change(answer.value.operations, `Move ${host.value?.name} to ${target.value?.name}`)
}
</script>

<template>
  <section class="move plain-fields" aria-label="Move a host">
    <p v-if="!design?.hosts.length">
      The design has no hosts yet. Add some in the
      <RouterLink :to="{ name: 'survey', params: { grid: 'hosts' } }">Survey</RouterLink>.
    </p>
    <div v-else class="ask">
      <label>
        Host
        <select v-model="hostId" aria-label="Host to move">
          <option value="">…</option>
          <option v-for="one in design?.hosts" :key="one.id" :value="one.id">
            {{ one.name }} {{ one.address }}
          </option>
        </select>
      </label>
      <label>
        to
        <select v-model="networkId" aria-label="To network">
          <option value="">…</option>
          <option v-for="one in networks" :key="one.id" :value="one.id">
            {{ one.name }} {{ one.prefix }}
          </option>
        </select>
      </label>
      <label>
        as
        <input
          v-model="address"
          class="figures"
          :placeholder="target?.prefix ?? 'address'"
          aria-label="Address there"
          :aria-invalid="trouble !== ''"
          spellcheck="false"
        />
      </label>
      <button class="plain-button primary" type="button" :disabled="!answer" @click="carryOut">
        Move it
      </button>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <p v-else-if="answer && !answer.pairs.length">Nothing changes for it.</p>
    <table v-else-if="answer" class="plain-table">
      <thead>
        <tr>
          <th>Network</th>
          <th>Begun by</th>
          <th>Now</th>
          <th>Then</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="pair in answer.pairs"
          :key="pair.network_id + pair.begins"
          :class="{ same: pair.before === pair.after }"
        >
          <td>{{ networkName.get(pair.network_id) ?? pair.network_id }}</td>
          <td>{{ pair.begins ? 'the host' : 'the network' }}</td>
          <td :title="pair.verdict_before">{{ REACH_WORDS[pair.before] }}</td>
          <td :title="pair.verdict_after">
            <strong>{{ REACH_WORDS[pair.after] }}</strong>
            <span class="muted verdict">{{ pair.verdict_after }}</span>
          </td>
        </tr>
      </tbody>
    </table>
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
input,
select {
  max-width: 240px;
}
.verdict {
  display: block;
  font-size: 12px;
}
.same strong {
  font-weight: 400;
}
</style>
