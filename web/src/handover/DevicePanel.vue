<script setup lang="ts">
import { computed, ref, toRef, useTemplateRef } from 'vue'
import type { DriftLine, Operation } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable from '@/ui/DataTable.vue'
import { dateAndTime } from '@/ui/words'
import DeviceActions from './DeviceActions.vue'
import { useAccess } from './useDevices'
import { useDrift } from './useHandover'

/** One device, setting by setting: intended, running, after a restart; and both ways to mend what differs. */
const props = defineProps<{ gatewayId: string }>()
const session = useOpenDesign()
const { designId, change } = session
const { data, error } = useDrift(
  session,
  toRef(() => props.gatewayId),
)
const access = useAccess(
  session,
  toRef(() => props.gatewayId),
)
const actions = useTemplateRef('actions')
const WORDS: Record<DriftLine['verdict'], string> = {
  'as-intended': 'as intended',
  'not-saved': 'entered, not saved',
  'not-applied': 'saved, not applied',
  differs: 'differs',
  'not-entered': 'not entered',
  more: 'more than intended',
  'not-read': 'not read yet',
}
const QUIET: readonly DriftLine['verdict'][] = ['as-intended', 'not-read']
const COLUMNS = [
  { name: 'title', title: 'Setting', minWidth: 200 },
  { name: 'intended', title: 'Intended', minWidth: 150, figures: true },
  { name: 'running', title: 'Runs now', minWidth: 130, figures: true },
  { name: 'after_restart', title: 'After a restart', minWidth: 130, figures: true },
  { name: 'verdict', title: 'Verdict', minWidth: 190 },
]
const all = ref(false)
const off = computed(() => (data.value?.lines ?? []).filter((line) => !QUIET.includes(line.verdict)))
/** What entering would mend; what only waits to be saved is mended by that. */
const toEnter = computed(() =>
  off.value.filter((line) => line.verdict !== 'not-saved').map((line) => line.path),
)
const shown = computed(() => (all.value ? (data.value?.lines ?? []) : off.value))
const empty = computed(() =>
  data.value?.taken_at ? 'Everything that was read is as intended.' : 'This device was never read.',
)
async function take(line: DriftLine): Promise<void> {
  if (line.take_over)
    await change(line.take_over.operations as Operation[], `Take over from the device: ${line.title}`)
}
</script>

<template>
  <section class="device" aria-label="Device">
    <RouterLink :to="{ name: 'handover', params: { designId, panel: 'devices', objectId: '' } }"
      >All devices</RouterLink
    >
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <template v-else-if="data">
      <header>
        <h2>{{ data.device }}</h2>
        <span class="muted">{{
          data.taken_at ? `read ${dateAndTime(data.taken_at)}, ${data.source}` : 'never read'
        }}</span>
        <span role="status">{{ off.length }} of {{ data.lines.length }} settings not as intended</span>
        <RouterLink
          v-if="off.length"
          :to="{
            name: 'handover',
            params: { designId, panel: '', objectId: '' },
            query: { since: 'devices' },
          }"
          >Plan the steps that mend it</RouterLink
        >
        <ElCheckbox v-model="all">Show all settings</ElCheckbox>
      </header>
      <DeviceActions ref="actions" :gateway-id="gatewayId" :off="toEnter" />
      <DataTable :rows="shown" :columns="COLUMNS" label="Settings of the device" :empty="empty">
        <template #running="{ row }">{{ row.running || 'not read' }}</template>
        <template #after_restart="{ row }">{{ row.after_restart || 'not read' }}</template>
        <template #verdict="{ row }">
          <span :class="{ bad: !QUIET.includes(row.verdict) }">{{ WORDS[row.verdict] }}</span>
          <span v-if="row.step" class="step">{{ row.step }}</span>
          <span class="ways">
            <ElButton v-if="access && toEnter.includes(row.path)" @click="actions?.enter([row.path])"
              >Enter at the device</ElButton
            >
            <ElButton v-if="row.take_over" @click="take(row)">Take over into the design</ElButton>
          </span>
        </template>
      </DataTable>
    </template>
    <ElSkeleton v-else :rows="6" animated />
  </section>
</template>

<style scoped>
.device {
  padding: 10px 16px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  margin: 6px 0;
}
h2 {
  font-size: 16px;
}
.bad {
  font-weight: 600;
  color: var(--madder);
}
.step,
.ways {
  display: block;
}
</style>
