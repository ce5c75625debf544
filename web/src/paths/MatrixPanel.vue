<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import PictureButton from '@/ui/PictureButton.vue'
import PictureTable from '@/ui/PictureTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { cellAt, networksOf, REACH_WORDS, summaryOf, wantedOf, type MatrixNetwork, type Reach } from './reach'
import ReachMark from './ReachMark.vue'
import { useMatrix } from './usePaths'
import { useSupposed } from './useSupposed'

/** Reachability: a cell opens both ways of its pair. */
const MOST_SHOWN = 60

const session = useOpenDesign()
const { design } = session
const { supposed, service, dscp, from, to, asked, set } = useSupposed()
const { data: matrix, error } = useMatrix(session, supposed, service, dscp)
const filter = ref(asked('only'))
watchDebounced(filter, () => set({ only: filter.value }), { debounce: 400 })
const table = useTemplateRef<InstanceType<typeof PictureTable>>('table')
const at = ref({ row: 0, column: 0 }) // the cell that the keyboard is at

const all = computed(() =>
  matrix.value && design.value ? networksOf(matrix.value, design.value, filter.value) : [],
)
const shown = computed(() => all.value.slice(0, MOST_SHOWN))
const summary = computed(() => (matrix.value ? summaryOf(matrix.value) : null))
const legend = computed(() =>
  (Object.keys(REACH_WORDS) as Reach[]).filter((reach) => summary.value?.counts.get(reach)),
)
const services = computed(() => {
  const { service: shownOne = '', services: all = [] } = matrix.value ?? {}
  return [...new Set([...all, shownOne])].map((service) => ({ value: service, label: service }))
})
const wanted = computed(() => (matrix.value ? wantedOf(matrix.value) : new Set<string>()))
const cells = computed(() =>
  shown.value.map((row) =>
    shown.value.map((column) =>
      matrix.value ? cellAt(matrix.value, wanted.value, row.place, column.place) : null,
    ),
  ),
)
function label(row: MatrixNetwork, column: MatrixNetwork, r: number, c: number): string {
  const cell = cells.value[r]?.[c]
  if (!cell) return `${row.site} ${row.name}, itself`
  const part = cell.whole ? '' : ' in part'
  const wanted = cell.wanted ? ', wanted' : ''
  return `${row.site} ${row.name} to ${column.site} ${column.name}: ${REACH_WORDS[cell.reach]}${part}${wanted}`
}
function newSite(k: number): boolean {
  return k === 0 || shown.value[k]?.site !== shown.value[k - 1]?.site
}
function open(row: MatrixNetwork, column: MatrixNetwork): void {
  set({ from: row.id, to: column.id })
}
const MOVES: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}
function move(event: KeyboardEvent): void {
  const step = MOVES[event.key]
  if (!step) return
  event.preventDefault()
  const last = shown.value.length - 1
  const to = (value: number) => Math.min(Math.max(value, 0), last)
  at.value = { row: to(at.value.row + step[0]), column: to(at.value.column + step[1]) }
  void nextTick(() => table.value?.focusCell())
}
</script>

