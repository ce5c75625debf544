<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { Connect, Standard } from '@/api/types'
import { reasonsByField } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { counted, OUTLOOK_WORDS } from '@/ui/words'
import { likelyHub, likelyPattern, PATTERNS, type Pattern } from './choices'

/** Many sites connected by a standard: chosen, previewed as a whole, and made as one change. */
const MOST_LISTED = 200
const COLUMNS: TableColumn[] = [
  { name: 'tunnel', title: 'Tunnel', minWidth: 150 },
  { name: 'calls', title: 'Calls', minWidth: 110 },
  { name: 'identities', title: 'Identities', minWidth: 200, figures: true },
]

const INNER: TableColumn = { name: 'inner', title: 'Inner network', minWidth: 110, figures: true }

const route = useRoute()
const router = useRouter()
const { design, designId, revision, write, saveState } = useOpenDesign()
const { data: offer } = useQuery({
  queryKey: ['connect-offer', designId, revision],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/connections/offer', {
        params: { path: { design_id: designId.value } },
        signal,
      }),
    ),
  placeholderData: (before) => before,
})
/** The tunnel that another one is to be like, and the two sites that it is to join. */
const like = computed(() => (route.name === 'connect' ? String(route.query.like ?? '') : ''))
const askedSites = [route.query.site ?? []].flat().map(String)
const { data: likeStandard } = useQuery({
  queryKey: ['standard-of', designId, like],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/standard', {
        params: { path: { design_id: designId.value, tunnel_id: like.value } },
        signal,
      }),
    ),
  enabled: computed(() => like.value !== ''),
})
const sites = computed(() => design.value?.sites ?? [])
const siteIds = ref<string[]>(askedSites.length === 2 ? askedSites : sites.value.map((site) => site.id))
const pattern = ref<Pattern>(likelyPattern(siteIds.value.length))
const hubId = ref(design.value ? likelyHub(design.value) : '')
const throughHub = ref(false)
const intents = ref(true)
const standardId = ref('')
const identityPattern = ref('')
const byRoutes = ref(false)
const innerPrefix = ref('')

