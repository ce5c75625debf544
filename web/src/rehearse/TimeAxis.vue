<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Rehearsal } from '@/api/types'
import { timeText } from './asked'
import { placedMarks } from './marks'

/** Time, event by event: what a person looks for is marked, and the scrubber stands at one of the packets. */
const props = defineProps<{ rehearsal: Rehearsal; times: readonly number[]; place: number }>()
const emit = defineEmits<{ at: [place: number] }>()

const most = computed(() => Math.max(props.times.length - 1, 1))
const { width } = useElementSize(useTemplateRef<HTMLElement>('box'))
const marks = computed(() =>
  width.value ? placedMarks(props.rehearsal.marks, props.times, width.value) : [],
)
const now = computed(() => timeText(props.times[props.place] ?? 0))
</script>

<template>
  <div class="axis" role="group" aria-label="Time">
    <ol ref="box" class="marks" :class="{ tall: marks.some((mark) => mark.lane) }">
      <li
        v-for="mark in marks"
        :key="mark.place"
        :class="{ trouble: mark.isTrouble, above: mark.lane }"
        :style="{ left: `${mark.x}px` }"
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
.tall {
  height: 44px;
}
li {
  position: absolute;
  bottom: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  width: max-content;
  transform: translateX(-50%);
}
li::after {
  width: 1px;
  height: 6px;
  content: '';
  background: var(--slate);
}
.above::after {
  height: 24px;
}
.trouble :deep(.el-button) {
  color: var(--madder);
}
</style>
