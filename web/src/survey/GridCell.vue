<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import type { Design } from '@/api/types'
import { choicesOf } from './choices'
import type { Column } from './columns'

const props = defineProps<{
  column: Column
  design: Design
  row: Record<string, unknown>
  text: string
  label: string
}>()
const emit = defineEmits<{ commit: [text: string, step: [number, number]]; cancel: [] }>()

const YES_NO = [
  { value: 'yes', label: 'yes' },
  { value: 'no', label: 'no' },
]
const isChosen = computed(() => !props.column.many && ['choice', 'reference'].includes(props.column.form))
const mayBeEmpty = computed(() => !props.column.required && props.column.default === null)
const choices = computed(() =>
  props.column.form === 'yes-no' ? YES_NO : isChosen.value ? withBlank() : null,
)
/** The choices of the cell, with an empty one where it may stay empty. */
function withBlank() {
  const found = choicesOf(props.column, props.design, props.row)
  return mayBeEmpty.value ? [{ value: '', label: '' }, ...found] : found
}
const typed = ref(startText())
const field = useTemplateRef<HTMLInputElement | HTMLSelectElement>('field')
let settled = false // leaving the field must not commit again what Enter or Esc has settled

let letters = props.text // typed so far to pick a choice

/** The choice that typed letters pick: the one they are, or the first that starts with them. */
function picked(text: string): string {
  const wanted = text.toLowerCase()
  const labels = (choices.value ?? []).map((choice) => choice.label)
  const exact = labels.find((label) => label.toLowerCase() === wanted)
  return exact ?? labels.find((label) => wanted && label.toLowerCase().startsWith(wanted)) ?? ''
}
function startText(): string {
  return choices.value ? picked(props.text) : props.text
}
/** The browser's own search would forget the letter that opened the cell. */
function onLetter(event: KeyboardEvent): void {
  if (event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return
  event.preventDefault()
  const longer = picked(letters + event.key)
  letters = longer ? letters + event.key : event.key
  typed.value = longer || picked(letters) || typed.value
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
    @keypress="onLetter"
    @blur="settle([0, 0])"
    @click.stop
  >
    <option v-if="!mayBeEmpty" value="" disabled>choose</option>
    <option v-for="choice in choices" :key="choice.value" :value="choice.label">{{ choice.label }}</option>
  </select>
  <input
    v-else
    ref="field"
    v-model="typed"
    class="editor"
    :class="{ figures: column.form === 'figures' || column.form === 'number' }"
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
