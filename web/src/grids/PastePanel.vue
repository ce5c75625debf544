<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { api, bodyOf } from '@/api/client'
import { reasonOf } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import { IMPORT_OUTCOMES } from '@/ui/words'
import type { Grid } from './columns'

/** Rows from a spreadsheet, shown line by line before anything is written. */
const props = defineProps<{ grid: Grid; text: string }>()
const emit = defineEmits<{ close: [] }>()
const { designId, revision, change } = useOpenDesign()

const typed = ref(props.text)
const area = useTemplateRef<InputInstance>('area')

const {
  answer: plan,
  problem,
  settled,
} = useAnswer(
  'pasted-rows',
  () => ({
    revision: revision.value,
    body: { text: typed.value, rows_of: props.grid.type, site_id: '', gateway_id: '' },
  }),
  ({ body }, signal) => {
    const params = { path: { design_id: designId.value } }
    return bodyOf(api.POST('/api/designs/{design_id}/import-plan', { params, body, signal }))
  },
)
const trouble = computed(() => reasonOf(problem.value))
const lines = computed(() => plan.value?.lines ?? [])
const wrong = computed(() => lines.value.filter((line) => line.outcome === 'unread').length)
const count = computed(() => lines.value.filter((line) => ['new', 'changes'].includes(line.outcome)).length)
const ready = computed(() => count.value > 0 && !wrong.value && settled.value && !trouble.value)
const expected = computed(() => props.grid.columns.map((column) => column.title.split(',')[0]).join(', '))

async function takeOver(): Promise<void> {
  const what = count.value === 1 ? '1 row' : `${count.value} rows`
  const note = `Paste ${what} into ${props.grid.title.toLowerCase()}`
  if (await change(plan.value?.operations ?? [], note)) emit('close')
}
onMounted(() => area.value?.focus())
</script>

<template>
  <section class="paste" :aria-label="`Paste into ${grid.title}`" @keydown.esc="emit('close')">
    <div class="text">
      <label :for="`paste-${grid.members}`"
        >Rows, as <span class="figures">{{ expected }}</span> (the rest may be left out)</label
      >
      <ElInput
        :id="`paste-${grid.members}`"
        ref="area"
        v-model="typed"
        type="textarea"
        class="figures"
        :rows="8"
        spellcheck="false"
        @paste.stop
      />
      <div class="buttons">
        <ElButton type="primary" :disabled="!ready" @click="takeOver">
          {{ count === 1 ? 'Take over 1 row' : `Take over ${count} rows` }}
        </ElButton>
        <ElButton @click="emit('close')">Cancel</ElButton>
        <span v-if="wrong" class="field-error"
          >{{ wrong === 1 ? '1 row is' : `${wrong} rows are` }} to be mended first</span
        >
      </div>
    </div>
    <div class="preview">
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <ol>
        <li v-for="line in lines" :key="line.line" :class="line.outcome">
          <span class="figures number">{{ line.line }}</span>
          <span class="figures cells">{{ line.text }}</span>
          <span>{{ IMPORT_OUTCOMES[line.outcome] }}</span>
          <span v-if="line.detail" class="detail">{{ line.detail }}</span>
        </li>
      </ol>
    </div>
  </section>
</template>

<style scoped>
.paste {
  display: grid;
  grid-template-columns: minmax(260px, 1fr) minmax(300px, 1.3fr);
  gap: 16px;
  padding: 12px 16px;
  background: var(--card);
  border-top: 1px solid var(--verdigris);
  border-bottom: 1px solid var(--verdigris);
}
.el-textarea {
  margin: 4px 0 8px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.preview {
  max-height: 240px;
  overflow: auto;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 28px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
}
.number {
  color: var(--muted);
  text-align: right;
}
.cells {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.detail {
  grid-column: 2 / -1;
  color: var(--muted);
}
li.unread,
li.unread .detail {
  color: var(--madder);
}
li.same {
  color: var(--muted);
}
</style>
