<script setup lang="ts">
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable from '@/ui/DataTable.vue'
import { dateAndTime } from '@/ui/words'
import RunPanel from './RunPanel.vue'
import { RUN_WORDS } from './runWords'
import { useRuns } from './useHandover'

/** The plans that are walked or were: a list, or one of them. */
defineProps<{ runId: string }>()
const session = useOpenDesign()
const { designId } = session
const { data } = useRuns(session)
const COLUMNS = [
  { name: 'title', title: 'Plan', minWidth: 240 },
  { name: 'state', title: 'State', width: 170 },
  { name: 'steps', title: 'Steps', width: 120 },
  { name: 'begun', title: 'Begun', width: 280 },
]
</script>

<template>
  <RunPanel v-if="runId" :key="runId" :run-id="runId" />
  <section v-else class="runs" aria-label="Runs">
    <DataTable :rows="data ?? []" :columns="COLUMNS" label="Runs" empty="No plan was walked yet.">
      <template #title="{ row }">
        <RouterLink :to="{ name: 'handover', params: { designId, panel: 'runs', objectId: row.id } }">{{
          row.title
        }}</RouterLink>
      </template>
      <template #state="{ row }">{{ RUN_WORDS[row.progress.state] }}</template>
      <template #steps="{ row }">{{ row.progress.done.length }} of {{ row.steps }}</template>
      <template #begun="{ row }">{{ row.started_by }}, {{ dateAndTime(row.started_at) }}</template>
    </DataTable>
  </section>
</template>

<style scoped>
.runs {
  padding: 10px 16px;
}
</style>
