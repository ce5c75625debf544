<script setup lang="ts">
/** Several of a list, in an order of preference: the order in which they are ticked. */
defineProps<{ choices: readonly { value: unknown; label: string }[]; label: string }>()
const chosen = defineModel<string[]>({ required: true })

function toggle(value: string): void {
  chosen.value = chosen.value.includes(value)
    ? chosen.value.filter((one) => one !== value)
    : [...chosen.value, value]
}
</script>

<template>
  <fieldset>
    <legend class="visually-hidden">{{ label }}</legend>
    <label v-for="choice in choices" :key="choice.label">
      <input
        type="checkbox"
        :checked="chosen.includes(String(choice.value))"
        @change="toggle(String(choice.value))"
      />
      {{ choice.label }}
      <span v-if="chosen.includes(String(choice.value))" class="muted figures">{{
        chosen.indexOf(String(choice.value)) + 1
      }}</span>
    </label>
  </fieldset>
</template>

<style scoped>
fieldset {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  margin: 0;
  padding: 4px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
