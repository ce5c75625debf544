<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Row, Side, Tunnel } from '@/api/types'
import HalfDiscs from '@/ui/HalfDiscs.vue'
import PictureButton from '@/ui/PictureButton.vue'
import { VERDICT_WORDS } from '@/ui/words'
import FieldEditor from './FieldEditor.vue'
import { unbroken, withVisibleEdges } from './fields'
import ProposalLadder from './ProposalLadder.vue'
import RowActions from './RowActions.vue'
import type { EndsKeeper, ShownEnds } from './keeper'
import type { Editors } from './useEditors'

/** One row of the comparison, on one line: its title, the left end, the seam, the right end. */
const props = defineProps<{
  ends: ShownEnds
  row: Row
  at: number // its place among the rows that are shown
  stage: string // where a stage begins; empty further down
  names: Record<Side, string>
  active: Side | null // the side that the keyboard is at
  editors: Editors
  keeper: EndsKeeper
  departs: readonly Side[] // from the tunnel's standard
}>()
const emit = defineEmits<{
  focused: [side: Side]
  edit: [side: Side]
  closed: [side: Side]
  put: [tunnel: Tunnel, note: string]
}>()

const SIDES: readonly Side[] = ['left', 'right']
const isAgreed = computed(() => ['agreed', 'negotiated'].includes(props.row.verdict))
const unfolded = ref(false)
/** Ladders that meet are one line until somebody wants to see them; where none meets, they are what matters. */
const showsLadder = computed(() => props.row.ladder && (unfolded.value || !isAgreed.value))
const tellsReason = computed(() => props.row.reason && !isAgreed.value)
const openSides = computed(() => SIDES.filter((side) => props.editors.isOpen(props.row.key, side)))

function linesOf(side: Side): string[] {
  const text = side === 'left' ? props.row.left_text : props.row.right_text
  if (text === null) return [props.row.verdict === 'agreed' ? 'not set' : 'not known yet']
  return text.split('; ').map((part) => unbroken(withVisibleEdges(part)))
}
const isEmpty = (side: Side) => (side === 'left' ? props.row.left_text : props.row.right_text) === null
/** Where both agree, one line: of ladders the rung that is taken, of networks as many as there is room for. */
function shownLines(side: Side): string[] {
  const lines = linesOf(side)
  if (showsLadder.value || !isAgreed.value || lines.length < 2) return lines
  if (!props.row.ladder) return [lines.join('; ')]
  const taken = lines[props.row.ladder.chosen?.[side] ?? 0] ?? ''
  return [`${taken} and ${lines.length - 1} more`]
}
/** What is read of a value, word by word as it is seen. */
function said(side: Side): string {
  const departs = props.departs.includes(side) ? ['departs'] : []
  return [...shownLines(side), ...departs].join(' ')
}
/** How a rung of a ladder stands: taken, meeting another, or meeting none. */
function rungClass(side: Side, at: number): string {
  const { ladder } = props.row
  if (!ladder || !showsLadder.value) return ''
  if (ladder.chosen?.[side] === at) return 'taken'
  return ladder.meeting.some((rung) => rung[side] === at) ? 'meets' : 'alone'
}
async function save(side: Side, value: unknown, both: boolean): Promise<void> {
  if (await props.editors.save(props.row, side, value, both)) emit('closed', side)
}
function giveUp(side: Side): void {
  props.editors.close(props.row.key, side)
  emit('closed', side)
}
</script>

