<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import type { Design } from '@/api/types'
import { choicesOf } from './choices'
import type { Column } from './columns'
import SuggestField from '@/ui/SuggestField.vue'
import MembersForm from './MembersForm.vue'

/** The cell that is being edited: a text, one of several names with suggestions, or a list with a form beside it. */
const props = defineProps<{
  column: Column
  design: Design
  row: Record<string, unknown>
  text: string
  label: string
}>()
const emit = defineEmits<{ commit: [text: string, step: [number, number]]; cancel: [] }>()

const typed = ref(props.text)
const names = computed(() => choicesOf(props.column, props.design, props.row).map((choice) => choice.label))
const isNamed = computed(() => !props.column.many && names.value.length > 0)
const suggested = computed(() => (names.value.length ? names.value : props.column.offered))
const root = useTemplateRef<HTMLElement>('root')
const form = useTemplateRef<{ holds: (element: Node | null) => boolean }>('form')
const field = useTemplateRef<{ focus: () => void }>('field')
let settled = false // leaving the field must not commit again what Enter or Esc has settled

/** What was typed, or the name that it begins: whatever is none is refused with its reason, and stays. */
function meant(text: string): string {
  const wanted = text.trim().toLowerCase()
  if (!isNamed.value || !wanted) return text
  const exact = names.value.find((name) => name.toLowerCase() === wanted)
  return exact ?? names.value.find((name) => name.toLowerCase().startsWith(wanted)) ?? text
}
function settle(step: [number, number], text = meant(typed.value)): void {
  if (settled) return
  settled = true
  emit('commit', text, step)
}
function onKey(event: KeyboardEvent, choosing: boolean): void {
  if (event.key === 'Enter' && !choosing) settle([1, 0])
  else if (event.key === 'Tab') settle([0, event.shiftKey ? -1 : 1])
  else if (event.key === 'Escape') {
    settled = true
    emit('cancel')
  } else return
  event.preventDefault()
}
/** A press on a suggestion, or on the form of a list, takes the focus and doesn't leave the cell. */
let pressed: Element | null = null
useEventListener(document, 'pointerdown', (event) => (pressed = event.target as Element), { capture: true })
/** Whoever goes on elsewhere has written the cell. */
function onLeave(event: FocusEvent): void {
  const to = (event.relatedTarget as Element | null) ?? pressed
  if (root.value?.contains(to) || form.value?.holds(to) || to?.closest('.el-popper')) return
  settle([0, 0])
}
onMounted(() => {
  field.value?.focus()
  const input = root.value?.querySelector('input')
  if (input && input.value.length > 1) input.select()
})
</script>

<template>
  <div ref="root" class="editor" @focusout="onLeave" @pointerdown.stop @paste.stop @copy.stop @keydown.stop>
    <SuggestField
      v-if="!column.many && suggested.length"
      ref="field"
      v-model="typed"
      :names="suggested"
      :label="label"
      all-at-first
      @key="onKey"
      @chosen="settle([1, 0], $event)"
    />
    <ElInput
      v-else
      ref="field"
      v-model="typed"
      :class="{ figures: column.figures }"
      :aria-label="label"
      :placeholder="column.example"
      autocomplete="off"
      spellcheck="false"
      @keydown="(event) => onKey(event as KeyboardEvent, false)"
    />
    <MembersForm
      v-if="column.many || column.form === 'structure'"
      ref="form"
      v-model="typed"
      :column="column"
      :names="suggested"
      :label="label"
      @save="settle([1, 0])"
      @cancel="emit('cancel')"
    />
  </div>
</template>

<style scoped>
.editor {
  position: absolute;
  inset: 0;
  min-width: 120px;
}
.editor :deep(.el-input__wrapper) {
  height: 27px;
  border-radius: 0;
  box-shadow: 0 0 0 2px var(--verdigris) inset;
}
</style>
