<script setup lang="ts">
import { nextTick, ref, useTemplateRef, watch } from 'vue'
import type { KeyPair } from '@/api/types'
import { useVault } from './useVault'

const props = defineProps<{
  pair: KeyPair | null
  label: string
  save: (pair: KeyPair | null) => void // not an event: the vault may answer when the editor is gone
}>()
const emit = defineEmits<{ typed: []; close: [] }>()
const { trouble, busy, makePair, show } = useVault()
const shown = ref('')
const clear = useTemplateRef<HTMLOutputElement>('clear')
const typed = ref(props.pair?.public ?? '')

watch(typed, () => emit('typed'))
async function make(): Promise<void> {
  const { save } = props
  emit('typed')
  const made = await makePair()
  if (made) save(made)
}
async function showOnce(): Promise<void> {
  shown.value = (props.pair?.reference && (await show(props.pair.reference))) || ''
  await nextTick()
  clear.value?.focus() // the button that was pressed is gone
}
function paste(): void {
  const text = typed.value.trim()
  const kept = props.pair?.public === text ? props.pair : { public: text, reference: null }
  props.save(text ? kept : null)
}
</script>

<template>
  <form @submit.prevent="paste">
    <label>
      Public key, made on the device and pasted here
      <ElInput v-model="typed" class="figures" :aria-label="label" spellcheck="false" autocomplete="off" />
    </label>
    <div class="buttons">
      <ElButton type="primary" native-type="submit">Save</ElButton>
      <ElButton :disabled="busy" @click="make"> Make a pair here, its private half into the vault </ElButton>
      <ElButton v-if="pair?.reference && !shown" :disabled="busy" @click="showOnce">
        Show the private half once
      </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
    </div>
    <output v-if="shown" ref="clear" class="shown figures" tabindex="-1">{{ shown }}</output>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
.shown {
  display: block;
  margin-top: 4px;
  padding: 4px 6px;
  overflow-wrap: anywhere;
  background: var(--ochre-wash);
  border-radius: 3px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 4px;
}
</style>
