<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import { reasonOf } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import UploadButton from '@/ui/UploadButton.vue'
import LineList from '@/ui/LineList.vue'
import SelectField from '@/ui/SelectField.vue'
import { IMPORT_OUTCOMES } from '@/ui/words'

/** Bringing in what others wrote: pasted or from a file, shown line by line before anything is written. */

const { design, designId, revision, change, tryChange } = useOpenDesign()
const text = ref('')
const siteId = ref('')
const gatewayId = ref('')
const unreadFile = ref('')
const done = ref('')
const area = useTemplateRef<InputInstance>('area')

const {
  answer: plan,
  problem,
  settled,
} = useAnswer(
  'import-plan',
  () =>
    text.value.trim()
      ? {
          revision: revision.value,
          body: { text: text.value, site_id: siteId.value, gateway_id: gatewayId.value },
        }
      : null,
  async ({ body }, signal) => {
    const params = { path: { design_id: designId.value } }
    const found = await bodyOf(api.POST('/api/designs/{design_id}/import-plan', { params, body, signal }))
    if (found.operations.length) await tryChange(found.operations, signal)
    return found
  },
)
const trouble = computed(() => unreadFile.value || reasonOf(problem.value))
const lines = computed(() => plan.value?.lines ?? [])
const counts = computed(() => {
  const found = { new: 0, changes: 0, same: 0, passed: 0, unread: 0 }
  for (const line of lines.value) found[line.outcome] += 1
  return found
})
const written = computed(() => counts.value.new + counts.value.changes)
const summary = computed(() =>
  (Object.keys(IMPORT_OUTCOMES) as (keyof typeof IMPORT_OUTCOMES)[])
    .filter((outcome) => counts.value[outcome])
    .map((outcome) => `${counts.value[outcome]} ${IMPORT_OUTCOMES[outcome]}`)
    .join(' · '),
)

const UNNAMED = { value: '', label: '—' }
const siteChoices = computed(() => [
  UNNAMED,
  ...(design.value?.sites ?? []).map((site) => ({ value: site.id, label: site.name })),
])
const gatewayChoices = computed(() => [
  UNNAMED,
  ...(design.value?.gateways ?? []).map((gateway) => ({ value: gateway.id, label: gateway.name })),
])

async function readFile(file: File): Promise<void> {
  done.value = unreadFile.value = ''
  try {
    text.value = /\.xlsx$/i.test(file.name) ? await spreadsheet(file) : await file.text()
  } catch (error) {
    unreadFile.value = error instanceof Refusal ? error.problem.detail : `${file.name} can't be read`
  }
}
async function spreadsheet(file: File): Promise<string> {
  const found = await bodyOf(
    api.POST('/api/spreadsheet', {
      body: file,
      bodySerializer: (content) => content, // as it is
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  )
  return found.text
}
async function takeOver(): Promise<void> {
  if (!plan.value) return
  const what = written.value === 1 ? '1 line' : `${written.value} lines`
  if (!(await change(plan.value.operations, `Import ${what} from ${plan.value.taken_for}`))) return
  done.value = `${what} taken over; Undo takes them back as one.`
}
onMounted(() => area.value?.focus())
</script>

<template>
  <section class="import" aria-label="Import addresses">
    <div class="source">
      <label for="import-text">
        Paste a table, a mail, or what <span class="figures">ip -j addr</span>,
        <span class="figures">route</span> or <span class="figures">rule</span> prints
      </label>
      <ElInput
        id="import-text"
        ref="area"
        v-model="text"
        type="textarea"
        resize="none"
        class="figures"
        spellcheck="false"
        placeholder="Tarn Port Authority:&#10;berth office  10.90.4.0/24&#10;cranes 10.90.5.0 255.255.255.128&#10;10.90.4.10 - 10.90.4.60&#10;crane server 10.90.4.7"
      />
      <div class="from">
        <UploadButton accept=".csv,.tsv,.txt,.json,.xlsx" @file="readFile">Read a file …</UploadButton>
        <SelectField v-model="siteId" label="Site, where none is named" :options="siteChoices" />
        <SelectField v-model="gatewayId" label="Printed by" :options="gatewayChoices" />
      </div>
    </div>
    <div class="outcome">
      <div class="buttons">
        <ElButton type="primary" :disabled="!written || !settled || trouble !== ''" @click="takeOver">
          {{ written === 1 ? 'Take over 1 line' : `Take over ${written} lines` }}
        </ElButton>
        <span v-if="plan" class="muted" role="status">Taken for {{ plan.taken_for }}. {{ summary }}</span>
        <span v-else class="muted"
          >What each line becomes will stand here. Nothing is written before you say so.</span
        >
      </div>
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <p v-if="done" role="status">{{ done }}</p>
      <LineList v-slot="{ line }" :lines="lines" label="Line by line" :class-of="(line) => line.outcome">
        <span class="figures number">{{ line.line }}</span>
        <span class="figures said" :title="line.text">{{ line.text }}</span>
        <span class="tag">{{ IMPORT_OUTCOMES[line.outcome] }}</span>
        <span class="became">{{ line.became }}</span>
        <span v-if="line.detail" class="became detail">{{ line.detail }}</span>
      </LineList>
    </div>
  </section>
</template>

<style scoped>
.import {
  display: grid;
  flex: 1;
  grid-template-columns: minmax(240px, 2fr) minmax(320px, 3fr);
  gap: 16px;
  min-height: 0;
  padding: 8px 16px;
}
.source,
.outcome {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.el-textarea {
  flex: 1;
  min-height: 110px;
}
.el-textarea :deep(textarea) {
  height: 100%;
}
.from {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
}
.buttons {
  display: flex;
  gap: 10px;
  align-items: center;
}
.said {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.number {
  color: var(--muted);
  text-align: right;
}
.became {
  grid-column: 2 / -1;
}
:deep(.new) .tag {
  color: var(--verdigris);
}
:deep(.changes) .tag {
  color: var(--ochre);
}
:deep(.same) .tag,
:deep(.passed) .tag,
:deep(.passed) .detail {
  color: var(--muted);
}
:deep(.unread) .tag,
:deep(.unread) .detail {
  color: var(--madder);
}
</style>
