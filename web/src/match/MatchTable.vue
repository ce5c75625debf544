<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import type { Design, Match, Row, Side, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import HalfDiscs from '@/ui/HalfDiscs.vue'
import { VERDICT_WORDS } from '@/ui/words'
import { otherSide, withValue } from './copying'
import FieldEditor from './FieldEditor.vue'
import { unbroken, withVisibleEdges } from './fields'
import ProposalLadder from './ProposalLadder.vue'
import RowActions from './RowActions.vue'

const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match; at: string }>()
const { change, refusal, dismissRefusal } = useOpenDesign()

const SIDES: readonly Side[] = ['left', 'right']
const table = ref<HTMLElement>()
const active = ref<{ row: number; side: Side }>({ row: 0, side: 'left' })
const editing = ref<{ row: string; side: Side } | null>(null)
const error = ref('')

const names = computed(() => ({ left: props.match.left_name, right: props.match.right_name }))

const onlyOpen = ref(false)
const withUnset = ref(false)
/** Rows that neither end has set, and that need nothing, are folded away. */
const isUnset = (row: Row) =>
  row.verdict === 'agreed' && row.left_text === null && row.right_text === null && !row.value
const unset = computed(() => props.match.rows.filter(isUnset).length)
const open = computed(() => props.match.rows.filter((row) => !['agreed', 'negotiated'].includes(row.verdict)))
const rows = computed(() => {
  if (onlyOpen.value && open.value.length) return open.value
  return withUnset.value ? props.match.rows : props.match.rows.filter((row) => !isUnset(row))
})

/** The cursor stays within the rows that are shown, so that the Tab key finds it. */
watch(rows, (shown) => {
  if (active.value.row >= shown.length) active.value = { ...active.value, row: Math.max(shown.length - 1, 0) }
})

