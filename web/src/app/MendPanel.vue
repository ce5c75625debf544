<script setup lang="ts">
import type { ButtonInstance } from 'element-plus'
import { onMounted, ref, useTemplateRef, watch } from 'vue'
import { Refusal } from '@/api/client'
import type { FieldChange, Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'

const props = defineProps<{ finding: Finding }>()
const emit = defineEmits<{ close: [] }>()
const { change, tryChange, revision } = useOpenDesign()
const chosen = ref(0)
const changes = ref<FieldChange[]>([])
const trouble = ref('')
const applyButton = useTemplateRef<ButtonInstance>('apply')

async function preview(): Promise<void> {
  const remedy = props.finding.remedies[chosen.value]
  if (!remedy) return
  trouble.value = ''
  try {
    changes.value = (await tryChange(remedy.operations)).fields
  } catch (error) {
    changes.value = []
    trouble.value = error instanceof Refusal ? error.problem.detail : String(error)
  }
}
async function apply(): Promise<void> {
  const remedy = props.finding.remedies[chosen.value]
  if (remedy && (await change(remedy.operations, remedy.title))) emit('close')
}
onMounted(async () => {
  await preview()
  applyButton.value?.ref?.focus()
})
watch([chosen, revision], preview)
</script>

<template>
  <section class="panel" aria-label="Mend" @keydown.esc="emit('close')">
    <ElRadioGroup v-model="chosen" aria-label="Ways to mend it">
      <ElRadio v-for="(remedy, at) in finding.remedies" :key="remedy.title" :value="at">{{
        remedy.title
      }}</ElRadio>
    </ElRadioGroup>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
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