const siteChoices = computed(() => sites.value.map((site) => ({ value: site.id, label: site.name })))
const hubChoices = computed(() => siteChoices.value.filter((choice) => siteIds.value.includes(choice.value)))
/** What a tunnel is made of stands in front, where another one is to be like it. */
const standards = computed(() => [
  ...(likeStandard.value ? [{ standard: likeStandard.value, says: '', is_new: true, is_like: true }] : []),
  ...(offer.value?.standards ?? []).map((known) => ({ ...known, is_like: false })),
])
const standardChoices = computed(() =>
  standards.value.map(({ standard, is_new, is_like }) => ({
    value: standard.id,
    label: is_like
      ? `${standard.name}, new`
      : is_new
        ? `${standard.name}, new: current practice`
        : standard.name,
  })),
)
const offered = computed(() =>
  standards.value.find((candidate) => candidate.standard.id === standardId.value),
)
watch(likeStandard, (made) => {
  if (made) standardId.value = made.id
})
watch(
  offer,
  (found) => {
    if (!offered.value && !like.value) standardId.value = found?.standards[0]?.standard.id ?? ''
    if (!innerPrefix.value) innerPrefix.value = found?.inner_prefix ?? ''
  },
  { immediate: true },
)
/** Where the tunnel follows no pattern, each site is named in the domain that its ends are named in. */
const likelyNames = computed(() => {
  const tunnel = design.value?.tunnels.find((candidate) => candidate.id === like.value)
  const { type, value = '' } = tunnel?.left.local_identity ?? {}
  return type === 'fqdn' ? `{site}${value.slice(value.indexOf('.'))}` : ''
})
watch(offered, (now) => {
  identityPattern.value = now?.standard.identity_pattern ?? (now?.is_like ? likelyNames.value : '')
  byRoutes.value = now?.standard.mode === 'route'
})
/** A new standard is set here; one of the design is taken as it is. */
const standard = computed<Standard | null>(() => {
  const chosen = offered.value
  if (!chosen) return null
  if (!chosen.is_new) return chosen.standard
  return {
    ...chosen.standard,
    identity_pattern: identityPattern.value,
    mode: byRoutes.value ? 'route' : 'policy',
  }
})
const request = computed<Connect | null>(() =>
  standard.value && siteIds.value.length > 1
    ? {
        site_ids: sites.value.filter((site) => siteIds.value.includes(site.id)).map((site) => site.id),
        pattern: pattern.value,
        hub_ids: pattern.value === 'hub' ? [hubId.value] : [],
        through_hub: pattern.value === 'hub' && throughHub.value,
        standard: standard.value,
        inner_prefix:
          standard.value.mode === 'route' && innerPrefix.value.trim() ? innerPrefix.value.trim() : null,
        intents: intents.value,
      }
    : null,
)
const { answer, problem, settled } = useAnswer(
  'connections-plan',
  () => request.value && { revision: revision.value, request: request.value },
  ({ request }, signal) => {
    const params = { path: { design_id: designId.value } }
    return bodyOf(api.POST('/api/designs/{design_id}/connections-plan', { params, body: request, signal }))
  },
)
const troubles = computed(() => reasonsByField(problem.value))
const troubleElsewhere = computed(
  () => troubles.value.site_ids ?? (problem.value?.errors.length ? '' : problem.value?.detail),
)
const plan = computed(() => answer.value?.plan)
const made = computed(() => plan.value?.joined.filter((pair) => !pair.refused) ?? [])
const refused = computed(() => plan.value?.joined.filter((pair) => pair.refused) ?? [])
const columns = computed(() =>
  made.value.some((candidate) => candidate.inner) ? [...COLUMNS, INNER] : COLUMNS,
)
const comesTo = computed(() => {
  const now = plan.value
  if (!now) return ''
  const parts: [number, string][] = [
    [now.made, 'tunnel'],
    [now.keys, 'key'],
    [now.routes, 'route'],
    [now.intents, 'intent'],
  ]
  return parts.flatMap(([count, what]) => (count ? counted(count, what) : [])).join(', ')
})
const foretold = computed(() =>
  (answer.value?.outlook ?? []).map((part) => `${OUTLOOK_WORDS[part.state]} ${part.tunnels}`).join(', '),
)
const more = computed(() =>
  answer.value?.findings ? `; ${counted(answer.value.findings, 'finding')} more` : '',
)
const ready = computed(() => made.value.length > 0 && settled.value && !problem.value)

async function connect(): Promise<void> {
  const body = request.value
  if (!body) return
  const written = await write((what) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/connections', {
        params: { path: { design_id: designId.value } },
        body: { ...what, connect: body },
      }),
    ),
  )
  if (written && route.name === 'connect')
    // whoever has gone on meanwhile isn't called back
    void router.push({ name: 'survey', params: { designId: designId.value } })
}
</script>

