<script setup lang="ts" generic="Value extends string | number | boolean">
import { computed } from 'vue'

/**
 * One of a list, found by typing as well: Element Plus's virtual select, which takes its name from `label` alone, since a
 * `<label>` around it would press it twice and so shut it again.
 */
const NOTHING = [null, undefined]

const props = defineProps<{
  modelValue: Value | null // null where nothing is chosen yet
  label: string
  options: readonly { value: Value; label: string; disabled?: boolean }[]
  placeholder?: string
  hideLabel?: boolean // where the words around it say what it is
  stacked?: boolean // with its label above, as wide as there is room
}>()
/** A value without letters may stand in the list as well: "any", "elsewhere". */
const emptyValues = computed(() =>
  props.options.some((option) => option.value === '') ? NOTHING : [...NOTHING, ''],
)
const emit = defineEmits<{ 'update:modelValue': [chosen: Value] }>()
</script>

<template>
  <span class="select-field" :class="{ stacked }">
    <span v-if="!hideLabel" aria-hidden="true">{{ label }}</span>
    <ElSelectV2
      :model-value="modelValue"
      :aria-label="label"
      :placeholder="placeholder ?? label"
      :empty-values="emptyValues"
      :options="options as { value: Value; label: string; disabled?: boolean }[]"
      filterable
      @update:model-value="(chosen: Value) => emit('update:modelValue', chosen)"
    />
  </span>
</template>

<style scoped>
.select-field {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.select-field.stacked {
  flex-direction: column;
  gap: 2px;
  align-items: stretch;
}
</style>
