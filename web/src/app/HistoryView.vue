<script setup lang="ts">
import { ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { FieldChange, Operation } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import { dateAndTime } from '@/ui/words'

const { history, designId, revision, change: write } = useOpenDesign()

interface WayBack {
  revision: number
  operations: Operation[]
  fields: FieldChange[]
}
const asked = ref<WayBack | null>(null)
const trouble = ref('')

/** Show what going back to a revision would change; it is a change of its own, and undone like any other. */
async function ask(to: number): Promise<void> {
  trouble.value = ''
  const params = { path: { design_id: designId.value, revision: to } }
  try {
    const found = await bodyOf(api.GET('/api/designs/{design_id}/revisions/{revision}/way-back', { params }))
    asked.value = { revision: to, operations: found.operations as Operation[], fields: found.fields }
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    trouble.value = error.problem.detail
  }
}
async function goBack(): Promise<void> {
  const way = asked.value
  asked.value = null
  if (way) await write(way.operations, `Back to revision ${way.revision}`)
}
</script>

<template>
  <section class="history">
    <h2>Changes, newest first</h2>
    <p v-if="history && !history.changes.length" class="muted">Nothing was changed yet.</p>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <ElDialog
      :model-value="asked !== null"
      :title="`Back to revision ${asked?.revision}?`"
      width="560"
      append-to-body
      @update:model-value="asked = null"
    >
      <p v-if="!asked?.operations.length">The design is now as it was then.</p>
      <template v-else>
        <p>This changes, as one change that Undo takes back:</p>
        <div class="list" tabindex="0" role="group" aria-label="What changes">
          <ChangeTable :changes="asked.fields" />
        </div>
      </template>
      <template #footer>
        <ElButton @click="asked = null">Cancel</ElButton>
        <ElButton type="primary" :disabled="!asked?.operations.length" @click="goBack">Go back</ElButton>
      </template>
    </ElDialog>
    <ol>
      <li v-for="change in history?.changes" :key="change.revision">
        <div class="head">
          <strong class="figures">{{ change.revision }}</strong>
          <span>{{
            change.kind === 'edit' ? change.note : `${change.kind} of ${change.target}: ${change.note}`
          }}</span>
          <span class="muted">{{ change.author }}, {{ dateAndTime(change.made_at) }}</span>
          <ElButton v-if="change.revision !== revision" @click="ask(change.revision)"
            >Back to this revision …</ElButton
          >
        </div>
        <ChangeTable :changes="change.fields" />
      </li>
    </ol>
  </section>
</template>

<style scoped>
.history {
  padding: 16px;
}
ol {
  margin: 8px 0;
  padding: 0;
  list-style: none;
}
li {
  margin-bottom: 8px;
  padding: 8px 12px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head {
  display: flex;
  gap: 10px;
  margin-bottom: 4px;
}
.list {
  max-height: 50vh;
  overflow: auto;
}
.head .muted {
  margin-left: auto;
  white-space: nowrap;
}
</style>
