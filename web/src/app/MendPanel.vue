<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import type { ButtonInstance } from 'element-plus'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import { nameOf } from './grouping'

/** The ways to mend a finding, worked out once they are asked for; the chosen one is shown before it is applied. */
const props = defineProps<{ finding: Finding }>()
const emit = defineEmits<{ close: [] }>()
const { change, tryChange, designId, revision } = useOpenDesign()
const chosen = ref(0)
const name = computed(() => nameOf(props.finding))
const {
  data: remedies,
  error: unknown,
  isPlaceholderData: outdated,
} = useQuery({
  queryKey: ['remedies', designId, revision, name],
  queryFn: ({ signal }) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/remedies', {
        params: { path: { design_id: designId.value } },
        body: name.value,
        signal,
      }),
    ),
  placeholderData: keepPreviousData, // whoever compares remedies keeps them before their eyes
})
const remedy = computed(() => (outdated.value ? undefined : remedies.value?.[chosen.value]))
/** What it would do now; an answer about another remedy or an older revision is never taken for it. */
const { data: tried, error } = useQuery({
  queryKey: ['try', designId, revision, remedy],
  queryFn: ({ signal }) => tryChange(remedy.value?.operations ?? [], signal),
  enabled: () => remedy.value !== undefined,
})
const changes = computed(() => tried.value?.fields ?? [])
const applyButton = useTemplateRef<ButtonInstance>('apply')

async function apply(): Promise<void> {
  const { operations, title } = remedy.value ?? {}
  if (operations && title && (await change(operations, title))) emit('close')
}
const stop = watch(
  changes,
  (known) => {
    if (!known.length) return
    applyButton.value?.ref?.focus()
    stop() // once: whoever compares remedies keeps the cursor
  },
  { flush: 'post' },
)
</script>

<template>
  <section class="panel" aria-label="Mend" @keydown.esc="emit('close')">
    <p v-if="unknown" class="field-error" role="alert">{{ unknown.message }}</p>
    <p v-else-if="!remedies" class="muted" role="status">Working it out …</p>
    <p v-else-if="!remedies.length">No single change to the design mends it.</p>
    <ElRadioGroup v-else v-model="chosen" aria-label="Ways to mend it">
      <ElRadio v-for="({ title }, at) in remedies" :key="title" :value="at">{{ title }}</ElRadio>
    </ElRadioGroup>
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ChangeTable :changes="changes" />
    <div class="buttons">
      <ElButton ref="apply" type="primary" :disabled="!changes.length" @click="apply">
        Apply these changes
      </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
    </div>
  </section>
</template>

<style scoped>
.panel {
  margin-top: 8px;
}
.el-radio-group {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  margin-bottom: 8px;
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