<template>
  <section class="connect" aria-label="Connect sites">
    <form class="choices" @submit.prevent="connect">
      <h2>Connect sites</h2>
      <ElRadioGroup v-model="pattern" aria-label="Pattern">
        <ElRadioButton
          v-for="choice in PATTERNS"
          :key="choice.value"
          :value="choice.value"
          :title="choice.says"
        >
          {{ choice.label }}
        </ElRadioButton>
      </ElRadioGroup>
      <p class="muted">{{ PATTERNS.find((candidate) => candidate.value === pattern)?.says }}</p>
      <SelectField v-if="pattern === 'hub'" v-model="hubId" label="Hub" stacked :options="hubChoices" />
      <p v-if="troubles.hub_ids" class="field-error" role="alert">{{ troubles.hub_ids }}</p>
      <label class="stacked">
        <span
          >Sites
          <ElButton link type="primary" @click="siteIds = sites.map((site) => site.id)">all</ElButton>
          <ElButton link type="primary" @click="siteIds = []">none</ElButton></span
        >
        <ElSelectV2
          v-model="siteIds"
          multiple
          filterable
          collapse-tags
          :max-collapse-tags="3"
          aria-label="Sites"
          placeholder="two or more"
          :options="siteChoices"
        />
      </label>
      <p v-if="troubleElsewhere" class="field-error" role="alert">{{ troubleElsewhere }}</p>
      <SelectField v-model="standardId" label="Standard" stacked :options="standardChoices" />
      <p v-if="offered" class="muted says">{{ offered.says }}</p>
      <p v-if="troubles.standard" class="field-error" role="alert">{{ troubles.standard }}</p>
      <template v-if="offered?.is_new">
        <label class="stacked">
          Identity pattern: {site}, {gateway} and {design} stand for their names
          <ElInput v-model="identityPattern" class="figures" spellcheck="false" />
        </label>
        <ElCheckbox v-model="byRoutes">Routes decide what goes in, by inner addresses</ElCheckbox>
      </template>
      <label v-if="standard?.mode === 'route'" class="stacked">
        Inner addresses from
        <ElInput
          v-model="innerPrefix"
          class="figures"
          spellcheck="false"
          :aria-invalid="Boolean(troubles.inner_prefix)"
        />
      </label>
      <p v-if="troubles.inner_prefix" class="field-error" role="alert">{{ troubles.inner_prefix }}</p>
      <ElCheckbox v-if="pattern === 'hub'" v-model="throughHub"
        >Branches reach one another by the hub</ElCheckbox
      >
      <ElCheckbox v-model="intents">Say that they are wanted to reach each other</ElCheckbox>
    </form>
    <div class="outcome">
      <div class="buttons">
        <ElButton type="primary" :disabled="!ready" :loading="saveState === 'saving'" @click="connect">
          {{ made.length ? `Make ${counted(made.length, 'tunnel')}` : 'Make tunnels' }}
        </ElButton>
        <span v-if="comesTo" role="status">{{ comesTo }}. Forecast: {{ foretold }}{{ more }}.</span>
      </div>
      <p v-if="refused.length" class="refused">{{ counted(refused.length, 'pair') }} can’t be joined:</p>
      <ul v-if="refused.length" class="refused-list">
        <li v-for="refusal in refused.slice(0, MOST_LISTED)" :key="`${refusal.left} ${refusal.right}`">
          {{ refusal.left }} and {{ refusal.right }}: {{ refusal.refused }}
        </li>
      </ul>
      <DataTable
        :rows="made.slice(0, MOST_LISTED)"
        :columns="columns"
        label="Tunnels to be made"
        empty="No tunnel yet"
      >
        <template #tunnel="{ row }">{{ row.name }}</template>
        <template #identities="{ row }">
          <span v-for="identity in row.identities" :key="identity" class="identity" :title="identity">{{
            identity
          }}</span>
        </template>
      </DataTable>
      <p v-if="made.length > MOST_LISTED" class="muted">and {{ made.length - MOST_LISTED }} more.</p>
    </div>
  </section>
</template>

<style scoped>
.connect {
  display: grid;
  flex: 1;
  grid-template-columns: 376px minmax(0, 1fr);
  min-height: 0;
}
.choices,
.outcome {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  padding: 12px 16px;
  overflow: auto;
}
.choices {
  border-right: 1px solid var(--line);
}
.stacked {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.says {
  font-size: 12px;
}
.buttons {
  display: flex;
  gap: 10px;
  align-items: center;
}
.identity {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.refused {
  color: var(--ochre);
}
.refused-list {
  flex: none;
  max-height: 120px;
  margin: 0;
  padding-left: 18px;
  overflow: auto;
}
@media (max-width: 1020px) {
  .connect {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
