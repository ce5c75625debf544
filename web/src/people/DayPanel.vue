<script setup lang="ts">
import { computed, reactive } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { FlowTable, PlatformFamily, Profile } from '@/api/types'
import { reasonsByField } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import PictureButton from '@/ui/PictureButton.vue'
import PictureTable from '@/ui/PictureTable.vue'
import SelectField from '@/ui/SelectField.vue'
import DeviceTraceView from './DeviceTraceView.vue'
import SendsMark from './SendsMark.vue'
import { SENDS_WORDS, useFlows } from './usePeople'

/** A device's day: what goes where from each place, and one packet followed. */
const props = defineProps<{ profile: Profile }>()
const session = useOpenDesign()
const route = useRoute()
const router = useRouter()
const { data: flows, error } = useFlows(
  session,
  computed(() => props.profile.id),
)
const FAMILIES: readonly PlatformFamily[] = ['desktop', 'phone', 'tablet', 'appliance']
const asked = (key: string) => String(route.query[key] ?? '')
const entered = reactive({
  at: asked('from') || 'home',
  family: FAMILIES.find((family) => family === asked('family')) ?? 'desktop',
  to: asked('to'),
  service: asked('service') || 'any',
  application: asked('application'),
  leased: asked('leased') ? Number(asked('leased')) : undefined,
})
const places = computed(() => {
  const found = new Map(
    (flows.value?.columns ?? []).map((column) => [column.place, column.title.replace(/, [^,]*$/, '')]),
  )
  const known = [...found].map(([value, label]) => ({ value: String(value), label }))
  return known.some((entry) => entry.value === entered.at)
    ? known
    : [...known, { value: entered.at, label: `at home in ${entered.at}` }]
})
const families = computed(() => {
  const found = new Set((flows.value?.columns ?? []).map((column) => column.family))
  return [...found].map((value) => ({ value, label: value }))
})
const { answer: traced, problem } = useAnswer(
  'device-trace',
  () =>
    entered.to.trim() ? { revision: session.revision.value, profile: props.profile.id, ...entered } : null,
  ({ profile, at, family, to, service, application, leased }, signal) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/profiles/{profile_id}/trace', {
        params: {
          path: { design_id: session.designId.value, profile_id: profile },
          query: { at, family, to, service: service || 'any', application, leased_at: leased },
        },
        signal,
      }),
    ),
)
const troubles = computed(
  () => Object.values(reasonsByField(problem.value)).join('; ') || problem.value?.detail,
)
function remember(): void {
  const { at, family, to, service, application, leased } = entered
  const query = { from: at, family, to, service, application, leased }
  void router.replace({ params: route.params, query })
}
function follow(destination: FlowTable['destinations'][number], column: FlowTable['columns'][number]): void {
  entered.at = String(column.place)
  entered.family = column.family
  entered.to = destination.address
  remember()
}
/** The columns of one place stand under one heading. */
const byPlace = computed(() => {
  const columns = flows.value?.columns ?? []
  return [...new Set(columns.map((column) => column.place))].flatMap((place) => {
    const mine = columns.filter((column) => column.place === place)
    return mine.slice(0, 1).map(({ title, is_dialled, dials }) => ({
      title: title.replace(/, [^,]*$/, ''),
      is_dialled,
      dials,
      count: mine.length,
    }))
  })
})
const WAYS = Object.keys(SENDS_WORDS) as (keyof typeof SENDS_WORDS)[]
const cellLabel = (r: number, c: number) => {
  const [destination, column] = [flows.value?.destinations[r], flows.value?.columns[c]]
  const cell = flows.value?.rows[r]?.[c]
  if (!destination || !column || !cell) return ''
  return `${destination.name}, ${column.title}: ${SENDS_WORDS[cell.way]}. Once the tunnel has dropped: ${SENDS_WORDS[cell.dropped_way]}`
}
</script>

<template>
  <section class="day" aria-label="A device’s day">
    <form class="ask plain-fields" aria-label="Follow a device" @submit.prevent="remember" @change="remember">
      <SelectField v-model="entered.at" label="Device" :options="places" @update:model-value="remember" />
      <SelectField
        v-model="entered.family"
        hide-label
        label="Family"
        :options="families"
        @update:model-value="remember"
      />
      <label class="to"
        >wants
        <ElInput
          v-model="entered.to"
          placeholder="rota.skerry.example or an address"
          aria-label="Name or address"
          spellcheck="false"
      /></label>
      <label>Service <ElInput v-model="entered.service" class="short" placeholder="tcp 443" /></label>
      <label>Application <ElInput v-model="entered.application" class="short" placeholder="any" /></label>
      <label v-if="profile.pool_id"
        >Lease of revision
        <ElInputNumber
          v-model="entered.leased"
          class="short"
          :controls="false"
          :min="0"
          :max="session.revision.value"
          :precision="0"
          placeholder="now"
          @change="remember"
      /></label>
    </form>
    <p v-if="troubles" class="field-error" role="alert">{{ troubles }}</p>
    <DeviceTraceView v-else-if="traced" :traced="traced" />
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!flows" :rows="6" animated />
    <template v-if="flows">
      <h3>Everything, from everywhere</h3>
      <p class="legend" aria-hidden="true">
        <span v-for="way in WAYS" :key="way"><SendsMark :way="way" /> {{ SENDS_WORDS[way] }}</span>
        <span class="muted">small: once the tunnel has dropped</span>
      </p>
      <div class="scroll">
        <PictureTable class="cells" caption="Rows are what a device may want, columns where it is.">
          <thead>
            <tr>
              <th scope="col" rowspan="2">What it wants</th>
              <th v-for="place in byPlace" :key="place.title" scope="colgroup" :colspan="place.count">
                {{ place.title }}
                <span class="state" :class="{ off: !place.is_dialled }" :title="place.dials">{{
                  place.is_dialled ? 'dialled' : 'not dialled'
                }}</span>
              </th>
            </tr>
            <tr>
              <th v-for="column in flows.columns" :key="column.title" scope="col" class="muted">
                {{ column.family }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(destination, r) in flows.destinations" :key="destination.name">
              <th scope="row">{{ destination.name }}</th>
              <td v-for="(column, c) in flows.columns" :key="column.title">
                <PictureButton
                  :aria-label="cellLabel(r, c)"
                  :title="cellLabel(r, c)"
                  @click="follow(destination, column)"
                >
                  <SendsMark :way="flows.rows[r]![c]!.way" />
                  <SendsMark :way="flows.rows[r]![c]!.dropped_way" small />
                </PictureButton>
              </td>
            </tr>
          </tbody>
        </PictureTable>
      </div>
    </template>
  </section>
</template>

<style scoped>
.day {
  padding: 10px 16px;
}
.ask,
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.to {
  flex: 1 1 240px;
}
html .to .el-input {
  --el-input-width: 100%;
}
.short {
  --el-input-width: 96px;
}
h3 {
  margin: 12px 0 4px;
}
.legend {
  margin-bottom: 6px;
}
.legend span {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.scroll {
  overflow-x: auto;
}
.cells th {
  padding: 3px 8px;
  font-weight: 400;
  text-align: left;
}
.cells thead th {
  vertical-align: bottom;
}
.cells td {
  padding: 1px 8px;
  white-space: nowrap;
}
.state {
  display: block;
  font-size: 11px;
  color: var(--verdigris);
}
.state.off {
  color: var(--muted);
}
</style>
