<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { REACH_WORDS, type Reach } from './reach'
import { useDifference } from './usePaths'
import { useSupposed } from './useSupposed'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** Which pairs of networks fare otherwise at one revision than at an earlier one. */
const session = useOpenDesign()
const { design, revision } = session
const { service, allUp, asked, set } = useSupposed()
const route = useRoute()
const router = useRouter()
const since = computed(() => {
  const asked = Number(route.query.since ?? 0)
  return Number.isInteger(asked) && asked >= 0 ? Math.min(asked, revision.value ?? 0) : 0
})
const until = computed(() => (asked('until') ? Number(asked('until')) : null))
const { data, error } = useDifference(session, since, until, service, allUp)

const names = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.networks ?? []).map((network) => [
      network.id,
      `${sites.get(network.site_id)}: ${network.name}`,
    ]),
  )
})
const words = (reach: string) => REACH_WORDS[reach as Reach] ?? 'not there'
const nameOf = (id: string) => names.value.get(id) ?? id
function look(from: string, to: string): void {
  void router.push({
    name: 'paths',
    params: { ...route.params, panel: '' },
    query: { ...route.query, from, to },
  })
}

const COLUMNS: TableColumn[] = [
  { name: 'from', title: 'From' },
  { name: 'to', title: 'To' },
  { name: 'then', title: 'Then' },
  { name: 'now', title: 'Now' },
]
</script>

<template>
  <section class="difference plain-fields" aria-label="Compare revisions">
    <div class="head">
      <label>
        Since revision
        <ElInputNumber
          :min="0"
          :max="revision"
          :model-value="since"
          controls-position="right"
          @change="set({ since: String($event ?? 0) })"
        />
      </label>
      <label>
        until
        <ElInputNumber
          :min="0"
          :max="revision"
          :model-value="until ?? revision"
          controls-position="right"
          @change="set({ until: $event === undefined ? undefined : String($event) })"
        />
        <span class="muted">the design is at {{ revision }}</span>
      </label>
    </div>
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-else-if="data && !data.cells.length">Every pair of networks fares as it did.</p>
    <DataTable v-else-if="data" :rows="data.cells" :columns="COLUMNS" label="Pairs that fare otherwise"
      ><template #from="{ row }">{{ nameOf(row.source_id) }}</template>
      <template #to="{ row }">
        <ElButton link type="primary" @click="look(row.source_id, row.destination_id)">
          {{ nameOf(row.destination_id) }}
        </ElButton>
      </template>
      <template #then="{ row }">{{ words(row.before) }}</template>
      <template #now="{ row }">
        <strong>{{ words(row.after) }}</strong>
      </template></DataTable
    >
  </section>
</template>

<style scoped>
.difference {
  padding: 10px 16px;
}
.head {
  display: flex;
  gap: 12px;
  padding-bottom: 8px;
}
.el-input-number {
  width: 96px;
}
</style>
