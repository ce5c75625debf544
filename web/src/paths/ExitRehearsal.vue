<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { SeenThen } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** Which address an echo service sees of each workload, with the exit's tunnels dialled in virtual time. */
const props = defineProps<{ exitId: string }>()
const { designId, revision, design } = useOpenDesign()
const isAsked = ref(false)
const { data, error, isFetching } = useQuery({
  queryKey: ['exit-rehearsal', designId, revision, () => props.exitId],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/paths/exits/{exit_id}/rehearsal', {
        params: { path: { design_id: designId.value, exit_id: props.exitId } },
        signal,
      }),
    ),
  enabled: computed(() => isAsked.value && revision.value !== undefined),
})
const COLUMNS: readonly TableColumn[] = [
  { name: 'name', title: 'Workload', minWidth: 120 },
  { name: 'before', title: 'Before the tunnel stands', minWidth: 200 },
  { name: 'after', title: 'With the tunnel up', minWidth: 200 },
  { name: 'restarting', title: 'While the exit restarts', minWidth: 180 },
]
const MOMENTS = ['before', 'after', 'restarting'] as const
/** With the tunnel up, whatever doesn't leave by the exit is wrong; without it, only what leaves beside it. */
const isBad = (moment: (typeof MOMENTS)[number], seen: SeenThen) =>
  seen.fate === 'leaks' || (moment === 'after' && seen.fate !== 'leaves by the exit')
function words(seen: SeenThen): string {
  const uplink = design.value?.uplinks.find((candidate) => candidate.id === seen.uplink_id)
  if (!uplink) return seen.fate === 'held' ? 'held, nothing is seen' : 'nothing is seen'
  return `${seen.address ?? 'its provider’s address'}, by ${uplink.name}`
}
</script>

<template>
  <section class="rehearsal" aria-label="Rehearsed">
    <h3>What an echo service sees</h3>
    <ElButton v-if="!isAsked" size="small" @click="isAsked = true">Rehearse</ElButton>
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-if="isFetching" class="muted">Dialling …</p>
    <DataTable v-if="data" :rows="data.workloads" :columns="COLUMNS" label="Rehearsed workloads">
      <template #name="{ row }">
        {{ row.name }}
        <strong v-if="!row.agrees" class="bad note">not as foreseen</strong>
      </template>
      <template v-for="moment in MOMENTS" :key="moment" #[moment]="{ row }">
        <template v-if="row[moment]">
          <span :class="{ bad: isBad(moment, row[moment]) }" :title="row[moment].text">{{
            words(row[moment])
          }}</span>
          <span v-if="moment !== 'before'" class="note muted">{{ row[moment].text }}</span>
        </template>
        <span v-else-if="moment === 'before'" class="muted">{{ row.not_rehearsed.join('; ') }}</span>
      </template>
    </DataTable>
    <p v-if="data?.untried" class="muted">{{ data.untried }} more aren’t tried.</p>
  </section>
</template>

<style scoped>
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.note {
  display: block;
  font-size: 12px;
}
.bad {
  color: var(--madder);
}
</style>
