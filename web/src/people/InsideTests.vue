<script setup lang="ts">
import type { InsideTest } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'

/** By what a device knows that it is inside already, and so needn't dial. */
const tests = defineModel<InsideTest[]>({ required: true })
const BY: { value: InsideTest['by']; label: string }[] = [
  { value: 'suffix', label: 'suffix given there' },
  { value: 'prefix', label: 'prefix it sits in' },
  { value: 'probe', label: 'host that answers' },
]
const EXAMPLES: Record<InsideTest['by'], string> = {
  suffix: 'quay.skerry.example',
  prefix: '10.64.0.0/22',
  probe: 'rota.skerry.example:443',
}
function add(): void {
  tests.value = [...tests.value, { by: 'suffix', value: '' }]
}
function drop(at: number): void {
  tests.value = tests.value.filter((_, other) => other !== at)
}
</script>

<template>
  <div class="tests" role="group" aria-label="Not dialled where one of these holds">
    <span>Not dialled where one of these holds</span>
    <div v-for="(test, at) in tests" :key="at" class="test">
      <SelectField v-model="test.by" hide-label :label="`Test ${at + 1} by`" :options="BY" />
      <ElInput
        v-model="test.value"
        class="figures"
        :aria-label="`Test ${at + 1}`"
        :placeholder="EXAMPLES[test.by]"
        spellcheck="false"
      />
      <ElButton link :aria-label="`Take test ${at + 1} out`" @click="drop(at)">×</ElButton>
    </div>
    <span v-if="!tests.length" class="muted">No test: it is dialled everywhere, the office too.</span>
    <ElButton class="add" @click="add">Add a test</ElButton>
  </div>
</template>

<style scoped>
.tests {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.test {
  display: grid;
  grid-template-columns: 136px minmax(0, 1fr) auto;
  gap: 4px;
}
.add {
  align-self: start;
}
</style>
