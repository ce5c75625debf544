<script setup lang="ts">
import { computed } from 'vue'
import type { AlgorithmPolicy } from '@/api/types'
import { freshId } from '@/design/ids'

/** The algorithm policies of a design, as data that can be edited; one of them is in force. */
const policies = defineModel<AlgorithmPolicy[]>('policies', { required: true })
const inForce = defineModel<string>('inForce', { required: true })

const LEVELS = ['optional', 'weak', 'retired'] as const
const shown = computed(() => policies.value.find((one) => one.id === inForce.value))

function edit(changed: Partial<AlgorithmPolicy>): void {
  policies.value = policies.value.map((one) => (one.id === inForce.value ? { ...one, ...changed } : one))
}
function toggle(level: (typeof LEVELS)[number]): void {
  const levels = shown.value?.refused_levels ?? []
  edit({
    refused_levels: levels.includes(level) ? levels.filter((one) => one !== level) : [...levels, level],
  })
}
function copy(): void {
  if (!shown.value) return
  const name = `${shown.value.name}, changed`
  const id = freshId(name, new Set(policies.value.map((one) => one.id)))
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
    <label>
      In force
      <select v-model="inForce">
        <option v-for="one in policies" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </label>
    <template v-if="shown">
      <label>
        Name
        <input
          :value="shown.name"
          maxlength="80"
          @input="edit({ name: ($event.target as HTMLInputElement).value })"
        />
      </label>
      <div class="levels" role="group" aria-label="Refuses algorithms that are, by the standards">
        Refuses what is, by the standards,
        <label v-for="level in LEVELS" :key="level">
          <input type="checkbox" :checked="shown.refused_levels.includes(level)" @change="toggle(level)" />
          {{ level }}
        </label>
      </div>
      <label v-for="[field, title] in NUMBERS" :key="field">
        {{ title }}
        <input
          class="figures"
          type="number"
          :value="shown[field]"
          @input="edit({ [field]: Number(($event.target as HTMLInputElement).value) })"
        />
      </label>
      <label class="check">
        <input
          type="checkbox"
          :checked="shown.forward_secrecy"
          @change="edit({ forward_secrecy: ($event.target as HTMLInputElement).checked })"
        />
        Child SAs need a key exchange of their own
      </label>
      <button class="plain-button" type="button" @click="copy">Make another policy like this</button>
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
label {
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
.levels label {
  display: flex;
  gap: 4px;
}
input:not([type='checkbox']),
select {
  width: 100%;
  padding: 2px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
