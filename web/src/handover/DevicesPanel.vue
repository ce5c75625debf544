<script setup lang="ts">
import { computed } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable from '@/ui/DataTable.vue'
import { dateAndTime } from '@/ui/words'
import DevicePanel from './DevicePanel.vue'
import KeepReading from './KeepReading.vue'
import ReadAll from './ReadAll.vue'
import { PROTOCOL_WORDS, useAccesses } from './useDevices'
import { useDrifts } from './useHandover'

/** Every device: what is intended against what it runs and what a restart would leave. */
defineProps<{ gatewayId: string }>()
const session = useOpenDesign()
const { designId } = session
const { data, error } = useDrifts(session)
const { data: accesses } = useAccesses(session)
const names = computed(() => new Map((data.value ?? []).map((row) => [row.gateway_id, row.device])))
const ways = computed(
  () =>
    new Map(
      (accesses.value ?? []).map((access) => [
        access.gateway_id,
        `${PROTOCOL_WORDS[access.protocol]}, ${access.address}`,
      ]),
    ),
)
const COLUMNS = [
  { name: 'device', title: 'Device', minWidth: 150 },
  { name: 'organisation', title: 'Who runs it', minWidth: 120 },
  { name: 'reached', title: 'Reached by', minWidth: 150 },
  { name: 'off', title: 'Not as intended', width: 125 },
  { name: 'not_read', title: 'Not read', width: 80 },
  { name: 'read', title: 'Last reading', minWidth: 165 },
]
</script>

<template>
  <DevicePanel v-if="gatewayId" :key="gatewayId" :gateway-id="gatewayId" />
  <section v-else class="devices" aria-label="Devices">
    <ReadAll :accesses="accesses ?? []" :names="names" />
    <KeepReading />
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <DataTable :rows="data ?? []" :columns="COLUMNS" label="Devices" empty="There is no gateway yet.">
      <template #device="{ row }">
        <RouterLink
          :to="{ name: 'handover', params: { designId, panel: 'devices', objectId: row.gateway_id } }"
          >{{ row.device }}</RouterLink
        >
      </template>
      <template #reached="{ row }">
        <span :class="{ muted: !ways.has(row.gateway_id) }">{{ ways.get(row.gateway_id) ?? 'by hand' }}</span>
      </template>
      <template #off="{ row }">
        <span v-if="!row.taken_at" class="muted">never read</span>
        <span v-else :class="{ bad: row.off }">{{ row.off }} of {{ row.settings }}</span>
      </template>
      <template #read="{ row }">{{
        row.taken_at ? `${dateAndTime(row.taken_at)}, ${row.source}` : ''
      }}</template>
    </DataTable>
  </section>
</template>

<style scoped>
.devices {
  padding: 10px 16px;
}
.bad {
  font-weight: 600;
  color: var(--madder);
}
</style>
