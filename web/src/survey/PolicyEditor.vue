<script setup lang="ts">
import { computed } from 'vue'
import type { AlgorithmPolicy } from '@/api/types'
import { freshId } from '@/design/ids'
import SelectField from '@/ui/SelectField.vue'

/** The algorithm policies of a design, as data that can be edited; one of them is in force. */
const policies = defineModel<AlgorithmPolicy[]>('policies', { required: true })
const inForce = defineModel<string>('inForce', { required: true })

const LEVELS = ['optional', 'weak', 'retired'] as const
const shown = computed(() => policies.value.find((policy) => policy.id === inForce.value))

function edit(changed: Partial<AlgorithmPolicy>): void {
  policies.value = policies.value.map((policy) =>
    policy.id === inForce.value ? { ...policy, ...changed } : policy,
  )
}
function refuse(levels: readonly unknown[]): void {
  edit({ refused_levels: LEVELS.filter((level) => levels.includes(level)) })
}
function copy(): void {
  if (!shown.value) return
  const name = `${shown.value.name}, changed`
  const id = freshId(name, new Set(policies.value.map((policy) => policy.id)))
  policies.value = [...policies.value, { ...shown.value, id, name }]
  inForce.value = id
}
const NUMBERS = [
  ['least_bits', 'Least strength of an algorithm, bits'],
  ['least_key_bits', 'Least strength of a pre-shared key, bits'],
  ['longest_ike_lifetime_s', 'Longest IKE SA lifetime, s'],
  ['longest_child_lifetime_s', 'Longest Child SA lifetime, s'],
] as const
</script>

<template>
  <fieldset class="policy">
    <legend>Algorithm policy</legend>
    <SelectField
      v-model="inForce"
      class="line"
      label="In force"
      :options="policies.map((policy) => ({ value: policy.id, label: policy.name }))"
    />
    <template v-if="shown">
      <label>
        Name
        <ElInput :model-value="shown.name" maxlength="80" @update:model-value="edit({ name: $event })" />
      </label>
      <div class="levels">
        <span aria-hidden="true">Refuses what is, by the standards,</span>
        <ElCheckboxGroup
          :model-value="shown.refused_levels"
          aria-label="Refuses algorithms that are, by the standards"
          @update:model-value="refuse"
        >
          <ElCheckbox v-for="level in LEVELS" :key="level" :value="level">{{ level }}</ElCheckbox>
        </ElCheckboxGroup>
      </div>
      <label v-for="[field, title] in NUMBERS" :key="field">
        {{ title }}
        <ElInputNumber
          :min="0"
          :controls="false"
          :model-value="shown[field]"
          @change="edit({ [field]: $event ?? 0 })"
        />
      </label>
      <ElCheckbox
        class="check"
        :model-value="shown.forward_secrecy"
        @update:model-value="edit({ forward_secrecy: Boolean($event) })"
        >Child SAs need a key exchange of their own</ElCheckbox
      >
      <ElButton @click="copy">Make another policy like this</ElButton>
    </template>
  </fieldset>
</template>

<style scoped>
.policy {
  margin: 8px 0;
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
label:not(.el-checkbox) {
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr);
  align-items: center;
  margin-bottom: 4px;
}
.levels,
.check {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 4px;
}
.line {
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr);
  gap: 0;
  margin-bottom: 4px;
}
.el-input-number {
  width: 160px;
}
</style>
