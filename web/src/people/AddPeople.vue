<script setup lang="ts">
import { ref } from 'vue'
import { useDoing } from '@/design/useDoing'
import UploadButton from '@/ui/UploadButton.vue'
import { counted } from '@/ui/words'

interface Added {
  added: number
  tokens: string
  faults: { line: number; reason: string }[]
  faults_count: number
}
/** People and their devices, pasted or from a table. Tokens are told once; lines that aren't taken stay in the field. */
const props = defineProps<{ add: (text: string) => Promise<Added> }>()
const isOpen = ref(false)
const text = ref('')
const { trouble, isBusy, doing } = useDoing()
const added = ref<Added | null>(null)

async function send(): Promise<void> {
  const sent = text.value
  await doing(async () => {
    const found = await props.add(sent)
    added.value = found
    if (text.value === sent) text.value = leftOf(sent, found)
  })
}
/** The lines that were not taken, with the headings where there are some. */
function leftOf(sent: string, found: Added): string {
  if (!found.faults_count) return ''
  const lines = sent.split(/\r?\n/)
  if (found.faults_count > found.faults.length) return sent
  const wrong = new Set(found.faults.map((fault) => fault.line))
  const heading = /device/i.test(lines[0] ?? '') && !wrong.has(1) ? [lines[0]] : []
  return [...heading, ...lines.filter((_, at) => wrong.has(at + 1))].join('\n')
}
async function load(file: File): Promise<void> {
  text.value = await file.text()
  isOpen.value = true
}
/** The tokens as a file: they are told once, and never put into an address. */
function save(): void {
  const url = URL.createObjectURL(new Blob([added.value?.tokens ?? ''], { type: 'text/csv' }))
  const link = document.createElement('a')
  link.href = url
  link.download = 'tokens.csv'
  link.click()
  URL.revokeObjectURL(url)
}
</script>

<template>
  <ElButton :aria-expanded="isOpen" @click="isOpen = !isOpen">Add people …</ElButton>
  <UploadButton accept=".csv,.tsv,.txt,text/csv" @file="load">From a table …</UploadButton>
  <form v-if="isOpen" class="plain-fields" aria-label="People" @submit.prevent="send">
    <ElInput
      v-model="text"
      type="textarea"
      class="figures"
      :rows="6"
      aria-label="People and their devices, a line each"
      placeholder="person,group,device,platform&#10;Runa Falk,Deck crew,aurelia-bridge-3,tablet"
    />
    <ElButton type="primary" native-type="submit" :disabled="!text.trim()" :loading="isBusy"
      >Add them</ElButton
    >
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <div v-if="added" role="status">
      <p>
        {{ counted(added.added, 'device') }} added{{
          added.faults_count ? `; ${counted(added.faults_count, 'line')} not taken, which stand above` : ''
        }}.
        <ElButton v-if="added.tokens" @click="save">Save their tokens</ElButton>
        <span v-if="added.tokens" class="muted">They are told this once.</span>
      </p>
      <p v-for="fault in added.faults.slice(0, 20)" :key="fault.line" class="field-error">
        Line {{ fault.line }}: {{ fault.reason }}
      </p>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  flex: 1 0 100%;
  gap: 6px;
  justify-items: start;
}
</style>
