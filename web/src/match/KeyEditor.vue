<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import type { KeyFacts } from '@/api/types'
import SecretField from './SecretField.vue'
import { useVault, withMarks } from './useVault'

const props = defineProps<{ facts: KeyFacts | null }>()
const emit = defineEmits<{ save: [facts: KeyFacts]; close: [] }>()

const { trouble, busy, keep, show } = useVault()
const secret = ref('')
const shown = ref('')
const clear = useTemplateRef<HTMLOutputElement>('clear')

async function save(body: { how: 'generate' } | { how: 'set'; secret: string }): Promise<void> {
  const facts = await keep(body)
  if (facts) emit('save', facts)
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
    <SecretField v-model="secret" what="key" />
    <div class="buttons">
      <button
        class="plain-button primary"
        type="button"
        :disabled="!secret || busy"
        @click="save({ how: 'set', secret })"
      >
        Set
      </button>
      <button class="plain-button" type="button" :disabled="busy" @click="save({ how: 'generate' })">
        Generate 256 bits
      </button>
      <button v-if="facts && !shown" class="plain-button" type="button" :disabled="busy" @click="showOnce">
        Show once
      </button>
      <button class="plain-button" type="button" @click="emit('close')">Cancel</button>
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
