<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import type { ButtonInstance } from 'element-plus'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'

const props = defineProps<{ finding: Finding }>()
const emit = defineEmits<{ close: [] }>()
const { change, tryChange, designId, revision } = useOpenDesign()
const chosen = ref(0)
const remedy = computed(() => props.finding.remedies[chosen.value])
/** What it would do now; an answer about another remedy or an older revision is never taken for it. */
const { data: tried, error } = useQuery({
  queryKey: ['try', designId, revision, remedy],
  queryFn: ({ signal }) => tryChange(remedy.value?.operations ?? [], signal),
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
    <ElRadioGroup v-model="chosen" aria-label="Ways to mend it">
      <ElRadio v-for="({ title }, at) in finding.remedies" :key="title" :value="at">{{ title }}</ElRadio>
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
