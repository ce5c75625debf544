<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { replaceEqualDeep } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import type { Design, Match, Row, Side, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { tunnelKeeper, type EndsKeeper, type ShownEnds } from './keeper'
import MatchRow from './MatchRow.vue'
import { useEditors } from './useEditors'

/** Both ends of a tunnel, row by row. */
const props = defineProps<{
  design: Design
  tunnel: Tunnel
  match: Match
  at: string
  keeper?: EndsKeeper // of the tunnel, where nothing else is said
}>()
const keeper = computed(() => props.keeper ?? tunnelKeeper(() => props.design))
const session = useOpenDesign()

const table = ref<HTMLElement>()
const active = ref<{ row: number; side: Side }>({ row: 0, side: 'left' })
/** The comparison with whatever is as it was before: only rows that an edit has changed are drawn anew. */
const compared = computed<Match>((before) => replaceEqualDeep(before, props.match))
const names = computed<Record<Side, string>>((before) =>
  replaceEqualDeep(before, { left: compared.value.left_name, right: compared.value.right_name }),
)
/** Read where an editor or an action is open, and nowhere else: every edit changes them. */
const ends: ShownEnds = {
  get design() {
    return props.design
  },
  get tunnel() {
    return props.tunnel
  },
}
const editors = useEditors(
  session,
  () => props.tunnel,
  () => names.value,
  () => keeper.value,
)

const onlyOpen = ref(false)
const withUnset = ref(false)
/** Rows that neither end has set, and that need nothing, are folded away. */
const isUnset = (row: Row) =>
  row.verdict === 'agreed' && row.left_text === null && row.right_text === null && !row.value
const isEdited = (row: Row) => editors.isOpen(row.key, 'left') || editors.isOpen(row.key, 'right')
const unset = computed(() => compared.value.rows.filter(isUnset).length)
const open = computed(() =>
  compared.value.rows.filter((row) => !['agreed', 'negotiated'].includes(row.verdict)),
)
const rows = computed(() =>
  compared.value.rows.filter((row) => {
    if (isEdited(row)) return true // what is being typed is never hidden
    if (onlyOpen.value && open.value.length) return open.value.includes(row)
    return withUnset.value || !isUnset(row)
  }),
)

/** The cursor stays within the rows that are shown, so that the Tab key finds it. */
watch(rows, (shown) => {
  if (active.value.row >= shown.length) active.value = { ...active.value, row: Math.max(shown.length - 1, 0) }
})

const SIDES: readonly (readonly Side[])[] = [[], ['left'], ['right'], ['left', 'right']] // each the same at every drawing
/** The ends that are set otherwise in a row than the tunnel's standard says. */
function departing(row: Row): readonly Side[] {
  const departs = (side: Side) => compared.value.departures.includes(`${side}/${row[side].field}`)
  return (
    SIDES.find(
      (sides) => departs('left') === sides.includes('left') && departs('right') === sides.includes('right'),
    ) ?? []
  )
}
/** A small heading where the next stage begins. */
function stageOf(row: Row, at: number): string {
  return rows.value[at - 1]?.stage === row.stage ? '' : row.stage
}
/** A press of the pointer moves nothing before it is over: the row's actions would slip away from under it. */
const pressed = ref(false)
useEventListener(window, 'pointerup', () => (pressed.value = false))
useEventListener(window, 'pointercancel', () => (pressed.value = false))
function onFocus(row: number, side: Side): void {
  if (!pressed.value) active.value = { row, side }
}
function edit(row: Row, side: Side): void {
  if (!keeper.value.keeps(row[side].field)) return
  editors.edit(row.key, side)
  active.value = { row: rows.value.indexOf(row), side }
}
async function focusActive(): Promise<void> {
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-spot="${active.value.row}-${active.value.side}"]`)?.focus()
}
async function closed(row: Row, side: Side): Promise<void> {
  active.value = { row: rows.value.findIndex((candidate) => candidate.key === row.key), side }
  await focusActive()
}
function onKey(event: KeyboardEvent): void {
  if (!(event.target as HTMLElement).matches('[data-spot]')) return
  const { row, side } = active.value
  const last = rows.value.length - 1
  const next: Record<string, { row: number; side: Side }> = {
    ArrowUp: { row: Math.max(row - 1, 0), side },
    ArrowDown: { row: Math.min(row + 1, last), side },
    ArrowLeft: { row, side: 'left' },
    ArrowRight: { row, side: 'right' },
  }
  const target = next[event.key]
  if (!target) return
  event.preventDefault()
  active.value = target
  void focusActive()
}
async function put(tunnel: Tunnel, note: string): Promise<void> {
  await session.change([keeper.value.put(tunnel)], note)
  await focusActive()
}
/** Put the cursor on the spot that the address names, as "right/key". */
watch(
  () => props.at,
  async (at) => {
    const [side, field] = at.split('/') as [Side, string]
    const wanted = compared.value.rows.find((row) => row[side]?.field === field && row.verdict !== 'agreed')
    const found = wanted ?? compared.value.rows.find((row) => row[side]?.field === field)
    if (!found) return
    if (isUnset(found)) withUnset.value = true
    await nextTick()
    active.value = { row: rows.value.indexOf(found), side }
    await focusActive()
  },
  { immediate: true },
)
</script>

<template>
  <div ref="table" @keydown="onKey" @pointerdown="pressed = true">
    <p class="muted counts">
      {{ match.summary }}
      <ElButton
        v-if="open.length && open.length < match.rows.length"
        link
        type="primary"
        :aria-pressed="onlyOpen"
        @click="onlyOpen = !onlyOpen"
      >
        {{
          onlyOpen
            ? 'Show all rows'
            : `Show only the ${open.length} that ${open.length === 1 ? "doesn't" : "don't"}`
        }}
      </ElButton>
      <ElButton v-if="unset && !onlyOpen" link type="primary" @click="withUnset = !withUnset">
        {{ withUnset ? 'Hide what is not set' : `${unset} more are not set at either end` }}
      </ElButton>
    </p>
    <div role="table" aria-label="Both ends, row by row">
      <div class="head" role="row">
        <span role="columnheader"><span class="visually-hidden">What is compared</span></span>
        <h3 role="columnheader">{{ match.left_name }}</h3>
        <span role="columnheader"><span class="visually-hidden">Verdict</span></span>
        <h3 role="columnheader">{{ match.right_name }}</h3>
      </div>
      <MatchRow
        v-for="(row, rowAt) in rows"
        :key="row.key"
        :ends="ends"
        :row="row"
        :at="rowAt"
        :stage="stageOf(row, rowAt)"
        :names="names"
        :active="active.row === rowAt ? active.side : null"
        :editors="editors"
        :keeper="keeper"
        :departs="departing(row)"
        @focused="onFocus(rowAt, $event)"
        @edit="edit(row, $event)"
        @closed="closed(row, $event)"
        @put="put"
      />
    </div>
  </div>
</template>

<style scoped>
.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  font-size: 12px;
}
.head {
  display: grid;
  grid-template-columns: minmax(150px, 0.9fr) minmax(0, 1fr) 44px minmax(0, 1fr);
  padding-bottom: 2px;
  border-bottom: 1px solid var(--line);
}
.head h3 {
  padding: 0 6px;
}
.head h3:first-of-type {
  text-align: right;
}
@media print {
  .counts .el-button {
    display: none;
  }
}
</style>
