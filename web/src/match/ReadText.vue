<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import type { InputInstance } from 'element-plus'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { Proposal, ProposalsRead, WordRead } from '@/api/types'
import type { Protocol } from './transforms'

const props = defineProps<{ protocol: Protocol }>()
const emit = defineEmits<{ take: [proposals: Proposal[]]; close: [] }>()

const text = ref('')
const found = ref<ProposalsRead | null>(null)
const trouble = ref('')
const area = useTemplateRef<InputInstance>('area')

const proposals = computed(() => (props.protocol === 'ike' ? found.value?.ike : found.value?.child) ?? [])
const others = computed(() => (props.protocol === 'ike' ? found.value?.child : found.value?.ike)?.length ?? 0)
const asked = computed(() => (found.value?.words ?? []).filter((word) => word.kind === 'ambiguous'))
const ready = computed(() => proposals.value.length > 0 && asked.value.length === 0)
const otherName = computed(() => (props.protocol === 'ike' ? 'the Child SA' : 'the IKE SA'))

async function read(): Promise<void> {
  trouble.value = ''
  if (!text.value.trim()) {
    found.value = null
    return
  }
  const body = { text: text.value, protocol: props.protocol }
  try {
    found.value = await bodyOf(api.POST('/api/proposals/read', { body }))
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    trouble.value = error.problem.detail
  }
}
/** Put the choice where the ambiguous word stands. */
function choose(word: WordRead, choice: string): void {
  const letters = [...text.value] // places are told in code points
  letters.splice(word.start, [...word.text].length, choice)
  text.value = letters.join('')
}
watchDebounced(text, read, { debounce: 200 })
onMounted(() => area.value?.focus())
</script>

<template>
  <section class="read" aria-label="Read proposals from text">
    <label>
      What the form or the mail says
      <ElInput ref="area" v-model="text" type="textarea" class="figures" :rows="3" spellcheck="false" />
    </label>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <ul v-if="found" class="words" aria-label="Word by word">
      <li v-for="word in found.words" :key="word.start" :class="word.kind">
        <span class="figures">{{ word.text }}</span>
        <span class="meaning">{{ word.kind === 'unknown' ? 'not understood' : word.meaning }}</span>
        <span v-if="word.choices.length" class="choices">
          <ElButton v-for="choice in word.choices" :key="choice" @click="choose(word, choice)">
            {{ choice }}
          </ElButton>
        </span>
      </li>
    </ul>
    <p v-if="others" class="muted">
      The text names proposals for {{ otherName }}, too; read it there as well.
    </p>
    <div class="buttons">
      <ElButton type="primary" :disabled="!ready" @click="emit('take', proposals)">
        {{ proposals.length === 1 ? 'Take over 1 proposal' : `Take over ${proposals.length} proposals` }}
      </ElButton>
      <ElButton @click="emit('close')">Close</ElButton>
      <span v-if="asked.length" class="asked">Choose first what is ambiguous</span>
    </div>
  </section>
</template>

<style scoped>
.read {
  padding: 4px 6px 8px;
}
.words {
  max-height: 180px;
  margin: 4px 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 0.8fr) minmax(0, 1fr);
  gap: 0 8px;
  padding: 1px 0;
  font-size: 12px;
  border-bottom: 1px solid var(--line);
}
.meaning {
  color: var(--verdigris);
}
.ambiguous .meaning {
  color: var(--ochre);
}
.unknown .meaning {
  color: var(--madder);
}
.asked {
  color: var(--ochre);
}
.choices {
  grid-column: 1 / -1;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
</style>
