<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Standard, StandardInUse } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useRemoval } from '@/design/useRemoval'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import RemovalDialog from '@/ui/RemovalDialog.vue'
import StandardForm from './StandardForm.vue'

/** The standards of a design, who follows which, and where somebody decided otherwise. */
const session = useOpenDesign()
const { design, designId, revision } = session
const params = computed(() => ({ path: { design_id: designId.value } }))
const { data: standards } = useQuery({
  queryKey: ['standards', designId, revision],
  queryFn: ({ signal }) =>
    bodyOf(api.GET('/api/designs/{design_id}/standards', { params: params.value, signal })),
  placeholderData: (before) => before,
})
const opened = ref<Standard | null>(null)
const isNew = ref(false)
const removing = useRemoval(session)

const COLUMNS: TableColumn[] = [
  { name: 'tunnel', title: 'Tunnel', minWidth: 150 },
  { name: 'site', title: 'End', minWidth: 120 },
  { name: 'title', title: 'Field', minWidth: 150 },
]
function edit(standard: Standard, fresh: boolean): void {
  opened.value = standard
  isNew.value = fresh
}
async function add(): Promise<void> {
  const offer = await bodyOf(api.GET('/api/designs/{design_id}/connections/offer', { params: params.value }))
  const usual = offer.standards.find((standard) => standard.is_new)
  if (usual) edit(usual.standard, true)
}
const without = computed(() => (design.value?.tunnels ?? []).filter((tunnel) => !tunnel.standard_id).length)
const followers = (inUse: StandardInUse) =>
  inUse.followers.length === 1 ? '1 tunnel follows it' : `${inUse.followers.length} tunnels follow it`
</script>

<template>
  <section class="standards" aria-label="Standards">
    <div class="head">
      <h2>Standards</h2>
      <ElButton v-if="!opened" @click="add">Add standard …</ElButton>
      <span v-if="without" class="muted"
        >{{ without === 1 ? '1 tunnel follows' : `${without} tunnels follow` }} none.</span
      >
    </div>
    <p v-if="standards && !standards.length && !opened" class="muted">
      There is none yet. A standard says once what all tunnels that follow it are set to: proposals,
      lifetimes, timers, authentication, identities.
    </p>
    <article v-if="opened && isNew" class="card">
      <StandardForm :standard="opened" is-new @close="opened = null" />
    </article>
    <article v-for="inUse in standards" :key="inUse.standard.id" class="card">
      <StandardForm
        v-if="opened?.id === inUse.standard.id && !isNew"
        :standard="inUse.standard"
        :is-new="false"
        @close="opened = null"
      />
      <template v-else>
        <div class="head">
          <h3>{{ inUse.standard.name }}</h3>
          <span class="muted">{{ followers(inUse) }}</span>
          <ElButton class="act" @click="edit(inUse.standard, false)">Edit</ElButton>
          <ElButton @click="removing.remove('standard', inUse.standard.id)">Remove</ElButton>
        </div>
        <p>{{ inUse.says }}</p>
        <p class="muted">
          Identities
          <span class="figures">{{ inUse.standard.identity_pattern ?? 'as each tunnel decides' }}</span>
        </p>
        <template v-if="inUse.departures.length">
          <p class="departs">
            {{
              inUse.departures.length === 1 ? '1 field departs' : `${inUse.departures.length} fields depart`
            }}
            from it, as somebody decided:
          </p>
          <DataTable
            :rows="inUse.departures"
            :columns="COLUMNS"
            :label="`Departures from ${inUse.standard.name}`"
          >
            <template #tunnel="{ row }"
              ><RouterLink
                :to="{
                  name: 'match',
                  params: { designId, tunnelId: row.tunnel_id },
                  query: { at: `${row.side}/${row.field}` },
                }"
                >{{ row.tunnel }}</RouterLink
              ></template
            >
          </DataTable>
        </template>
      </template>
    </article>
    <RemovalDialog :removing="removing" />
  </section>
</template>

<style scoped>
.standards {
  flex: 1;
  min-height: 0;
  padding: 12px 16px;
  overflow: auto;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.act {
  margin-left: auto;
}
.card {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 10px 12px;
  margin-top: 10px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--card);
}
.departs {
  color: var(--ochre);
}
</style>
