<script setup lang="ts">
import { useElementSize, useIntervalFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { Refusal } from '@/api/client'
import type { QualityCourse } from '@/api/types'
import { reasonOf } from '@/design/refusals'
import { useOpenDesign } from '@/design/useDesignSession'
import { useQualityCourse } from './usePaths'
import { useSupposed } from './useSupposed'

/** One measure of a path over time, with the bounds at which a rule leaves it and comes back, and what it takes meanwhile. */
const props = defineProps<{ ruleId: string; pathId: string; measure: string; name: string }>()
const emit = defineEmits<{ close: [] }>()

type Span = QualityCourse['spans'][number]
const LASTS_MS = 12_000 // to play the whole of it
const STEP_MS = 50
const HEIGHT = 150
const STRIP = 22
const TOP = 10

const { supposed, asks, set } = useSupposed()
const points = computed(() => asks('point'))
const { data: answer, error } = useQualityCourse(
  useOpenDesign(),
  computed(() => ({
    ruleId: props.ruleId,
    pathId: props.pathId,
    measure: props.measure,
    point: points.value,
  })),
  supposed,
)
/** What could be played last: points that can't are mended with it in sight. */
const data = computed<QualityCourse | undefined>((before) => answer.value ?? before)
/** The points as they are typed, also where the course can't be played by them. */
const typed = computed(() =>
  points.value.length
    ? points.value.map((text) => {
        const [second, value] = text.split(':').map(Number)
        return { at_s: second ?? 0, value: value ?? 0 }
      })
    : (data.value?.points ?? []),
)
const trouble = computed(() => {
  if (!error.value) return ''
  return error.value instanceof Refusal ? reasonOf(error.value.problem) : error.value.message
})
const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)

const lasts = computed(() => data.value?.points.at(-1)?.at_s || 1)
const most = computed(() => {
  const now = data.value
  if (!now) return 1
  return 1.1 * Math.max(now.leaves_above, ...now.points.map((point) => point.value)) || 1
})
const x = (second: number) => (second / lasts.value) * width.value
const y = (value: number) => TOP + (HEIGHT - TOP) * (1 - value / most.value)
const line = computed(() =>
  (data.value?.points ?? []).map(({ at_s, value }) => `${x(at_s)},${y(value)}`).join(' '),
)

const at = ref(0)
const { pause, resume, isActive } = useIntervalFn(
  () => {
    at.value = Math.min(lasts.value, at.value + (lasts.value * STEP_MS) / LASTS_MS)
    if (at.value >= lasts.value) pause()
  },
  STEP_MS,
  { immediate: false },
)
function play(): void {
  if (isActive.value) return pause()
  if (at.value >= lasts.value) at.value = 0
  resume()
}
watch(points, () => (at.value = 0))

const value = computed(() => {
  const all = data.value?.points ?? []
  const next = all.findIndex((point) => point.at_s > at.value)
  const [before, after] = [all[next - 1], all[next]]
  if (!after) return all.at(-1)?.value ?? 0
  if (!before) return after.value
  const part = (at.value - before.at_s) / (after.at_s - before.at_s)
  return before.value + part * (after.value - before.value)
})
const span = computed(() => data.value?.spans.findLast((candidate) => candidate.from_s <= at.value))
const kindOf = (taken: Span) => (taken.path_id === props.pathId ? 'own' : taken.path_id ? 'other' : 'none')
const takes = (taken: Span) => (taken.path_id ? taken.name : taken.name === 'hold' ? 'held' : 'falls through')

function write(all: { at_s: number; value: number }[]): void {
  set({ point: all.map((point) => `${+point.at_s.toFixed(1)}:${+point.value.toFixed(2)}`) })
}
function change(place: number, changed: Partial<{ at_s: number; value: number }>): void {
  write(typed.value.map((point, other) => (other === place ? { ...point, ...changed } : point)))
}
function add(): void {
  const last = typed.value.at(-1)
  write([...typed.value, { at_s: (last?.at_s ?? 0) + 30, value: last?.value ?? 0 }])
}
</script>