<template>
  <div class="row" :class="row.verdict" role="row">
    <div class="about" role="rowheader">
      <span class="stage">{{ stage }}</span>
      <PictureButton
        v-if="row.ladder && isAgreed"
        class="row-title"
        :aria-expanded="unfolded"
        :aria-label="`Rungs of ${row.title}`"
        :title="unfolded ? 'Fold the ladders' : 'Show all rungs'"
        @click="unfolded = !unfolded"
        >{{ unfolded ? '▾' : '▸' }} {{ row.title }}</PictureButton
      >
      <span v-else class="row-title" :title="row.title">{{ row.title }}</span>
    </div>
    <template v-for="side in SIDES" :key="side">
      <div v-if="side === 'right'" role="cell" class="seam" :title="row.reason">
        <ProposalLadder v-if="row.ladder && showsLadder && row.verdict !== 'unknown'" :ladder="row.ladder" />
        <HalfDiscs v-else :verdict="row.verdict" />
        <span v-if="row.ladder" class="visually-hidden">{{ VERDICT_WORDS[row.verdict] }}</span>
      </div>
      <div role="cell" class="bank" :class="side">
        <PictureButton
          class="value figures"
          :class="{ unknown: isEmpty(side), rungs: showsLadder }"
          :data-spot="`${at}-${side}`"
          :tabindex="active === side ? 0 : -1"
          :aria-label="`${row.title} at ${names[side]}: ${said(side)}. Edit`"
          :title="linesOf(side).join('\n')"
          @focus="emit('focused', side)"
          @click="emit('edit', side)"
        >
          <template v-for="(line, lineAt) in shownLines(side)" :key="lineAt"
            ><span :class="rungClass(side, lineAt)">{{ line }}</span
            >{{ ' ' }}</template
          >
          <span v-if="departs.includes(side)" class="departs" title="Set otherwise than the standard says"
            >departs</span
          >
        </PictureButton>
      </div>
    </template>
    <FieldEditor
      v-for="side in openSides"
      :key="`${side} editor`"
      role="cell"
      class="open"
      :class="side"
      :design="ends.design"
      :tunnel="ends.tunnel"
      :side="side"
      :field="row[side].field"
      :label="`${row.title} at ${names[side]}`"
      :error="editors.errorOf(row.key, side)"
      :mirrored="row.copyable"
      :start="editors.startOf(row.key, side)"
      :without-offers="!keeper.hasOffers"
      :save="(value: unknown, both: boolean) => save(side, value, both)"
      @typed="editors.touch(row.key, side, $event)"
      @close="giveUp(side)"
    />
    <p v-if="tellsReason" class="reason" role="cell">{{ row.reason }}</p>
    <RowActions
      v-if="active && !openSides.length && row.copyable && keeper.keeps(row.left.field)"
      :tunnel="ends.tunnel"
      :row="row"
      :names="names"
      @put="(changed, note) => emit('put', changed, note)"
    />
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: minmax(150px, 0.9fr) minmax(0, 1fr) 44px minmax(0, 1fr);
  align-items: center;
  min-height: 21px;
  border-bottom: 1px solid var(--line);
}
.about {
  display: flex;
  gap: 6px;
  align-items: baseline;
  min-width: 0;
  font-size: 12px;
  line-height: 1.3;
}
.stage {
  flex: none;
  width: 36px;
  font-size: 11px;
  color: var(--muted);
  text-transform: capitalize;
}
.row-title {
  min-width: 0;
  overflow: hidden;
  font-weight: 500;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.reason {
  grid-column: 1 / -1;
  padding: 0 0 2px 42px;
  font-size: 12px;
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
}
/* an editor has a line of its own, at its end's side: half a row is too narrow for proposals and keys */
.open {
  grid-column: 2 / -1;
  width: min(100%, 460px);
  margin: 2px 0 4px;
}
.open.right {
  justify-self: end;
}
.value {
  display: flex;
  flex-direction: column;
  width: 100%;
  padding: 0 6px;
  line-height: 18px;
  border: 1px solid transparent;
  border-radius: 3px;
  cursor: text;
}
.value span {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.value .departs {
  font: 11px var(--words);
  color: var(--ochre);
}
.rungs span {
  display: flex;
  align-items: center;
  height: 34px;
  line-height: 1.2;
  white-space: normal;
}
.rungs .taken {
  font-weight: 600;
}
.rungs .alone {
  color: var(--muted);
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
@media print {
  .value span {
    white-space: normal;
    overflow-wrap: anywhere;
  }
}
</style>
