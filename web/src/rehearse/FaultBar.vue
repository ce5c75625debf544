<script setup lang="ts">
import { computed, reactive } from 'vue'
import type { Rehearsal } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'
import type { Asked } from './useRehearsal'

/** What is let happen, and when: each fault a tag, a further one by time, kind and side. */
const props = defineProps<{ choices: Rehearsal['choices']; asked: Asked }>()
const emit = defineEmits<{ change: [query: Record<string, string | string[] | undefined>] }>()

const SIDES = [
  { value: 'left', label: 'at the left end' },
  { value: 'right', label: 'at the right end' },
]
const next = reactive({ time: '60s', kind: '', side: 'left' })
const kinds = computed(() =>
  props.choices.map((choice) => ({ value: choice.kind as string, label: choice.label })),
)
const labels = computed(() => new Map(kinds.value.map((kind) => [kind.value, kind.label])))
/** Orders that are often tried; any other one comes by a link, and is shown step by step. */
const ORDERS = [
  { value: '', label: 'as they should: the waiting end first' },
  { value: 'start left,start right', label: 'left, then right; nothing saved' },
  { value: 'start right,start left', label: 'right, then left; nothing saved' },
  { value: 'start left,save left,start right,save right', label: 'left, then right, each saved' },
  { value: 'start right,save right,start left,save left', label: 'right, then left, each saved' },
]
const order = computed(() => props.asked.step.join(','))
const orders = computed(() =>
  ORDERS.some((candidate) => candidate.value === order.value)
    ? ORDERS
    : [...ORDERS, { value: order.value, label: props.asked.step.join(', ') }],
)
function chooseOrder(value: string): void {
  emit('change', { step: value ? value.split(',') : undefined, at: undefined })
}
function fault(text: string): string {
  const [time, kind, side] = text.split(' ')
  return `${time}: ${labels.value.get(kind ?? '') ?? kind}, ${side}`
}
function add(): void {
  if (!next.kind) return
  emit('change', {
    fault: [...props.asked.fault, `${next.time.trim()} ${next.kind} ${next.side}`],
    at: undefined,
  })
  next.kind = ''
}
function drop(text: string): void {
  const left = props.asked.fault.filter((candidate) => candidate !== text)
  emit('change', { fault: left.length ? left : undefined, at: undefined })
}
</script>

<template>
  <form class="faults plain-fields" aria-label="What is let happen" @submit.prevent="add">
    <span>Let happen</span>
    <ElTag v-for="text in asked.fault" :key="text" closable @close="drop(text)">{{ fault(text) }}</ElTag>
    <label
      >after <ElInput v-model="next.time" class="short figures" aria-label="After, such as 30s or 15m"
    /></label>
    <SelectField
      v-model="next.kind"
      label="What happens"
      hide-label
      :options="kinds"
      placeholder="nothing yet"
    />
    <SelectField v-model="next.side" label="Where" hide-label :options="SIDES" />
    <ElButton native-type="submit" :disabled="!next.kind">Add</ElButton>
    <SelectField
      :model-value="order"
      class="order"
      label="Started"
      :options="orders"
      @update:model-value="chooseOrder"
    />
    <label
      >for
      <ElInput
        :model-value="asked.until"
        class="short figures"
        placeholder="all stages"
        aria-label="How long to go on, such as 2h"
        @change="emit('change', { until: $event.trim() || undefined, at: undefined })"
    /></label>
    <label
      >seed
      <ElInputNumber
        :model-value="asked.seed"
        class="short"
        :min="0"
        :max="9999"
        :controls="false"
        aria-label="Number that loss and jitter follow"
        @change="emit('change', { seed: $event ? String($event) : undefined, at: undefined })"
    /></label>
  </form>
</template>

<style scoped>
.faults {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin-top: 8px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.order :deep(.el-select) {
  width: 280px;
}
.short {
  width: 96px;
}
</style>
