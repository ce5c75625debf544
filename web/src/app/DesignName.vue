<script setup lang="ts">
/** A name for a design: another one of its own, or that of a copy. */
import { ref, watch } from 'vue'
import type { DesignSummary } from '@/api/types'

const props = defineProps<{
  title: string
  label: string
  action: string
  note?: string
  suggest: (design: DesignSummary) => string
  send: (design: DesignSummary, name: string) => Promise<unknown>
}>()
const design = defineModel<DesignSummary | null>({ required: true })
const name = ref('')

watch(design, (chosen) => {
  if (chosen) name.value = props.suggest(chosen)
})

async function save(): Promise<void> {
  if (!design.value || !name.value.trim()) return
  if ((await props.send(design.value, name.value)) !== null) design.value = null
}
</script>

<template>
  <ElDialog :model-value="design !== null" :title="title" width="440" @close="design = null">
    <form @submit.prevent="save">
      <ElInput v-model="name" :aria-label="label" maxlength="80" autofocus />
      <p v-if="note" class="muted">{{ note }}</p>
    </form>
    <template #footer>
      <ElButton @click="design = null">Cancel</ElButton>
      <ElButton type="primary" :disabled="!name.trim()" @click="save">
        {{ action }}
      </ElButton>
    </template>
  </ElDialog>
</template>
