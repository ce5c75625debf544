<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import { nameOf } from './grouping'

/** The first remedy of each of several findings, as one change that is shown before it is applied. */
const props = defineProps<{ findings: readonly Finding[] }>()
const emit = defineEmits<{ close: [] }>()
const MOST = 200 // the server takes so many at once

const { designId, revision, change } = useOpenDesign()
const named = computed(() => props.findings.slice(0, MOST).map(nameOf))
const { data: mending, error } = useQuery({
  queryKey: ['mending', designId, revision, named],
  queryFn: ({ signal }) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/mending', {
        params: { path: { design_id: designId.value } },
        body: { findings: named.value },
        signal,
      }),
    ),
})

async function apply(): Promise<void> {
  if (!mending.value) return
  const { operations, mended } = mending.value
  const note = `Mend ${mended} × ${props.findings[0]?.title ?? ''}`
  if (await change(operations, note)) emit('close')
}
</script>

<template>
  <section aria-label="Mend together" @keydown.esc="emit('close')">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-else-if="!mending" class="muted" role="status">Working it out …</p>
    <template v-else>
      <p>
        {{ mending.mended }} of {{ findings.length }} {{ findings.length === 1 ? 'is' : 'are' }} mended by one
        change:
      </p>
      <div class="list" tabindex="0" role="group" aria-label="What changes">
        <ChangeTable :changes="mending.fields" />
      </div>
    </template>
    <div class="buttons">
      <ElButton type="primary" :disabled="!mending?.operations.length" @click="apply">
        Apply these changes
      </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
    </div>
  </section>
</template>

<style scoped>
section {
  margin-top: 8px;
}
.list {
  max-height: 260px;
  margin-top: 4px;
  overflow: auto;
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
