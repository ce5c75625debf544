<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'
import UploadButton from '@/ui/UploadButton.vue'
import { keepReading } from './useHandover'

/** A reading of a device, pasted or from a file; what can't be read stays where it was typed. */
const { design, designId } = useOpenDesign()
const client = useQueryClient()
const isOpen = ref(false)
const text = ref('')
const { trouble, doing } = useDoing()
const said = ref('')

async function keep(): Promise<void> {
  said.value = ''
  const sent = text.value
  await doing(async () => {
    const kept = await keepReading(designId.value, sent)
    const device = design.value?.gateways.find((gateway) => gateway.id === kept.gateway_id)
    said.value = `Kept: the reading of ${device?.name ?? kept.gateway_id}.`
    if (text.value === sent) text.value = ''
    isOpen.value = text.value !== ''
    await client.invalidateQueries({ queryKey: ['drift', designId.value] })
  })
}
async function load(file: File): Promise<void> {
  text.value = await file.text()
  isOpen.value = true
}
</script>

<template>
  <div class="keep plain-fields">
    <div class="head">
      <ElButton :aria-expanded="isOpen" @click="isOpen = !isOpen">Paste a reading …</ElButton>
      <UploadButton accept=".json,application/json" @file="load">From a file …</UploadButton>
      <span class="muted"
        >What a device runs, and what it will run after a restart. Steps that are ticked are read as
        entered.</span
      >
    </div>
    <p v-if="said" role="status">{{ said }}</p>
    <form v-if="isOpen" aria-label="Reading" @submit.prevent="keep">
      <ElInput
        v-model="text"
        type="textarea"
        class="figures"
        :rows="8"
        aria-label="Reading, as its file has it"
        placeholder='{"gateway_id": "ostvik-gateway", "taken_at": "2026-11-27T02:00:00Z", "source": "pasted", "running": {"gateway/ostvik-gateway/service_on": true}, "after_restart": {}}'
      />
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <ElButton type="primary" native-type="submit" :disabled="!text.trim()">Keep this reading</ElButton>
    </form>
  </div>
</template>

<style scoped>
.keep {
  margin-bottom: 10px;
}
.head {
  display: flex;
  gap: 8px;
  align-items: center;
}
form {
  display: grid;
  gap: 6px;
  justify-items: start;
  margin-top: 8px;
}
</style>
