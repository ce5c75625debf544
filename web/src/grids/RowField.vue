<script setup lang="ts">
import { computed } from 'vue'
import type { Design } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'
import SuggestField from '@/ui/SuggestField.vue'
import { choicesOf } from './choices'
import type { Column } from './columns'
import MemberList from './MemberList.vue'

/** One field of a form: what picks, switches, counts or types the text that a cell of the same column would hold. */
const props = defineProps<{ column: Column; design: Design; row: Record<string, unknown> }>()
const text = defineModel<string>({ required: true })

const names = computed(() => {
  const choices = choicesOf(props.column, props.design, props.row)
  return choices.length ? choices.map((choice) => choice.label) : props.column.offered
})
const options = computed(() => {
  const named = names.value.map((name) => ({ value: name, label: name }))
  return props.column.required || props.column.form === 'choice'
    ? named
    : [{ value: '', label: 'none' }, ...named]
})
const isPicked = computed(() => props.column.form === 'reference' || props.column.form === 'choice')
</script>

<template>
  <div class="field">
    <MemberList v-if="column.many" v-model="text" :column="column" :names="names" />
    <ElSwitch
      v-else-if="column.form === 'yes-no'"
      :model-value="text === 'yes'"
      :aria-label="column.title"
      @update:model-value="text = $event ? 'yes' : 'no'"
    />
    <SelectField
      v-else-if="isPicked"
      :model-value="text"
      :label="column.title"
      :options="options"
      hide-label
      stacked
      @update:model-value="text = $event"
    />
    <ElInputNumber
      v-else-if="column.form === 'number' && !Number.isNaN(Number(text))"
      :model-value="text ? Number(text) : undefined"
      :controls="false"
      :aria-label="column.title"
      @update:model-value="text = String($event ?? '')"
    />
    <SuggestField v-else-if="names.length" v-model="text" :names="names" :label="column.title" all-at-first />
    <ElInput
      v-else
      v-model="text"
      :class="{ figures: column.figures }"
      :placeholder="column.example"
      :aria-label="column.title"
    />
  </div>
</template>

<style scoped>
.field {
  display: flex;
  flex-direction: column;
  width: 100%;
}
.el-input-number {
  width: 120px;
}
</style>
