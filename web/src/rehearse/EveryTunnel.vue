<script setup lang="ts">
import { computed, onUnmounted, ref } from 'vue'
import type { Design, Rehearsal, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable from '@/ui/DataTable.vue'
import { counted } from '@/ui/words'
import { rehearsed } from './useRehearsal'

/** The whole design: tunnel by tunnel, so that what is known is shown at once, and it can be stopped. */
const props = defineProps<{ design: Design }>()
const { designId } = useOpenDesign()

const COLUMNS = [
  { name: 'tunnel', title: 'Tunnel', width: 160 },
  { name: 'forecast', title: 'Forecast to stop at', width: 140 },
  { name: 'outcome', title: 'What happened', minWidth: 220 },
  { name: 'agrees', title: 'Both', width: 80 },
]
interface Row {
  tunnel: Tunnel
  found: Rehearsal | null
}
const found = ref(new Map<string, Rehearsal>())
const running = ref<AbortController | null>(null)
const failed = ref('')
const rows = computed<Row[]>(() =>
  props.design.tunnels.map((tunnel) => ({ tunnel, found: found.value.get(tunnel.id) ?? null })),
)
const done = computed(() => rows.value.filter((row) => row.found).length)
const differing = computed(() => rows.value.filter((row) => row.found && !row.found.agrees).length)
const summary = computed(() => {
  if (!done.value) return 'Both ends of each tunnel dial each other, in virtual time; nothing is touched.'
  const told = `${done.value} of ${rows.value.length} rehearsed; `
  return differing.value
    ? `${told}in ${differing.value} the forecast was wrong, or the rehearsal`
    : `${told}each ended as forecast`
})
async function run(): Promise<void> {
  const control = new AbortController()
  running.value = control
  found.value = new Map()
  failed.value = ''
  try {
    for (const tunnel of props.design.tunnels) {
      if (control.signal.aborted) break
      const rehearsal = await rehearsed(
        designId.value,
        tunnel.id,
        { fault: [], step: [], until: '', seed: 0, plan: '' },
        control.signal,
      )
      found.value = new Map(found.value).set(tunnel.id, rehearsal)
    }
  } catch (error) {
    if (!control.signal.aborted) failed.value = error instanceof Error ? error.message : String(error)
  } finally {
    running.value = null
  }
}
function stop(): void {
  running.value?.abort()
}
onUnmounted(stop)
function outcome(row: Row): string {
  if (!row.found) return ''
  if (row.found.outcome) return row.found.outcome.why
  const [first, ...more] = row.found.not_rehearsed
  return `Not rehearsed: ${first}${more.length ? `, and ${counted(more.length, 'reason')} more` : ''}`
}
function agrees(row: Row): string {
  if (!row.found?.outcome) return ''
  return row.found.agrees ? 'agree' : 'differ'
}
</script>

<template>
  <section class="every" aria-label="All tunnels rehearsed">
    <header>
      <h2>All tunnels</h2>
      <ElButton v-if="!running" type="primary" :disabled="!design.tunnels.length" @click="run">
        Rehearse all {{ design.tunnels.length }}
      </ElButton>
      <ElButton v-else @click="stop">Stop</ElButton>
      <ElProgress
        v-if="running"
        class="progress"
        :percentage="Math.round((done / Math.max(rows.length, 1)) * 100)"
        aria-label="Rehearsed so far"
      />
    </header>
    <p role="status">{{ summary }}</p>
    <p v-if="failed" class="field-error" role="alert">{{ failed }}</p>
    <DataTable :rows="rows" :columns="COLUMNS" label="Forecast and outcome" empty="There is no tunnel yet.">
      <template #tunnel="{ row }">
        <RouterLink :to="{ name: 'rehearse', params: { designId, tunnelId: row.tunnel.id } }">{{
          row.tunnel.name
        }}</RouterLink>
      </template>
      <template #forecast="{ row }">
        <span class="stage">{{
          row.found?.outcome ? (row.found.outcome.forecast_stage ?? 'nothing') : ''
        }}</span>
      </template>
      <template #outcome="{ row }">
        <span :class="{ up: row.found?.outcome?.up }">{{ outcome(row) }}</span>
      </template>
      <template #agrees="{ row }">
        <span :class="{ bad: row.found && !row.found.agrees }">{{ agrees(row) }}</span>
      </template>
    </DataTable>
  </section>
</template>

<style scoped>
.every {
  padding: 10px 16px;
  overflow: auto;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 34px;
}
h2 {
  font-size: 16px;
}
.progress {
  flex: 1;
}
.stage {
  text-transform: capitalize;
}
.up {
  color: var(--verdigris);
}
.bad {
  font-weight: 600;
  color: var(--madder);
}
</style>
