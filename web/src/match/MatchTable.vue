<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Design, Match, Row, Side, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import HalfDiscs from '@/ui/HalfDiscs.vue'
import FieldEditor from './FieldEditor.vue'
import { unbroken, withVisibleEdges } from './fields'

const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match; at: string }>()
const { change, refusal, dismissRefusal } = useOpenDesign()

const SIDES: readonly Side[] = ['left', 'right']
const table = ref<HTMLElement>()
const active = ref<{ row: number; side: Side }>({ row: 0, side: 'left' })
const editing = ref<{ row: string; side: Side } | null>(null)
const error = ref('')

const names = computed(() => ({ left: props.match.left_name, right: props.match.right_name }))

/** A small heading where the next stage begins. */
function stageOf(row: Row, at: number): string {
  return props.match.rows[at - 1]?.stage === row.stage ? '' : row.stage
}
function textOf(row: Row, side: Side): string[] {
  const text = side === 'left' ? row.left_text : row.right_text
  return text === '—' ? ['not known yet'] : text.split('; ').map((part) => unbroken(withVisibleEdges(part)))
}
function isEditing(row: Row, side: Side): boolean {
  return editing.value?.row === row.key && editing.value.side === side
}
function edit(row: Row, side: Side): void {
  error.value = ''
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
  const last = props.match.rows.length - 1
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
async function save(row: Row, side: Side, value: unknown): Promise<void> {
  const field = row[side].field
  const object = { ...props.tunnel, [side]: { ...props.tunnel[side], [field]: value } }
  if (await change([{ op: 'put-tunnel', object }], `${row.title} at ${names.value[side]}`)) return close()
  const found = refusal.value?.errors.map((one) => one.detail).join('; ')
  error.value = found || (refusal.value?.detail ?? 'The change was refused.')
  if (found) dismissRefusal() // it stands beside the field
}
/** Put the cursor on the spot that the address names, as "right/key". */
watch(
  () => props.at,
  async (at) => {
    const [side, field] = at.split('/') as [Side, string]
    const row = props.match.rows.findIndex((one) => one[side]?.field === field)
    if (row < 0) return
    active.value = { row, side }
    await focusActive()
  },
  { immediate: true },
)
</script>

<template>
  <div ref="table" class="banks" role="table" aria-label="Both ends, row by row" @keydown="onKey">
    <div class="row head" role="row">
      <h3 role="columnheader">{{ match.left_name }}</h3>
      <span role="columnheader"><span class="visually-hidden">Verdict</span></span>
      <h3 role="columnheader">{{ match.right_name }}</h3>
    </div>
    <template v-for="(row, rowAt) in match.rows" :key="row.key">
      <div class="row" :class="row.verdict" role="row">
        <div class="about" role="rowheader">
          <span class="stage">{{ stageOf(row, rowAt) }}</span>
          <span class="row-title">{{ row.title }}</span>
          <span v-if="row.verdict !== 'agreed'" class="reason">{{ row.reason }}</span>
        </div>
        <template v-for="side in SIDES" :key="side">
          <div v-if="side === 'right'" role="cell" class="seam"><HalfDiscs :verdict="row.verdict" /></div>
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
            @save="(value) => save(row, side, value)"
            @close="close"
          />
          <div v-else role="cell" class="bank" :class="side">
            <button
              type="button"
              class="value figures"
              :class="{ unknown: textOf(row, side)[0] === 'not known yet' }"
              :data-spot="`${rowAt}-${side}`"
              :tabindex="active.row === rowAt && active.side === side ? 0 : -1"
              :aria-label="`${row.title} at ${names[side]}: ${textOf(row, side).join(' ')}. Edit`"
              @focus="active = { row: rowAt, side }"
              @click="edit(row, side)"
            >
              <template v-for="(line, lineAt) in textOf(row, side)" :key="lineAt"
                ><span>{{ line }}</span
                >{{ ' ' }}</template
              >
            </button>
          </div>
        </template>
      </div>
    </template>
  </div>
</template>

<style scoped>
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
