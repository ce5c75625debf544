<script setup lang="ts">
import type { TrafficRule } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'

/** Rules of a device's traffic, in their order: the first that names a packet decides, before the split. */
const rules = defineModel<TrafficRule[]>({ required: true })
const WAYS: { value: TrafficRule['way']; label: string }[] = [
  { value: 'through', label: 'through the tunnel' },
  { value: 'beside', label: 'beside the tunnel' },
  { value: 'blocked', label: 'nowhere' },
]
const PARTS = [
  { field: 'application', title: 'Application', example: 'Rota' },
  { field: 'domain', title: 'Domain', example: '*.films.example' },
  { field: 'prefix', title: 'Destination', example: '10.64.8.0/23' },
  { field: 'service', title: 'Service', example: 'tcp 443' },
] as const
function set(at: number, field: (typeof PARTS)[number]['field'], text: string): void {
  rules.value = rules.value.map((rule, other) => (other === at ? { ...rule, [field]: text || null } : rule))
}
function add(): void {
  const blank = { application: null, domain: null, prefix: null, service: null }
  rules.value = [...rules.value, { ...blank, way: 'through' }]
}
function drop(at: number): void {
  rules.value = rules.value.filter((_, other) => other !== at)
}
function moveUp(at: number): void {
  const all = [...rules.value]
  all.splice(at - 1, 0, ...all.splice(at, 1))
  rules.value = all
}
</script>

<template>
  <section class="rules" aria-label="Traffic rules">
    <h3>Traffic rules</h3>
    <p class="muted">
      Before the split; the first that names a packet decides. A cell that is empty limits nothing.
    </p>
    <div v-for="(rule, at) in rules" :key="at" class="rule" role="group" :aria-label="`Rule ${at + 1}`">
      <span class="figures">{{ at + 1 }}</span>
      <ElInput
        v-for="part in PARTS"
        :key="part.field"
        :model-value="rule[part.field] ?? ''"
        :aria-label="`${part.title} of rule ${at + 1}`"
        :placeholder="`any ${part.title.toLowerCase()}`"
        :title="`such as ${part.example}`"
        spellcheck="false"
        @update:model-value="set(at, part.field, $event)"
      />
      <SelectField v-model="rule.way" hide-label :label="`Rule ${at + 1} goes`" :options="WAYS" />
      <span class="moves">
        <ElButton v-if="at" link :aria-label="`Move rule ${at + 1} up`" @click="moveUp(at)">↑</ElButton>
        <ElButton link :aria-label="`Take rule ${at + 1} out`" @click="drop(at)">×</ElButton>
      </span>
    </div>
    <ElButton @click="add">Add a rule</ElButton>
  </section>
</template>

<style scoped>
.rules {
  padding: 8px 12px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.rules > p {
  margin-bottom: 6px;
}
.rule {
  display: grid;
  grid-template-columns: 18px repeat(4, minmax(80px, 1fr)) 160px 56px;
  gap: 4px;
  align-items: center;
  margin-bottom: 4px;
}
.moves {
  display: flex;
  justify-content: flex-end;
}
</style>
