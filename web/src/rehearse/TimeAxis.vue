<script setup lang="ts">
import { computed } from 'vue'
import type { Rehearsal } from '@/api/types'
import { placeOf, timeText } from './asked'

/** Time, event by event: what a person looks for is marked, and the scrubber stands at one of the packets. */
const props = defineProps<{ rehearsal: Rehearsal; times: readonly number[]; place: number }>()
const emit = defineEmits<{ at: [place: number] }>()

type Mark = Rehearsal['marks'][number]
const MARK_WORDS: Record<Mark['kind'], string> = {
  dial: 'dial',
  up: 'up',
  rekey: 'rekey',
  down: 'down',
  fault: 'fault',
  restart: 'restart',
  probe: 'ping',
  step: 'step',
}
const NEAR = 0.09 // of the axis: marks that are nearer stand as one
const most = computed(() => Math.max(props.times.length - 1, 1))
/** Marks with their places; those near one another as one, with all that they say. */
const marks = computed(() => {
  const found: { place: number; kinds: Set<Mark['kind']>; texts: string[] }[] = []
  for (const mark of props.rehearsal.marks) {
    const place = placeOf(props.times, mark.at_s)
    const text = `${timeText(mark.at_s)}: ${mark.text}`
    const last = found.at(-1)
    if (last && place - last.place < NEAR * most.value) {
      last.kinds.add(mark.kind)
      last.texts.push(text)
    } else found.push({ place, kinds: new Set([mark.kind]), texts: [text] })
  }
  return found.map(({ place, kinds, texts }) => ({
    place,
    isTrouble: kinds.has('down') || kinds.has('fault'),
    word: [...kinds].map((kind) => MARK_WORDS[kind]).join(', '),
    title: texts.join('\n'),
    left: `${(place / most.value) * 100}%`,
  }))
})
const now = computed(() => timeText(props.times[props.place] ?? 0))
</script>

<template>
  <div class="axis" role="group" aria-label="Time">
    <ol class="marks">
      <li
        v-for="mark in marks"
        :key="mark.place"
        :class="{ trouble: mark.isTrouble }"
        :style="{ left: mark.left }"
        :title="mark.title"
      >
        <ElButton link size="small" @click="emit('at', mark.place)">{{ mark.word }}</ElButton>
      </li>
    </ol>
    <ElSlider
      :model-value="place"
      :min="0"
      :max="most"
      :format-tooltip="(step: number) => timeText(times[step] ?? 0)"
      aria-label="Packet on the time axis"
      @update:model-value="emit('at', Number($event))"
    />
    <p class="muted figures">at {{ now }} of {{ timeText(rehearsal.lasted_s) }}, packet by packet</p>
  </div>
</template>

<style scoped>
.axis {
  padding: 0 24px;
}
.marks {
  position: relative;
  height: 26px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  position: absolute;
  bottom: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  white-space: nowrap;
  transform: translateX(-50%);
}
li::after {
  width: 1px;
  height: 6px;
  content: '';
  background: var(--slate);
}
.trouble :deep(.el-button) {
  color: var(--madder);
}
</style>
