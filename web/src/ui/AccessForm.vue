<script setup lang="ts">
import CompareFingerprint from './CompareFingerprint.vue'

/**
 * How something outside is reached: fields of its own, what it shows and was compared with, and what to do with all that.
 * Nothing is sent to it before that.
 */
defineProps<{
  label: string
  shown: string // its fingerprint, once it was asked
  what: string // whose fingerprint it is
  canAsk: boolean
  isWhole: boolean
  isKnown: boolean // how it is reached stands already
  busy: boolean
  trouble: string
}>()
const emit = defineEmits<{ ask: []; keep: []; forget: []; close: [] }>()
const isCompared = defineModel<boolean>({ required: true })
</script>

<template>
  <form class="access plain-fields" :aria-label="label" @submit.prevent="emit('keep')">
    <slot />
    <CompareFingerprint
      v-model="isCompared"
      :shown="shown"
      :what="what"
      :disabled="!canAsk"
      @ask="emit('ask')"
    />
    <p v-if="trouble" class="field-error wide" role="alert">{{ trouble }}</p>
    <div class="wide buttons">
      <ElButton type="primary" native-type="submit" :disabled="!isWhole || busy">Save</ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton v-if="isKnown" :disabled="busy" @click="emit('forget')">Forget how it is reached</ElButton>
    </div>
  </form>
</template>

<style scoped>
.access {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: flex-end;
  padding: 8px 10px;
  margin: 6px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.access > :slotted(p),
.access > :slotted(.wide),
.wide {
  flex: 1 0 100%;
  margin: 0;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
}
.buttons .el-button {
  margin: 0;
}
</style>
