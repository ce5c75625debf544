<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { SitesPlan, StartText } from '@/api/types'
import { reasonOf } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import LineList from '@/ui/LineList.vue'
import SelectField from '@/ui/SelectField.vue'
import { counted } from '@/ui/words'
import { likeTunnel } from './choices'

/** From nothing: sites with their networks and their way to the outside, a line each, shown before they are written. */
const OTHERWISE: { value: StartText['otherwise']; label: string }[] = [
  { value: 'behind-nat', label: 'behind NAT' },
  { value: 'carrier-nat', label: 'behind a carrier’s NAT' },
  { value: 'changing-public', label: 'a changing public address' },
]
const STATES: Record<SitesPlan['lines'][number]['state'], string> = {
  new: 'new',
  adds: 'adds',
  passed: 'passed over',
  fault: 'not taken',
}

const route = useRoute()
const router = useRouter()
const { design, designId, revision, write } = useOpenDesign()
const text = ref('')
const supernets = ref('')
const otherwise = ref<StartText['otherwise']>('behind-nat')
const done = ref('')
const area = useTemplateRef<InputInstance>('area')

const start = computed<StartText>(() => ({
  text: text.value,
  supernets: supernets.value.split(/[\s,;]+/).filter(Boolean),
  otherwise: otherwise.value,
}))
const { answer, problem, settled } = useAnswer(
  'sites-plan',
  () => (text.value.trim() ? { revision: revision.value, start: start.value } : null),
  ({ start }, signal) => {
    const params = { path: { design_id: designId.value } }
    return bodyOf(api.POST('/api/designs/{design_id}/sites-plan', { params, body: start, signal }))
  },
)
const lines = computed(() => answer.value?.lines ?? [])
const comesTo = computed(() => {
  const plan = answer.value
  if (!plan) return ''
  const faults = plan.faults ? `; ${counted(plan.faults, 'line')} can’t be taken` : ''
  return `${counted(plan.sites, 'site')} and ${counted(plan.networks, 'network')}${faults}.`
})
const adds = computed(() => (answer.value?.sites ?? 0) + (answer.value?.networks ?? 0))
const ready = computed(() => adds.value > 0 && settled.value && !problem.value)
const sites = computed(() => design.value?.sites.length ?? 0)

async function add(): Promise<void> {
  const plan = answer.value
  if (!plan) return
  const before = new Set(design.value?.sites.map((site) => site.id))
  const written = await write((what) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/sites', {
        params: { path: { design_id: designId.value } },
        body: { ...what, start: start.value },
      }),
    ),
  )
  if (!written) return
  const wrong = new Set(plan.lines.filter((line) => line.state === 'fault').map((line) => line.line))
  text.value = text.value
    .split('\n')
    .filter((_, at) => wrong.has(at + 1))
    .join('\n') // what wasn't taken stays to be mended
  done.value = `${comesTo.value} Added; Undo takes them back as one.`
  if (wrong.size || route.name !== 'start') return
  const added = (design.value?.sites ?? []).filter((site) => !before.has(site.id))
  const query = added.length === 1 && design.value ? likeTunnel(design.value, likeId.value, added[0]!.id) : {}
  void router.push({ name: 'connect', params: { designId: designId.value }, query })
}
onMounted(() => area.value?.focus())

/** Another one like a site that is there: its line, to be changed before it is added. */
const likeId = ref('')
const likes = computed(() =>
  (design.value?.sites ?? []).map((site) => ({ value: site.id, label: site.name })),
)
async function addLike(siteId: string): Promise<void> {
  const params = { path: { design_id: designId.value, site_id: siteId } }
  const { line } = await bodyOf(api.GET('/api/designs/{design_id}/sites/{site_id}/another', { params }))
  likeId.value = siteId
  text.value = [text.value.trimEnd(), line].filter(Boolean).join('\n')
}
</script>

<template>
  <section class="start" aria-label="Add sites">
    <div class="source">
      <h2>{{ sites ? 'Add sites' : 'What is there?' }}</h2>
      <label for="site-lines" class="muted">
        A line each: its name, its networks, and how it reaches the outside. Or paste a table with columns
        such as <em>site</em>, <em>networks</em>, <em>WAN</em>. What the lines don’t say can be typed into the
        <RouterLink :to="{ name: 'survey', params: { designId, grid: 'sites' } }">grids</RouterLink>.
      </label>
      <ElInput
        id="site-lines"
        ref="area"
        v-model="text"
        type="textarea"
        resize="none"
        class="figures lines"
        spellcheck="false"
        placeholder="Harbour House: 10.64.0.0/22 staff, 10.64.8.0/23 servers, 198.51.100.10&#10;Ostvik Terminal: 10.65.0.0/24, ostvik.dyn.example&#10;MV Aurelia: 10.70.1.0/27, LTE"
      />
      <div class="fields">
        <SelectField
          v-if="likes.length"
          label="Another one like"
          :model-value="null"
          :options="likes"
          placeholder="a site"
          @update:model-value="addLike"
        />
        <SelectField v-model="otherwise" label="Where a line doesn’t say how" :options="OTHERWISE" />
        <label>
          Supernets
          <ElInput
            v-model="supernets"
            class="figures supernets"
            spellcheck="false"
            placeholder="10.64.0.0/11"
            title="Address space that the organisation may use inside"
          />
        </label>
      </div>
    </div>
    <div class="outcome">
      <div class="buttons">
        <ElButton type="primary" :disabled="!ready" @click="add">
          {{ answer?.sites ? `Add ${counted(answer.sites, 'site')}` : 'Add' }}
        </ElButton>
        <span v-if="comesTo" role="status">{{ comesTo }}</span>
        <span v-else-if="done" role="status">{{ done }}</span>
        <span v-else class="muted">What each line becomes will stand here.</span>
      </div>
      <p v-if="problem" class="field-error" role="alert">{{ reasonOf(problem) }}</p>
      <LineList
        v-slot="{ line }"
        :lines="lines"
        label="What each line becomes"
        :class-of="(line) => line.state"
      >
        <span class="figures number">{{ line.line }}</span>
        <span class="became">{{ line.became }}</span>
        <span class="tag">{{ STATES[line.state] }}</span>
        <span v-if="line.state === 'fault'" class="figures said">{{ line.text }}</span>
        <span v-if="line.left_out" class="left-out">left out: {{ line.left_out }}</span>
      </LineList>
      <p v-if="sites > 1">
        <RouterLink :to="{ name: 'connect', params: { designId } }"
          >Connect the {{ sites }} sites …</RouterLink
        >
      </p>
    </div>
  </section>
</template>

<style scoped>
.start {
  display: grid;
  flex: 1;
  grid-template-columns: minmax(280px, 1fr) minmax(320px, 1fr);
  gap: 16px;
  min-height: 0;
  padding: 12px 16px;
}
.source,
.outcome {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
.lines {
  flex: 1;
  min-height: 160px;
}
.lines :deep(textarea) {
  height: 100%;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}
.fields label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.supernets {
  width: 200px;
}
.buttons {
  display: flex;
  gap: 10px;
  align-items: center;
}
.number {
  color: var(--muted);
  text-align: right;
}
.said,
.left-out {
  grid-column: 2 / -1;
}
:deep(.new) .tag,
:deep(.adds) .tag {
  color: var(--verdigris);
}
:deep(.passed) {
  color: var(--muted);
}
:deep(.fault) .tag,
:deep(.fault) .became {
  color: var(--madder);
}
.left-out {
  color: var(--ochre);
}
@media (max-width: 1020px) {
  .start {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
