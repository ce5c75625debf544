<script setup lang="ts">
defineProps<{ choices: readonly { value: unknown; label: string }[]; label: string }>()
const chosen = defineModel<unknown>({ required: true })
</script>

<template>
  <select v-model="chosen" :aria-label="label">
    <option v-for="choice in choices" :key="String(choice.value)" :value="choice.value">
      {{ choice.label }}
    </option>
  </select>
</template>