/** A small heading where the next stage begins. */
function stageOf(row: Row, at: number): string {
  return rows.value[at - 1]?.stage === row.stage ? '' : row.stage
}
function isEmpty(row: Row, side: Side): boolean {
  return (side === 'left' ? row.left_text : row.right_text) === null
}
function textOf(row: Row, side: Side): string[] {
  const text = side === 'left' ? row.left_text : row.right_text
  if (text === null) return [row.verdict === 'agreed' ? 'not set' : 'not known yet']
  return text.split('; ').map((part) => unbroken(withVisibleEdges(part)))
}
/** How a rung of a ladder stands: taken, meeting another, or meeting none. */
function rungClass(row: Row, side: Side, at: number): string {
  const { ladder } = row
  if (!ladder) return ''
  if (ladder.chosen?.[side] === at) return 'taken'
  return ladder.meeting.some((rung) => rung[side] === at) ? 'meets' : 'alone'
}
function isEditing(row: Row, side: Side): boolean {
  return editing.value?.row === row.key && editing.value.side === side
}
/** A press of the pointer moves nothing before it is over: the row's actions would slip away from under it. */
const pressed = ref(false)
useEventListener(window, 'pointerup', () => (pressed.value = false))
useEventListener(window, 'pointercancel', () => (pressed.value = false))
function onFocus(row: number, side: Side): void {
  if (!pressed.value) active.value = { row, side }
}
function edit(row: Row, side: Side): void {
  error.value = ''
  active.value = { row: rows.value.indexOf(row), side }
  editing.value = { row: row.key, side }
}
async function focusActive(): Promise<void> {
  await nextTick()
  table.value?.querySelector<HTMLElement>(`[data-spot="${active.value.row}-${active.value.side}"]`)?.focus()
}
async function close(): Promise<void> {
  editing.value = null
  error.value = ''
  await focusActive()
}
function onKey(event: KeyboardEvent): void {
  if (editing.value) return
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
async function save(row: Row, side: Side, value: unknown, both: boolean): Promise<void> {
  const own = withValue(props.tunnel, row, side, value)
  const object = both ? withValue(own, row, otherSide(side), value) : own
  const where = both ? 'both ends' : names.value[side]
  if (await change([{ op: 'put-tunnel', object }], `${row.title} at ${where}`)) return close()
  const found = refusal.value?.errors.map((one) => one.detail).join('; ')
  error.value = found || (refusal.value?.detail ?? 'The change was refused.')
  if (found) dismissRefusal() // it stands beside the field
}
async function put(tunnel: Tunnel, note: string): Promise<void> {
  await change([{ op: 'put-tunnel', object: tunnel }], note)
  await focusActive()
}
/** Put the cursor on the spot that the address names, as "right/key". */
watch(
  () => props.at,
  async (at) => {
    const [side, field] = at.split('/') as [Side, string]
    const wanted = props.match.rows.find((one) => one[side]?.field === field && one.verdict !== 'agreed')
    const found = wanted ?? props.match.rows.find((one) => one[side]?.field === field)
    if (!found) return
    if (isUnset(found)) withUnset.value = true
    await nextTick()
    const row = rows.value.indexOf(found)
    active.value = { row, side }
    await focusActive()
  },
  { immediate: true },
)
</script>

<template>
  <div ref="table" @keydown="onKey" @pointerdown="pressed = true">
    <p class="muted counts">
      {{ match.summary }}
      <button
        v-if="open.length && open.length < match.rows.length"
        class="link"
        type="button"
        :aria-pressed="onlyOpen"
        @click="onlyOpen = !onlyOpen"
      >
        {{
          onlyOpen
            ? 'Show all rows'
            : `Show only the ${open.length} that ${open.length === 1 ? "doesn't" : "don't"}`
        }}
      </button>
      <button v-if="unset && !onlyOpen" class="link" type="button" @click="withUnset = !withUnset">
        {{ withUnset ? 'Hide what is not set' : `${unset} more are not set at either end` }}
      </button>
    </p>
    <div class="banks" role="table" aria-label="Both ends, row by row">
      <div class="row head" role="row">
        <h3 role="columnheader">{{ match.left_name }}</h3>
        <span role="columnheader"><span class="visually-hidden">Verdict</span></span>
        <h3 role="columnheader">{{ match.right_name }}</h3>
      </div>
      <template v-for="(row, rowAt) in rows" :key="row.key">
        <div class="row" :class="row.verdict" role="row">
          <div class="about" role="rowheader">
            <span class="stage">{{ stageOf(row, rowAt) }}</span>
            <span class="row-title">{{ row.title }}</span>
            <span v-if="row.verdict !== 'agreed' || row.relation === 'complementary'" class="reason">{{
              row.reason
            }}</span>
          </div>
          <template v-for="side in SIDES" :key="side">
            <div v-if="side === 'right'" role="cell" class="seam" :class="{ ladder: row.ladder }">
              <ProposalLadder v-if="row.ladder && row.verdict !== 'unknown'" :ladder="row.ladder" />
              <HalfDiscs v-else :verdict="row.verdict" />
              <span v-if="row.ladder" class="visually-hidden">{{ VERDICT_WORDS[row.verdict] }}</span>
            </div>
            <FieldEditor
              v-if="isEditing(row, side)"
              role="cell"
              class="bank"
              :class="side"
              :design="design"
              :tunnel="tunnel"
              :side="side"
              :field="row[side].field"
              :label="`${row.title} at ${names[side]}`"
              :error="error"
              :mirrored="row.copyable"
              @save="(value, both) => save(row, side, value, both)"
              @close="close"
            />
            <div v-else role="cell" class="bank" :class="side">
              <button
                type="button"
                class="value figures"
                :class="{ unknown: isEmpty(row, side), rungs: row.ladder }"
                :data-spot="`${rowAt}-${side}`"
                :tabindex="active.row === rowAt && active.side === side ? 0 : -1"
                :aria-label="`${row.title} at ${names[side]}: ${textOf(row, side).join(' ')}. Edit`"
                @focus="onFocus(rowAt, side)"
                @click="edit(row, side)"
              >
                <template v-for="(line, lineAt) in textOf(row, side)" :key="lineAt"
                  ><span :class="rungClass(row, side, lineAt)">{{ line }}</span
                  >{{ ' ' }}</template
                >
              </button>
            </div>
          </template>
          <RowActions
            v-if="active.row === rowAt && !editing && row.copyable"
            :tunnel="tunnel"
            :row="row"
            :names="names"
            @put="put"
          />
        </div>
      </template>
    </div>
  </div>
</template>

<style scoped>
.counts {
  display: flex;
  gap: 12px;
  margin-bottom: 4px;
  font-size: 12px;
}
.link {
  padding: 0;
  color: var(--verdigris);
  text-decoration: underline;
  background: none;
  border: 0;
  cursor: pointer;
}
@media print {
  .link {
    display: none;
  }
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 52px minmax(0, 1fr);
  align-items: stretch;
  border-bottom: 1px solid var(--line);
}
.head {
  padding-bottom: 4px;
}
.head h3:first-child {
  text-align: right;
}
.about {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
  align-items: baseline;
  padding-top: 2px;
  font-size: 12px;
  line-height: 1.3;
}
.stage {
  flex: none;
  width: 40px;
  color: var(--muted);
  text-transform: capitalize;
}
.row-title {
  flex: none;
  font-weight: 500;
}
.reason {
  color: var(--muted);
}
.differs .reason {
  color: var(--madder);
}
.narrowed .reason,
.differs-later .reason {
  color: var(--ochre);
}
.row.differs {
  background: var(--madder-wash);
}
.seam {
  display: flex;
  align-self: center;
  justify-self: center;
}
.bank {
  min-width: 0;
  padding: 0 0 2px;
}
.value {
  display: flex;
  flex-direction: column;
  width: 100%;
  padding: 1px 6px;
  line-height: 1.35;
  text-align: left;
  background: none;
  border: 1px solid transparent;
  border-radius: 3px;
  cursor: text;
}
.value span {
  overflow-wrap: anywhere;
}
.rungs span {
  display: flex;
  align-items: center;
  height: 34px;
  line-height: 1.2;
}
.rungs .taken {
  font-weight: 600;
}
.rungs .alone {
  color: var(--muted);
}
.seam.ladder {
  align-self: start;
  padding-top: 2px;
}
.bank.left .value {
  align-items: flex-end;
  text-align: right;
}
.value:hover {
  background: var(--card);
  border-color: var(--line);
}
.value.unknown {
  font-style: italic;
  color: var(--slate);
}
</style>
