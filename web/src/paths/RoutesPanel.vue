<script setup lang="ts">
import { computed } from 'vue'
import type { NeededRoute } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import LinuxPanel from './LinuxPanel.vue'
import { useRoutes } from './usePaths'

/** The fewest routes that give all that is wanted, at both ends: which are there, which are missing, which nothing needs. */
const session = useOpenDesign()
const { design, change } = session
const { data } = useRoutes(session)
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
    <LinuxPanel />
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
