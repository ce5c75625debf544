<script setup lang="ts">
/** A slider with a number field. Element Plus's own number field beside a slider has no name for a screen reader. */
defineProps<{ label: string; most: number; step: number }>()
const value = defineModel<number>({ required: true })
</script>

<template>
  <div class="slider-field">
    <ElSlider
      :model-value="value"
      :min="0"
      :max="most"
      :step="step"
      :aria-label="label"
      @change="value = Number($event)"
    />
    <ElInputNumber
      :model-value="value"
      :min="0"
      :max="most"
      :step="step"
      :controls="false"
      :aria-label="`${label}, typed`"
      @change="value = $event ?? 0"
    />
  </div>
</template>

<style scoped>
.slider-field {
  display: grid;
  grid-template-columns: minmax(80px, 1fr) 56px;
  gap: 12px;
  align-items: center;
  padding-left: 6px;
}
.el-input-number {
  width: 56px;
}
</style>
