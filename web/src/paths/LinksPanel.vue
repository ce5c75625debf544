<script setup lang="ts">
import { computed } from 'vue'
import type { RuleChoice } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import QualityCourse from './QualityCourse.vue'
import { useLinks } from './usePaths'
import { readSlow, useSupposed, type Slow } from './useSupposed'
import SliderField from '@/ui/SliderField.vue'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** Which path each rule takes for the quality of its links, with sliders to see when it moves; and what the uplinks carry. */
const session = useOpenDesign()
const { design } = session
const { asked, set, supposed, slow, setSlow } = useSupposed()
const { data, error } = useLinks(session, supposed)

type Measured = RuleChoice['paths'][number]['measures'][number]
const FIELD = { delay_ms: 'delay', jitter_ms: 'jitter', loss_percent: 'loss' } as const
const USUAL = { delay_ms: 200, jitter_ms: 60, loss_percent: 10 } as const

const gateways = computed(
  () => new Map((design.value?.gateways ?? []).map((gateway) => [gateway.id, gateway.name])),
)
const uplinks = computed(() => new Map((design.value?.uplinks ?? []).map((uplink) => [uplink.id, uplink])))
function uplinkName(id: string): string {
  const uplink = uplinks.value.get(id)
  return uplink ? `${gateways.value.get(uplink.gateway_id)}: ${uplink.name}` : id
}
function supposedOf(id: string): Slow {
  const text = slow.value.find((candidate) => readSlow(candidate).id === id)
  return text ? readSlow(text) : { id, delay: null, jitter: null, loss: null, used: null }
}
function valueOf(measured: Measured): number {
  return measured.now ?? 0
}
function highest(measured: Measured): number {
  const usual = USUAL[measured.measure as keyof typeof USUAL]
  return Math.max(usual, 2 * (measured.leaves_above ?? 0))
}
function slide(id: string, measured: Measured, value: number): void {
  setSlow({ ...supposedOf(id), [FIELD[measured.measure as keyof typeof FIELD]]: value })
}
/** The measure that is played over time; it stands in the address. */
const played = computed(() => {
  const [rule = '', path = '', measure = ''] = asked('play').split(':')
  return measure ? { rule, path, measure } : null
})
const playOf = (rule: RuleChoice, pathId: string, measured: Measured) =>
  `${rule.rule_id}:${pathId}:${measured.measure}`
const isPlayed = (rule: RuleChoice, pathId: string, measured: Measured) =>
  asked('play') === playOf(rule, pathId, measured)
function show(rule: RuleChoice, pathId: string, measured: Measured): void {
  const play = isPlayed(rule, pathId, measured) ? undefined : playOf(rule, pathId, measured)
  set({ play, point: undefined })
}
function use(id: string, value: number | null | undefined): void {
  setSlow({ ...supposedOf(id), used: value ?? null })
}
const rate = (value: number | null) => (value === null ? 'rate not known' : `of ${value}`)
function part(load: number, most: number | null): string {
  return most ? `${Math.min(100, (100 * load) / most)}%` : '0%'
}

const WAYS = ['up', 'down'] as const
const COLUMNS: TableColumn[] = [
  { name: 'uplink', title: 'Uplink', minWidth: 150 },
  { name: 'up', title: 'Up, Mbit/s', minWidth: 130, figures: true },
  { name: 'down', title: 'Down, Mbit/s', minWidth: 130, figures: true },
  { name: 'by', title: 'By class, up and down', minWidth: 160, figures: true },
  { name: 'others', title: 'Others use, Mbit/s', width: 130 },
]
</script>

