<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import type { Design } from '@/api/types'
import type { Column } from './columns'

const props = defineProps<{ column: Column; design: Design; text: string; label: string }>()
const emit = defineEmits<{ commit: [text: string, step: [number, number]]; cancel: [] }>()

const YES_NO = [
  { value: 'yes', label: 'yes' },
  { value: 'no', label: 'no' },
]
const choices = computed(() =>
  props.column.kind === 'yesno' ? YES_NO : (props.column.choices?.(props.design) ?? null),
)
const typed = ref(startText())
const field = useTemplateRef<HTMLInputElement | HTMLSelectElement>('field')
let settled = false // leaving the field must not commit again what Enter or Esc has settled

/** A typed letter picks the first choice that starts with it. */
function startText(): string {
  if (!choices.value) return props.text
  const wanted = props.text.toLowerCase()
  const exact = choices.value.find((choice) => choice.label.toLowerCase() === wanted)
  return (
    (exact ?? choices.value.find((choice) => wanted && choice.label.toLowerCase().startsWith(wanted)))
      ?.label ?? ''
  )
}
function settle(step: [number, number]): void {
  if (settled) return
  settled = true
  emit('commit', typed.value, step)
}
function onKey(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key === 'Enter') settle([0, 1])
  else if (event.key === 'Tab') settle([0, event.shiftKey ? -1 : 1])
  else if (event.key === 'Escape') {
    settled = true
    emit('cancel')
  } else return
  event.preventDefault()
}
onMounted(() => {
  field.value?.focus()
  if (field.value instanceof HTMLInputElement && field.value.value.length > 1) field.value.select()
})
</script>

<template>
  <select
    v-if="choices"
    ref="field"
    v-model="typed"
    class="editor"
    :aria-label="label"
    @keydown="onKey"
    @blur="settle([0, 0])"
    @click.stop
  >
    <option value="" disabled>choose</option>
    <option v-for="choice in choices" :key="choice.value" :value="choice.label">{{ choice.label }}</option>
  </select>
  <input
    v-else
    ref="field"
    v-model="typed"
    class="editor"
    :class="{ figures: column.figures }"
    :aria-label="label"
    autocomplete="off"
    spellcheck="false"
    @keydown="onKey"
    @blur="settle([0, 0])"
    @click.stop
    @paste.stop
  />
</template>

<style scoped>
.editor {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  padding: 2px 6px;
  background: var(--card);
  border: 2px solid var(--verdigris);
  outline: 0;
}
</style>
