<script setup lang="ts">
/** A text field that offers names which hold what was typed; anything else may stand there as well. */
import type { AutocompleteInstance } from 'element-plus'
import { computed, nextTick, useTemplateRef } from 'vue'
import { vCombobox } from './combobox'

const MOST_SUGGESTED = 50

const props = defineProps<{
  label: string
  names: readonly string[]
  allAtFirst?: boolean // an unchanged text offers all names, as a list to choose from
}>()
const emit = defineEmits<{ chosen: [name: string]; key: [event: KeyboardEvent, choosing: boolean] }>()
const typed = defineModel<string>({ required: true })
const field = useTemplateRef<AutocompleteInstance>('field')
const first = typed.value

/** Names that start with what was typed, then those that hold it. */
function matching(text: string): readonly string[] {
  const wanted = text.trim().toLowerCase()
  if (!wanted || (props.allAtFirst && text === first)) return props.names
  const holding = props.names.filter((name) => name.toLowerCase().includes(wanted))
  const starts = holding.filter((name) => name.toLowerCase().startsWith(wanted))
  return [...starts, ...holding.filter((name) => !starts.includes(name))]
}
function suggest(text: string, offer: (found: { value: string }[]) => void): void {
  offer(
    matching(text)
      .slice(0, MOST_SUGGESTED)
      .map((value) => ({ value })),
  )
}
const highlighted = computed(() => field.value?.highlightedIndex ?? -1)
const expanded = computed(() => Boolean(field.value?.activated && field.value.suggestions.length))
const activeId = computed(() =>
  highlighted.value < 0
    ? undefined
    : `${field.value?.inputRef?.input?.getAttribute('aria-controls')}-item-${highlighted.value}`,
)
/** What is offered next is made ready, but shown only when the field is pressed or typed into again. */
async function choose(name: unknown): Promise<void> {
  emit('chosen', String(name))
  await nextTick()
  field.value?.close()
  await field.value?.getData(typed.value)
}
function onKey(event: Event | KeyboardEvent): void {
  if (event instanceof KeyboardEvent) emit('key', event, highlighted.value >= 0)
}
defineOptions({ inheritAttrs: false })
defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <span v-combobox="{ expanded, activeId }" class="suggest-field">
    <ElAutocomplete
      ref="field"
      v-model="typed"
      v-bind="$attrs"
      :fetch-suggestions="suggest"
      :debounce="0"
      :aria-label="label"
      autocomplete="off"
      spellcheck="false"
      @keydown.capture="onKey"
      @select="(found) => choose(found.value)"
    >
      <!-- a press that took the focus from the field would open the list once more when it comes back -->
      <template #default="{ item }">
        <span class="suggestion" @mousedown.prevent>{{ item.value }}</span>
      </template>
    </ElAutocomplete>
  </span>
</template>

<style scoped>
.suggest-field {
  display: block;
  flex: 1;
  min-width: 0;
}
:global(.el-autocomplete-suggestion li:has(> .suggestion)) {
  padding: 0;
}
.suggestion {
  display: block;
  padding: 0 20px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