<template>
  <section class="links plain-fields" aria-label="Links and classes">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!data" :rows="6" animated />
    <template v-if="data">
      <h2>Which path each rule takes</h2>
      <p v-if="!data.rules.length" class="muted">No rule names paths yet.</p>
      <article v-for="rule in data.rules" :key="rule.rule_id">
        <h3>
          {{ rule.name }} <span class="muted">{{ gateways.get(rule.gateway_id) }}</span>
        </h3>
        <p v-if="rule.classes.length" class="muted">
          Class {{ rule.classes.join(', ') }},
          {{ rule.marked_by.length ? `marked by ${rule.marked_by.join(', ')}` : 'marked by nobody' }}; matched
          here.
        </p>
        <div v-for="path in rule.paths" :key="path.id" class="path" :class="{ taken: path.taken }">
          <p class="name">
            {{ path.name }}
            <span v-if="path.unknown" class="muted">not known yet: {{ path.unknown }}</span>
            <span v-else-if="path.taken" class="now">taken now</span>
            <span v-else-if="path.refused" class="refused">{{ path.refused }}</span>
            <span v-else class="muted">spare</span>
          </p>
          <div class="measures">
            <div v-for="measured in path.measures" :key="measured.measure" class="measure">
              <span class="title"
                >{{ measured.title }}
                <span class="figures">{{
                  measured.now === null ? 'not known' : `${+measured.now.toFixed(1)} ${measured.unit}`
                }}</span></span
              >
              <SliderField
                :label="`${path.name}: ${measured.title}, ${measured.unit}`"
                :most="highest(measured)"
                :step="0.5"
                :model-value="valueOf(measured)"
                @update:model-value="slide(path.id, measured, $event)"
              />
              <span v-if="measured.leaves_above !== null" class="limit muted"
                >moves away above {{ measured.leaves_above }} {{ measured.unit }}, back below
                {{ +(measured.returns_below ?? 0).toFixed(1) }}</span
              >
              <span v-else class="limit muted">no limit</span>
              <ElButton
                v-if="measured.leaves_above !== null"
                link
                type="primary"
                class="play"
                :aria-expanded="isPlayed(rule, path.id, measured)"
                @click="show(rule, path.id, measured)"
                >Over time …</ElButton
              >
            </div>
          </div>
          <QualityCourse
            v-if="played && played.rule === rule.rule_id && played.path === path.id"
            :key="`${played.rule} ${played.path} ${played.measure}`"
            :rule-id="played.rule"
            :path-id="played.path"
            :measure="played.measure"
            :name="`${path.name}: ${path.measures.find((measure) => measure.measure === played?.measure)?.title}`"
            @close="set({ play: undefined, point: undefined })"
          />
        </div>
        <p class="muted">
          Comes back after {{ rule.back_after_s }} s; where none can be taken:
          {{ rule.otherwise === 'hold' ? 'held' : 'falls through' }}.
        </p>
      </article>
      <h2>What the intents put on the uplinks</h2>
      <p v-if="!data.loads.length" class="muted">No intent with a rate goes over an uplink.</p>
      <DataTable v-else :rows="data.loads" :columns="COLUMNS" label="What the intents put on the uplinks"
        ><template #uplink="{ row }">
          {{ uplinkName(row.uplink_id) }} <strong v-if="row.over" class="over">over capacity</strong>
        </template>
        <template v-for="way in WAYS" :key="way" #[way]="{ row }">
          {{ row[`${way}_mbit_s`].toFixed(2) }}
          <span class="muted">{{ rate(row[`rate_${way}_mbit_s`]) }}</span>
          <span class="bar" :class="{ over: row.over }"
            ><i :style="{ width: part(row[`${way}_mbit_s`], row[`rate_${way}_mbit_s`]) }"></i
          ></span>
        </template>
        <template #by="{ row }">
          <span v-for="inClass in row.classes" :key="inClass.dscp" class="class"
            >{{ inClass.dscp }} {{ inClass.up_mbit_s.toFixed(2) }} /
            {{ inClass.down_mbit_s.toFixed(2) }}</span
          >
        </template>
        <template #others="{ row }">
          <ElInputNumber
            class="used"
            :min="0"
            :controls="false"
            :model-value="supposedOf(row.uplink_id).used ?? undefined"
            :aria-label="`${uplinkName(row.uplink_id)}: Mbit/s that others use`"
            @change="use(row.uplink_id, $event)"
          /> </template
      ></DataTable>
      <p class="muted">With what the tunnels put around full packets.</p>
      <h2>Too much after a single failure</h2>
      <p v-if="!data.over_after.length" class="muted">
        No single failure of a link puts another one over its capacity.
      </p>
      <ul v-else>
        <li v-for="failure in data.over_after" :key="failure.id">
          Without {{ failure.name }}:
          {{
            failure.uplinks
              .map(
                (load) =>
                  `${uplinkName(load.uplink_id)} ${load.up_mbit_s.toFixed(1)} up, ${load.down_mbit_s.toFixed(1)} down`,
              )
              .join('; ')
          }}
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.links {
  padding: 4px 16px 16px;
}
h2 {
  padding: 12px 0 4px;
}
article {
  padding: 4px 0 8px;
}
.path {
  padding: 6px 10px;
  margin: 4px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-left: 3px solid var(--line);
}
.path.taken {
  border-left-color: var(--verdigris);
}
.name {
  display: flex;
  gap: 10px;
  font-weight: 600;
}
.name span {
  font-weight: 400;
}
.now {
  color: var(--verdigris);
}
.refused {
  color: var(--madder);
}
.measures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
}
.measure {
  display: grid;
  flex: 1 1 190px;
}
.title {
  display: flex;
  justify-content: space-between;
}
.limit {
  font-size: 12px;
}
.play {
  justify-self: start;
}
.used {
  width: 72px;
}
.bar {
  display: block;
  height: 4px;
  margin-top: 2px;
  background: var(--line);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--verdigris);
}
.bar.over i {
  background: var(--madder);
}
strong.over {
  color: var(--madder);
}
.class {
  display: inline-block;
  margin-right: 14px;
}
</style>
