<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { KeyFacts } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

const props = defineProps<{ facts: KeyFacts | null }>()
const emit = defineEmits<{ save: [facts: KeyFacts]; close: [] }>()
const { designId } = useOpenDesign()

const typed = ref('')
const visible = ref(false)
const shown = ref('')
const trouble = ref('')
const busy = ref(false)
const clear = useTemplateRef<HTMLOutputElement>('clear')
const path = computed(() => ({ design_id: designId.value }))

/** The key with what nobody would see: blanks as ␣, line ends as ↵. */
function withMarks(text: string): string {
  return text.replaceAll(' ', '␣').replaceAll('\t', '⇥').replaceAll('\n', '↵\n')
}
async function attempt(work: () => Promise<void>): Promise<void> {
  trouble.value = ''
  busy.value = true
  try {
    await work()
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    trouble.value = error.problem.detail
  } finally {
    busy.value = false
  }
}
const keep = (body: { how: 'generate' } | { how: 'set'; secret: string }) =>
  attempt(async () =>
    emit(
      'save',
      await bodyOf(api.POST('/api/designs/{design_id}/keys', { params: { path: path.value }, body })),
    ),
  )
const show = () =>
  attempt(async () => {
    if (!props.facts) return
    const params = { path: { ...path.value, reference: props.facts.reference } }
    shown.value = (
      await bodyOf(api.POST('/api/designs/{design_id}/keys/{reference}/show', { params }))
    ).secret
    await nextTick()
    clear.value?.focus() // the button that was pressed is gone
  })
</script>

<template>
  <div class="key">
    <p v-if="facts" class="muted">
      Fingerprint <span class="figures">{{ facts.fingerprint }}</span>, {{ facts.length }} characters, about
      {{ facts.strength_bits }} bits
    </p>
    <output v-if="shown" ref="clear" class="shown figures" tabindex="-1">{{ withMarks(shown) }}</output>
    <label>
      New key: type or paste it
      <textarea
        v-model="typed"
        class="figures"
        :class="{ hidden: !visible }"
        rows="2"
        spellcheck="false"
        autocomplete="off"
      />
    </label>
    <p v-if="visible && typed" class="figures marks">{{ withMarks(typed) }}</p>
    <label class="check"><input v-model="visible" type="checkbox" /> Show what I type, blanks as ␣</label>
    <div class="buttons">
      <button
        class="plain-button primary"
        type="button"
        :disabled="!typed || busy"
        @click="keep({ how: 'set', secret: typed })"
      >
        Set
      </button>
      <button class="plain-button" type="button" :disabled="busy" @click="keep({ how: 'generate' })">
        Generate 256 bits
      </button>
      <button v-if="facts && !shown" class="plain-button" type="button" :disabled="busy" @click="show">
        Show once
      </button>
      <button class="plain-button" type="button" @click="emit('close')">Leave it</button>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
textarea {
  display: block;
  width: 100%;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
textarea.hidden {
  -webkit-text-security: disc;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 4px 0;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.shown,
.marks {
  display: block;
  margin: 4px 0;
  padding: 4px 6px;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
  background: var(--ochre-wash);
  border-radius: 3px;
}
</style>
