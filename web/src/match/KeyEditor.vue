<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import type { KeyFacts } from '@/api/types'
import SecretField from './SecretField.vue'
import { useVault, withMarks } from './useVault'

const props = defineProps<{
  facts: KeyFacts | null
  save: (facts: KeyFacts) => void // not an event: the vault may answer when the editor is gone
}>()
const emit = defineEmits<{ typed: []; close: [] }>()

const { trouble, busy, keep, show } = useVault()
const secret = ref('')
const shown = ref('')
const clear = useTemplateRef<HTMLOutputElement>('clear')

async function keepAndSave(body: { how: 'generate' } | { how: 'set'; secret: string }): Promise<void> {
  const { save } = props
  emit('typed')
  const facts = await keep(body)
  if (facts) save(facts)
}
async function showOnce(): Promise<void> {
  shown.value = (props.facts && (await show(props.facts.reference))) ?? ''
  await nextTick()
  clear.value?.focus() // the button that was pressed is gone
}
</script>

<template>
  <div class="key">
    <p v-if="facts" class="muted">
      Fingerprint <span class="figures">{{ facts.fingerprint }}</span>, {{ facts.length }} characters, about
      {{ facts.strength_bits }} bits<template v-if="facts.weakness">: {{ facts.weakness }}</template>
    </p>
    <output v-if="shown" ref="clear" class="shown figures" tabindex="-1">{{ withMarks(shown) }}</output>
    <SecretField v-model="secret" what="key" @typed="emit('typed')" />
    <div class="buttons">
      <ElButton type="primary" :disabled="!secret || busy" @click="keepAndSave({ how: 'set', secret })">
        Save
      </ElButton>
      <ElButton :disabled="busy" @click="keepAndSave({ how: 'generate' })"> Generate 256 bits </ElButton>
      <ElButton v-if="facts && !shown" :disabled="busy" @click="showOnce"> Show once </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.shown {
  display: block;
  margin: 4px 0;
  padding: 4px 6px;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
  background: var(--ochre-wash);
  border-radius: 3px;
}
</style>
