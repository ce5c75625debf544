<script setup lang="ts">
/** What a server shows, to be compared with what it is known to have, before anything is sent to it. */
defineProps<{ shown: string; what: string; disabled: boolean }>()
const emit = defineEmits<{ ask: [] }>()
const isCompared = defineModel<boolean>({ required: true })
</script>

<template>
  <div class="shown">
    <ElButton :disabled="disabled" @click="emit('ask')">Ask what it shows</ElButton>
    <template v-if="shown">
      <span class="figures">{{ shown }}</span>
      <ElCheckbox v-model="isCompared">{{ what }} has this SHA-256</ElCheckbox>
    </template>
    <span v-else class="muted">Nothing is sent to one that shows something else later.</span>
  </div>
</template>

<style scoped>
.shown {
  display: flex;
  flex: 1 0 100%;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.shown .figures {
  overflow-wrap: anywhere;
}
</style>
