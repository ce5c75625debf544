<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import type { KeyPair } from '@/api/types'
import { useVault } from './useVault'

const props = defineProps<{ pair: KeyPair | null; label: string }>()
const emit = defineEmits<{ save: [pair: KeyPair | null]; close: [] }>()
const { trouble, busy, makePair, show } = useVault()
const shown = ref('')
const clear = useTemplateRef<HTMLOutputElement>('clear')
const typed = ref(props.pair?.public ?? '')

async function make(): Promise<void> {
  const made = await makePair()
  if (made) emit('save', made)
}
async function showOnce(): Promise<void> {
  shown.value = (props.pair?.reference && (await show(props.pair.reference))) || ''
  await nextTick()
  clear.value?.focus() // the button that was pressed is gone
}
function paste(): void {
  const text = typed.value.trim()
  const kept = props.pair?.public === text ? props.pair : { public: text, reference: null }
  emit('save', text ? kept : null)
}
</script>

<template>
  <form @submit.prevent="paste">
    <label>
      Public key, made on the device and pasted here
      <input v-model="typed" class="figures" :aria-label="label" spellcheck="false" autocomplete="off" />
    </label>
    <div class="buttons">
      <button class="plain-button primary" type="submit">Save</button>
      <button class="plain-button" type="button" :disabled="busy" @click="make">
        Make a pair here, its private half into the vault
      </button>
      <button
        v-if="pair?.reference && !shown"
        class="plain-button"
        type="button"
        :disabled="busy"
        @click="showOnce"
      >
        Show the private half once
      </button>
      <button class="plain-button" type="button" @click="emit('close')">Cancel</button>
    </div>
    <output v-if="shown" ref="clear" class="shown figures" tabindex="-1">{{ shown }}</output>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
input {
  width: 100%;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
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
