<script setup lang="ts">
import { useElementSize, useScroll } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useTheme } from '@/app/useTheme'
import { prefixText, snapped, type Extent, type Root } from './blocks'
import { inWindow, type Block, type Column, type Lane } from './lanes'
import { AXIS_HEIGHT, FREE_HEIGHT, LANE_HEIGHT, paint, paletteOf, unitAt, xOf, type Scene } from './painting'

const MANY_LANES = 10 // more of them, and only those with something in sight are drawn
const ZOOM_STEP = 1.25
const MOVE_STEP = 0.15

const props = defineProps<{
  root: Root
  window: Extent
  lanes: Lane[]
  columns: Column[]
  gaps: (Extent & { text: string })[]
  chosen: Block | null
}>()
const emit = defineEmits<{
  zoom: [factor: number, at: number]
  move: [part: number]
  fit: [extent: Extent]
  reset: []
  choose: [block: Block | null]
  reserve: [prefix: string]
}>()

const scroller = useTemplateRef<HTMLElement>('scroller')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(canvas)
const { height } = useElementSize(scroller)
const { y: scrolled } = useScroll(scroller)
const { dark } = useTheme()
const drawn = shallowRef<Extent | null>(null)
const grabbed = ref<{ x: number; unit: number; what: 'window' | 'free' } | null>(null)

const listed = computed(() => {
  if (props.lanes.length <= MANY_LANES) return props.lanes
  return props.lanes.filter((lane) => inWindow(lane.blocks, props.window).length)
})
const hidden = computed(() => props.lanes.length - listed.value.length)
const firstLane = computed(() => Math.floor(scrolled.value / LANE_HEIGHT))
const inSight = computed(() => {
  const room = Math.ceil((height.value - AXIS_HEIGHT - FREE_HEIGHT) / LANE_HEIGHT)
  return listed.value.slice(firstLane.value, firstLane.value + Math.max(room, 1))
})
const scene = computed<Scene>(() => ({
  root: props.root,
  window: props.window,
  lanes: inSight.value,
  columns: props.columns,
  gaps: props.gaps,
  drawn: drawn.value,
  chosen: props.chosen ? `${props.chosen.kind} ${props.chosen.id}` : '',
  width: width.value,
  height: height.value,
}))
const words = computed(() => {
  const blocks = props.lanes.reduce((count, lane) => count + inWindow(lane.blocks, props.window).length, 0)
  return `${blocks} blocks of ${props.lanes.length} sites in sight; the list below says the same in words`
})

let asked = 0
function repaint(): void {
  cancelAnimationFrame(asked)
  asked = requestAnimationFrame(() => {
    const surface = canvas.value
    const context = surface?.getContext('2d')
    if (!surface || !context || !scene.value.width) return
    const ratio = globalThis.devicePixelRatio || 1
    const [wide, high] = [Math.round(scene.value.width * ratio), Math.round(scene.value.height * ratio)]
    if (surface.width !== wide || surface.height !== high) [surface.width, surface.height] = [wide, high]
    context.setTransform(ratio, 0, 0, ratio, 0, 0)
    paint(context, scene.value, paletteOf(surface))
  })
}
watch([scene, dark], repaint, { flush: 'post' })

