<script setup lang="ts">
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
const applyButton = useTemplateRef<HTMLButtonElement>('apply')

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
  applyButton.value?.focus()
})
watch([chosen, revision], preview)
</script>

<template>
  <section class="panel" aria-label="Mend" @keydown.esc="emit('close')">
    <fieldset>
      <legend class="visually-hidden">Ways to mend it</legend>
      <label v-for="(remedy, at) in finding.remedies" :key="remedy.title">
        <input v-model="chosen" type="radio" :value="at" /> {{ remedy.title }}
      </label>
    </fieldset>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <ChangeTable :changes="changes" />
    <div class="buttons">
      <button
        ref="apply"
        class="plain-button primary"
        type="button"
        :disabled="!changes.length"
        @click="apply"
      >
        Apply these changes
      </button>
      <button class="plain-button" type="button" @click="emit('close')">Cancel</button>
    </div>
  </section>
</template>

<style scoped>
.panel {
  margin-top: 8px;
}
fieldset {
  margin: 0 0 8px;
  padding: 0;
  border: 0;
}
label {
  display: flex;
  gap: 6px;
  align-items: baseline;
  padding: 2px 0;
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
