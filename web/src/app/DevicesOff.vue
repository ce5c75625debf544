<script setup lang="ts">
import { useOpenDesign } from '@/design/useDesignSession'
import { useDevicesOff } from '@/handover/useHandover'
import { counted } from '@/ui/words'

/** Devices that don't run, or won't keep, what is intended; mended at the device, or taken over into the design. */
const session = useOpenDesign()
const { designId } = session
const off = useDevicesOff(session)
</script>

<template>
  <section v-if="off.length" aria-label="Drift">
    <h3>
      Devices not as intended <span class="figures">{{ off.length }}</span>
    </h3>
    <article>
      <RouterLink
        v-for="device in off"
        :key="device.gateway_id"
        :to="{ name: 'handover', params: { designId, panel: 'devices', objectId: device.gateway_id } }"
        >{{ device.device }}: {{ counted(device.off, 'setting') }}</RouterLink
      >
      <p class="muted">As they were last read: not entered, not saved, or otherwise.</p>
      <RouterLink
        :to="{
          name: 'handover',
          params: { designId, panel: '', objectId: '' },
          query: { since: 'devices' },
        }"
        >Plan the steps that mend it</RouterLink
      >
    </article>
  </section>
</template>

<style scoped>
h3 {
  margin: 12px 0 6px;
  color: var(--ochre);
}
article {
  display: grid;
  gap: 2px;
  padding: 8px 10px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-left: 3px solid var(--ochre);
  border-radius: 3px;
}
p {
  margin: 2px 0;
  font-size: 12px;
}
</style>