/** The innermost block under a place on the canvas. */
function blockAt(x: number, y: number): Block | null {
  const lane = inSight.value[Math.floor((y - AXIS_HEIGHT - FREE_HEIGHT) / LANE_HEIGHT)]
  if (!lane || y < AXIS_HEIGHT + FREE_HEIGHT) return null
  const near = inWindow(lane.blocks, props.window).filter((block) => {
    const left = xOf(scene.value, block.first)
    return x >= left - 2 && x <= Math.max(xOf(scene.value, block.first + block.size), left + 3) + 2
  })
  return near.sort((a, b) => b.depth - a.depth)[0] ?? null
}
function gapAt(unit: number): (Extent & { text: string }) | undefined {
  return props.gaps.find((gap) => unit >= gap.first && unit < gap.first + gap.size)
}
function onDown(event: PointerEvent): void {
  if (event.button !== 0) return
  const unit = unitAt(scene.value, event.offsetX)
  const inFree = event.offsetY >= AXIS_HEIGHT && event.offsetY < AXIS_HEIGHT + FREE_HEIGHT
  grabbed.value = { x: event.offsetX, unit, what: inFree && gapAt(unit) ? 'free' : 'window' }
  canvas.value?.setPointerCapture(event.pointerId)
}
function onMove(event: PointerEvent): void {
  const start = grabbed.value
  if (!start) return
  if (start.what === 'free') {
    const gap = gapAt(start.unit)
    drawn.value = gap ? snapped(start.unit, unitAt(scene.value, event.offsetX), gap) : null
  } else if (event.offsetX !== start.x) {
    emit('move', (start.x - event.offsetX) / width.value)
    grabbed.value = { ...start, x: event.offsetX }
  }
}
function onUp(event: PointerEvent): void {
  const start = grabbed.value
  grabbed.value = null
  if (start?.what === 'free') {
    const gap = gapAt(start.unit)
    const taken = drawn.value ?? (gap && snapped(gap.first, gap.first + gap.size - 1, gap))
    if (taken) emit('reserve', prefixText(props.root, taken))
    drawn.value = null
  } else if (start) {
    const moved = Math.abs(unitAt(scene.value, event.offsetX) - start.unit) / props.window.size
    if (moved < 0.005) emit('choose', blockAt(event.offsetX, event.offsetY))
  }
}
function onDouble(event: MouseEvent): void {
  const block = blockAt(event.offsetX, event.offsetY)
  if (block) emit('fit', block)
}
/** The wheel zooms where nothing is to be scrolled, on the axis, and with Ctrl; sideways it moves. */
function onWheel(event: WheelEvent): void {
  const scrolls = listed.value.length > inSight.value.length && event.offsetY > AXIS_HEIGHT + FREE_HEIGHT
  if (scrolls && !event.ctrlKey && !event.deltaX) return
  event.preventDefault()
  if (event.deltaX || event.shiftKey) emit('move', (event.deltaX || event.deltaY) / 1000)
  else emit('zoom', event.deltaY > 0 ? ZOOM_STEP : 1 / ZOOM_STEP, event.offsetX / width.value)
}
const KEYS: Record<string, () => void> = {
  '+': () => emit('zoom', 1 / ZOOM_STEP, 0.5),
  '=': () => emit('zoom', 1 / ZOOM_STEP, 0.5),
  '-': () => emit('zoom', ZOOM_STEP, 0.5),
  ArrowLeft: () => emit('move', -MOVE_STEP),
  ArrowRight: () => emit('move', MOVE_STEP),
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  Home: () => emit('reset'),
  Enter: () => props.chosen && emit('fit', props.chosen),
  Escape: () => emit('choose', null),
}
function onKey(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.altKey || !KEYS[event.key]) return
  event.preventDefault()
  KEYS[event.key]?.()
}
/** Go to the next block in sight, lane by lane. */
function step(by: number): void {
  const blocks = listed.value.flatMap((lane) => inWindow(lane.blocks, props.window))
  const at = blocks.findIndex((block) => block.id === props.chosen?.id && block.kind === props.chosen.kind)
  emit('choose', blocks[Math.min(Math.max(at + by, 0), blocks.length - 1)] ?? null)
}
</script>

<template>
  <div ref="scroller" class="ruler" tabindex="-1">
    <div class="fixed" :style="{ height: `${height}px` }">
      <div class="names" aria-hidden="true">
        <span class="axis muted">{{ hidden ? `${hidden} sites have nothing here` : '' }}</span>
        <span class="free">draw to reserve</span>
        <span v-for="lane in inSight" :key="lane.siteId" class="lane" :title="lane.name">{{
          lane.name
        }}</span>
      </div>
      <canvas
        ref="canvas"
        tabindex="0"
        role="application"
        aria-roledescription="ruler of addresses"
        :aria-label="words"
        aria-keyshortcuts="+ - ArrowLeft ArrowRight ArrowUp ArrowDown Home Enter"
        @pointerdown="onDown"
        @pointermove="onMove"
        @pointerup="onUp"
        @dblclick="onDouble"
        @wheel="onWheel"
        @keydown="onKey"
      />
    </div>
    <div
      :style="{
        height: `${Math.max(AXIS_HEIGHT + FREE_HEIGHT + listed.length * LANE_HEIGHT - height, 0)}px`,
      }"
    />
  </div>
</template>

<style scoped>
.ruler {
  position: relative;
  overflow: hidden auto;
  background: var(--paper);
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.fixed {
  position: sticky;
  top: 0;
  display: grid;
  grid-template-columns: 126px minmax(0, 1fr);
}
.names {
  overflow: hidden;
  border-right: 1px solid var(--line);
}
.names span {
  display: block;
  padding: 0 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.axis {
  height: 22px;
  font-size: 11px;
  line-height: 22px;
}
.free {
  height: 24px;
  font-size: 12px;
  line-height: 24px;
  color: var(--verdigris);
}
.lane {
  height: 34px;
  line-height: 34px;
}
canvas {
  width: 100%;
  height: 100%;
  cursor: crosshair;
  touch-action: none;
}
canvas:focus-visible {
  outline-offset: -2px;
}
</style>