<template>
  <section class="course" :aria-label="`${name} over time`">
    <header>
      <h3>{{ name }} over time</h3>
      <ElButton v-if="points.length" link type="primary" @click="set({ point: undefined })"
        >As usual</ElButton
      >
      <ElButton link :aria-label="`Close ${name} over time`" @click="emit('close')">×</ElButton>
    </header>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <div ref="box" class="picture">
      <svg
        v-if="data && width"
        :width="width"
        :height="HEIGHT + STRIP + 20"
        role="img"
        :aria-label="`${data.title} over time; each change is told below`"
      >
        <g class="bound leaves">
          <line :x1="0" :x2="width" :y1="y(data.leaves_above)" :y2="y(data.leaves_above)" />
          <text :x="width - 4" :y="y(data.leaves_above) - 3">
            leaves above {{ data.leaves_above }} {{ data.unit }}
          </text>
        </g>
        <g class="bound returns">
          <line :x1="0" :x2="width" :y1="y(data.returns_below)" :y2="y(data.returns_below)" />
          <text :x="width - 4" :y="y(data.returns_below) + 12">
            back below {{ +data.returns_below.toFixed(1) }} {{ data.unit }} for {{ data.back_after_s }} s
          </text>
        </g>
        <polyline class="value" :points="line" />
        <g v-for="taken in data.spans" :key="taken.from_s" class="taken" :class="kindOf(taken)">
          <rect
            :x="x(taken.from_s)"
            :y="HEIGHT + 4"
            :width="Math.max(1, x(taken.until_s - taken.from_s))"
            :height="STRIP"
          />
          <text
            v-if="x(taken.until_s - taken.from_s) > 7 * takes(taken).length"
            :x="x(taken.from_s) + 6"
            :y="HEIGHT + 19"
          >
            {{ takes(taken) }}
          </text>
        </g>
        <g class="now">
          <line :x1="x(at)" :x2="x(at)" :y1="0" :y2="HEIGHT + STRIP + 4" />
          <circle :cx="x(at)" :cy="y(value)" r="4" />
        </g>
      </svg>
    </div>
    <template v-if="data">
      <div class="player">
        <ElButton type="primary" @click="play">{{ isActive ? 'Pause' : 'Play' }}</ElButton>
        <ElSlider
          v-model="at"
          :min="0"
          :max="lasts"
          :show-tooltip="false"
          aria-label="Second"
          @input="pause"
        />
        <output class="figures">{{ at.toFixed(0) }} s: {{ value.toFixed(1) }} {{ data.unit }}</output>
        <span v-if="span" class="takes" :class="kindOf(span)">{{ takes(span) }}</span>
      </div>
      <ol class="changes" aria-label="What is taken">
        <li v-for="taken in data.spans" :key="taken.from_s">
          <span class="figures">{{ taken.from_s }} s</span> {{ takes(taken) }}
          <span v-if="taken.why" class="muted">{{ taken.why }}</span>
        </li>
      </ol>
      <ol class="points" aria-label="Course">
        <li v-for="(point, place) in typed" :key="place">
          <ElInputNumber
            :model-value="point.at_s"
            :min="0"
            :max="3600"
            :controls="false"
            :aria-label="`Second of point ${place + 1}`"
            @change="change(place, { at_s: $event ?? 0 })"
          />
          s
          <ElInputNumber
            :model-value="+point.value.toFixed(2)"
            :min="0"
            :controls="false"
            :aria-label="`${data.title} of point ${place + 1}, ${data.unit}`"
            @change="change(place, { value: $event ?? 0 })"
          />
          {{ data.unit }}
          <ElButton
            v-if="typed.length > 2"
            link
            :aria-label="`Take point ${place + 1} out`"
            @click="write(typed.filter((_, other) => other !== place))"
            >×</ElButton
          >
        </li>
        <li><ElButton @click="add">Add point</ElButton></li>
      </ol>
    </template>
  </section>
</template>

<style scoped>
.course {
  padding: 8px 12px;
  margin: 6px 0;
  background: var(--card);
  border: 1px solid var(--verdigris);
  border-radius: 3px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
}
header h3 {
  flex: 1;
}
.picture {
  min-height: 192px;
}
svg {
  display: block;
}
text {
  font-size: 11px;
  fill: var(--muted);
}
.bound text {
  text-anchor: end;
}
.bound line {
  stroke-dasharray: 5 4;
}
.leaves line {
  stroke: var(--madder);
}
.returns line {
  stroke: var(--verdigris);
}
.value {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.8;
}
.taken rect {
  stroke: var(--card);
}
.own rect {
  fill: var(--verdigris-wash);
}
.other rect {
  fill: var(--ochre-wash);
}
.none rect {
  fill: var(--madder-wash);
}
.own text,
.takes.own {
  color: var(--verdigris);
  fill: var(--verdigris);
}
.other text,
.takes.other {
  color: var(--ochre);
  fill: var(--ochre);
}
.none text,
.takes.none {
  color: var(--madder);
  fill: var(--madder);
}
.now line {
  stroke: var(--slate);
}
.now circle {
  fill: var(--ink);
}
.player {
  display: grid;
  grid-template-columns: auto 1fr auto minmax(120px, auto);
  gap: 14px;
  align-items: center;
}
.takes {
  font-weight: 600;
}
ol {
  padding: 0;
  margin: 6px 0 0;
  list-style: none;
}
.changes .figures {
  display: inline-block;
  min-width: 48px;
  text-align: right;
}
.points {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}
.points li {
  display: flex;
  gap: 4px;
  align-items: center;
}
.points .el-input-number {
  width: 64px;
}
</style>
