<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { computed } from 'vue'
import type { NeededRoute } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useLinuxPlan, useRoutes } from './usePaths'
import { useSupposed } from './useSupposed'

/** The fewest routes that give all that is wanted, at both ends: which are there, which are missing, which nothing needs. */
const session = useOpenDesign()
const { design, change } = session
const { data } = useRoutes(session)
const { asked, set } = useSupposed()
const machines = computed(() =>
  (design.value?.gateways ?? []).filter((one) => ['server', 'container-host'].includes(one.kind)),
)
const machineId = computed(() => {
  const wanted = asked('machine')
  return machines.value.some((one) => one.id === wanted) ? wanted : (machines.value[0]?.id ?? '')
})
const { data: plan } = useLinuxPlan(session, machineId)
const way = computed(() => (asked('way') === 'back' ? 'back' : 'apply'))
const commands = computed(() => plan.value?.[way.value].join('\n') ?? '')

const { copy, copied } = useClipboard()
const STATES: Record<NeededRoute['state'], string> = {
  there: 'there',
  missing: 'missing',
  unneeded: 'needed by nothing',
}
const names = computed(() => {
  const now = design.value
  const all = [...(now?.gateways ?? []), ...(now?.tunnels ?? []), ...(now?.networks ?? [])]
  return new Map(all.map((one) => [one.id, one.name]))
})
const missing = computed(() => data.value?.operations.length ?? 0)
async function add(): Promise<void> {
  if (data.value) await change(data.value.operations, `Add ${missing.value} routes that the intents need`)
}
</script>

<template>
  <section class="routes" aria-label="Routes needed">
    <p v-if="design && !design.intents.length">
      No intent says yet who must reach whom. Add them in the
      <RouterLink :to="{ name: 'survey', params: { grid: 'intents' } }">Survey</RouterLink>, and the routes
      that both ends need stand here.
    </p>
    <template v-else-if="data">
      <div class="head">
        <p>
          <strong>{{ data.routes.filter((one) => one.state !== 'unneeded').length }}</strong> routes give all
          that is wanted; {{ missing }} missing.
        </p>
        <button class="plain-button primary" type="button" :disabled="!missing" @click="add">
          Add what is missing
        </button>
      </div>
      <table class="plain-table">
        <thead>
          <tr>
            <th>Gateway</th>
            <th>Table</th>
            <th>Prefix</th>
            <th>Into</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, k) in data.routes" :key="k" :class="one.state">
            <td>{{ names.get(one.gateway_id) }}</td>
            <td>{{ one.subnet_id ? `subnet ${names.get(one.subnet_id)}` : 'its own' }}</td>
            <td class="figures">{{ one.prefix }}</td>
            <td>{{ one.tunnel_id ? names.get(one.tunnel_id) : 'the gateway' }}</td>
            <td class="state">{{ STATES[one.state] }}</td>
          </tr>
        </tbody>
      </table>
      <p class="muted">Tunnels by policy need no routes: their networks decide.</p>
    </template>
    <div v-if="machines.length && plan" class="linux plain-fields">
      <h2>On a Linux machine</h2>
      <div class="head">
        <label>
          Gateway
          <select :value="machineId" @change="set({ machine: ($event.target as HTMLSelectElement).value })">
            <option v-for="one in machines" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select>
        </label>
        <label>
          <input type="radio" :checked="way === 'apply'" name="way" @change="set({ way: undefined })" />
          Commands
        </label>
        <label
          ><input type="radio" :checked="way === 'back'" name="way" @change="set({ way: 'back' })" /> The way
          back</label
        >
        <span class="muted rest">run twice, it changes nothing the second time</span>
        <button class="plain-button" type="button" @click="copy(commands)">
          {{ copied ? 'Copied' : 'Copy' }}
        </button>
      </div>
      <pre class="figures" tabindex="0" :aria-label="way === 'back' ? 'The way back' : 'Commands'">{{
        commands
      }}</pre>
      <p v-for="remark in plan.remarks" :key="remark" class="muted">Left to others: {{ remark }}.</p>
    </div>
  </section>
</template>

<style scoped>
.routes {
  padding: 10px 16px;
}
.head {
  display: flex;
  gap: 16px;
  align-items: center;
  padding-bottom: 8px;
}
.head p {
  flex: 1;
}
.linux {
  padding-top: 12px;
}
.rest {
  flex: 1;
}
pre {
  max-height: 320px;
  padding: 8px 12px;
  margin: 0 0 6px;
  overflow: auto;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.missing .state {
  font-weight: 600;
  color: var(--madder);
}
.unneeded .state {
  color: var(--ochre);
}
.there .state {
  color: var(--verdigris);
}
</style>