<template>
  <section class="matrix" aria-label="Reachability">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!matrix" :rows="6" animated />
    <div v-if="matrix && summary" class="head">
      <p class="sentence">
        <template v-if="matrix.wanted.length">
          <strong :class="{ short: summary.unmet }">{{ matrix.wanted.length - summary.unmet }}</strong> of
          {{ matrix.wanted.length }} wanted pairs arrive and return.
        </template>
        <template v-else>No intent asks for this traffic yet.</template>
      </p>
      <SelectField
        label="Traffic"
        :model-value="matrix.service"
        :options="services"
        @update:model-value="set({ service: $event })"
      />
      <ElInput
        v-model="filter"
        clearable
        placeholder="Only sites or networks named …"
        aria-label="Only sites or networks named"
      />
    </div>
    <div class="legend" aria-hidden="true">
      <span v-for="reach in legend" :key="reach"
        ><ReachMark :reach="reach" /> {{ REACH_WORDS[reach] }}
        <span class="figures muted">{{ summary?.counts.get(reach) }}</span></span
      >
      <span><i class="ring"></i> an intent wants it</span>
      <span class="muted">dotted: not so for all addresses</span>
    </div>
    <p v-if="all.length > shown.length" class="muted note">
      {{ shown.length }} of {{ all.length }} networks are shown; name a site to see others.
    </p>
    <p v-if="matrix && !shown.length" class="muted note">No network is named so.</p>
    <div v-else-if="matrix" class="scroll" :class="{ asking: matrix.wanted.length }">
      <PictureTable
        ref="table"
        class="cells"
        caption="Rows are where traffic begins, columns where it goes to."
        @keydown="move"
      >
        <thead>
          <tr>
            <td></td>
            <th
              v-for="(column, c) in shown"
              :key="column.id"
              scope="col"
              :class="{ first: newSite(c), lit: column.id === to }"
            >
              <span :title="`${column.site}: ${column.name} ${column.prefix}`">{{ column.name }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in shown" :key="row.id" :class="{ first: newSite(r) }">
            <th scope="row" :class="{ lit: row.id === from }" :title="row.prefix">
              <span v-if="newSite(r)" class="site">{{ row.site }}</span> {{ row.name }}
            </th>
            <td v-for="(column, c) in shown" :key="column.id" :class="{ first: newSite(c) }">
              <PictureButton
                v-if="cells[r]?.[c]"
                :class="[
                  'cell',
                  {
                    wanted: cells[r]?.[c]?.wanted,
                    unmet:
                      cells[r]?.[c]?.wanted &&
                      !['reaches', 'asymmetric'].includes(cells[r]?.[c]?.reach ?? ''),
                    partly: !cells[r]?.[c]?.whole,
                    open: row.id === from && column.id === to,
                  },
                ]"
                :tabindex="r === at.row && c === at.column ? 0 : -1"
                :aria-label="label(row, column, r, c)"
                :title="label(row, column, r, c)"
                @focus="at = { row: r, column: c }"
                @click="open(row, column)"
              >
                <ReachMark :reach="cells[r]![c]!.reach" />
              </PictureButton>
              <PictureButton
                v-else
                class="cell self"
                :tabindex="r === at.row && c === at.column ? 0 : -1"
                :aria-label="label(row, column, r, c)"
                @focus="at = { row: r, column: c }"
              />
            </td>
          </tr>
        </tbody>
      </PictureTable>
    </div>
  </section>
</template>

<style scoped>
.matrix {
  padding: 8px 16px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
}
.sentence {
  flex: 1;
}
.short {
  color: var(--madder);
}
.head .el-input {
  --el-input-width: 230px;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 6px 0;
  font-size: 12px;
}
.legend span {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.ring {
  width: 14px;
  height: 14px;
  border: 1.5px solid var(--ink);
  border-radius: 3px;
}
.note {
  padding: 4px 0;
}
.scroll {
  overflow: auto;
}
.cells {
  border-collapse: separate;
  border-spacing: 0;
}
thead th {
  height: 104px;
  padding: 0;
  vertical-align: bottom;
}
thead th span {
  display: block;
  max-height: 100px;
  padding: 2px 4px;
  overflow: hidden;
  font-size: 12px;
  font-weight: 500;
  line-height: 1.2;
  text-overflow: ellipsis;
  white-space: nowrap;
  transform: rotate(180deg);
  writing-mode: vertical-rl;
}
tbody th {
  padding: 0 8px 0 0;
  font-weight: 500;
  text-align: right;
  white-space: nowrap;
}
.site {
  margin-right: 6px;
  font-weight: 400;
  color: var(--muted);
}
.lit {
  color: var(--verdigris);
}
td.first,
th.first {
  border-left: 1px solid var(--line);
}
tr.first > * {
  border-top: 1px solid var(--line);
}
td {
  padding: 0;
}
.cell {
  display: grid;
  place-items: center;
  width: 26px;
  height: 24px;
  border: 1.5px solid transparent;
  border-radius: 3px;
}
.cell:hover {
  background: var(--verdigris-wash);
}
.asking .cell:not(.wanted, .open, :hover, :focus-visible) .mark {
  opacity: 0.45;
}
.self {
  cursor: default;
  background: repeating-linear-gradient(135deg, var(--line) 0 1px, transparent 1px 5px);
}
.wanted {
  border-color: var(--ink);
}
.unmet {
  background: var(--madder-wash);
  border-color: var(--madder);
}
.partly {
  border-style: dotted;
  border-color: var(--slate);
}
.cell.open {
  background: var(--verdigris-wash);
  outline: 2px solid var(--verdigris);
}
</style>
