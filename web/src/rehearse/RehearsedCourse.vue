<script setup lang="ts">
import { computed } from 'vue'
import type { Rehearsal } from '@/api/types'
import ViewTabs from '@/ui/ViewTabs.vue'
import { placeOf } from './asked'
import EndLogs from './EndLogs.vue'
import MessageLadder from './MessageLadder.vue'
import { countedProbes } from './probes'
import ProbeTable from './ProbeTable.vue'
import TimeAxis from './TimeAxis.vue'
import { useAsked } from './useRehearsal'

/** What happened when both ends dialled: the sentence, time, both ends, what went between them, and probes. */
const props = defineProps<{ rehearsal: Rehearsal; at: number }>()
const emit = defineEmits<{ at: [time: number] }>()

const times = computed(() => props.rehearsal.packets.map((packet) => packet.at_s))
const place = computed(() => (props.at < 0 ? times.value.length - 1 : placeOf(times.value, props.at)))
/** Without packets, as in a peering of clouds, all of the logs is shown. */
const shownAt = computed(() => props.rehearsal.packets[place.value]?.until_s ?? props.rehearsal.lasted_s)
const { show } = useAsked()
const panels = computed(() => ({
  messages: `Messages ${times.value.length}`,
  ...(props.rehearsal.probes.length && { probes: countedProbes(props.rehearsal) }),
}))
const isProbes = computed(() => show.value === 'probes' && Boolean(panels.value.probes))
const verdict = computed(() => {
  if (!props.rehearsal.outcome?.is_judged) return ''
  if (props.rehearsal.agrees) return 'The forecast said so.'
  return 'The forecast said otherwise: one of the two is wrong, and that is a fault of this product.'
})
</script>

<template>
  <div v-if="rehearsal.not_rehearsed.length" class="outcome unknown" role="status">
    <p>This can't be rehearsed:</p>
    <ul>
      <li v-for="reason in rehearsal.not_rehearsed" :key="reason">{{ reason }}</li>
    </ul>
  </div>
  <template v-else-if="rehearsal.outcome">
    <p class="outcome" :class="{ up: rehearsal.outcome.up, wrong: !rehearsal.agrees }" role="status">
      {{ rehearsal.outcome.why }} <span>{{ verdict }}</span>
    </p>
    <TimeAxis
      v-if="times.length"
      :rehearsal="rehearsal"
      :times="times"
      :place="place"
      @at="emit('at', times[$event] ?? 0)"
    />
    <EndLogs :rehearsal="rehearsal" :until="shownAt" />
    <ViewTabs v-if="times.length" v-model="show" class="panels" :tabs="panels" label="What is shown of it">
      <div class="panel">
        <ProbeTable v-if="panels.probes" v-show="isProbes" :rehearsal="rehearsal" />
        <MessageLadder v-show="!isProbes" :rehearsal="rehearsal" :place="place" />
      </div>
    </ViewTabs>
    <ProbeTable v-else-if="rehearsal.probes.length" :rehearsal="rehearsal" />
  </template>
</template>

<style scoped>
.outcome {
  padding: 8px 10px;
  margin: 8px 0;
  font-weight: 500;
  background: var(--madder-wash);
  border-left: 3px solid var(--madder);
}
.outcome.up {
  background: var(--verdigris-wash);
  border-color: var(--verdigris);
}
.outcome.unknown,
.outcome.wrong {
  background: var(--card);
  border-color: var(--slate);
}
.panels {
  margin: 8px -16px 0;
}
.panel {
  padding: 0 16px;
}
@media print {
  .panel > * {
    display: block !important; /* on paper both tabs stand below each other */
  }
}
.outcome span {
  font-weight: 400;
}
.outcome ul {
  margin: 4px 0 0;
  font-weight: 400;
}
</style>
