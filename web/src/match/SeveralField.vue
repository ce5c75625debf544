<script setup lang="ts">
/** Several of a list, in an order of preference: the order in which they are ticked. */
defineProps<{ choices: readonly { value: unknown; label: string }[]; label: string }>()
const chosen = defineModel<string[]>({ required: true })
</script>

<template>
  <ElCheckboxGroup v-model="chosen" class="several" :aria-label="label">
    <ElCheckbox v-for="choice in choices" :key="choice.label" :value="String(choice.value)">
      {{ choice.label }}
      <span v-if="chosen.includes(String(choice.value))" class="muted figures">{{
        chosen.indexOf(String(choice.value)) + 1
      }}</span>
    </ElCheckbox>
  </ElCheckboxGroup>
</template>

<style scoped>
.several {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  margin: 0;
  padding: 4px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
