<script setup lang="ts">
import { computed } from 'vue'
import type { NeededRoute } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import LinuxPanel from './LinuxPanel.vue'
import { useRoutes } from './usePaths'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

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
  return new Map(all.map((object) => [object.id, object.name]))
})
const missing = computed(() => data.value?.operations.length ?? 0)
async function add(): Promise<void> {
  if (data.value) await change(data.value.operations, `Add ${missing.value} routes that the intents need`)
}

const COLUMNS: TableColumn[] = [
  { name: 'gateway', title: 'Gateway', minWidth: 140 },
  { name: 'table', title: 'Table', minWidth: 120 },
  { name: 'prefix', title: 'Prefix', width: 170, figures: true },
  { name: 'into', title: 'Into', minWidth: 160 },
  { name: 'state', title: 'State', width: 150 },
]
</script>

<template>
  <section class="routes" aria-label="Routes needed">
    <p v-if="design && !design.intents.length">
      No intent says yet who must reach whom. Add them in the
      <RouterLink :to="{ name: 'paths', params: { panel: 'tables', objectId: 'intents' } }">table</RouterLink
      >, and the routes that both ends need stand here.
    </p>
    <template v-else-if="data">
      <div class="head">
        <p>
          <strong>{{ data.routes.filter((route) => route.state !== 'unneeded').length }}</strong> routes give
          all that is wanted; {{ missing }} missing.
        </p>
        <ElButton type="primary" :disabled="!missing" @click="add"> Add what is missing </ElButton>
      </div>
      <DataTable :rows="data.routes" :columns="COLUMNS" label="Routes needed"
        ><template #gateway="{ row }">
          {{ names.get(row.gateway_id) }}
        </template>
        <template #table="{ row }">
          {{ row.subnet_id ? `subnet ${names.get(row.subnet_id)}` : 'its own' }}
        </template>
        <template #into="{ row }">
          {{ row.tunnel_id ? names.get(row.tunnel_id) : 'the gateway' }}
        </template>
        <template #state="{ row }">
          <span :class="row.state">{{ STATES[row.state] }}</span>
        </template></DataTable
      >
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
.missing {
  font-weight: 600;
  color: var(--madder);
}
.unneeded {
  color: var(--ochre);
}
.there {
  color: var(--verdigris);
}
</style>
