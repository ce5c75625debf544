<script setup lang="ts">
/**
 * A part of a picture or a cell of a grid that can be pressed. Element Plus's button is a component with a state and
 * styles of its own: ten thousand of them can't be scrolled, and its padding and height are not those of a picture.
 */
import { useTemplateRef } from 'vue'

const button = useTemplateRef<HTMLButtonElement>('button')
defineExpose({ focus: () => button.value?.focus() })
</script>

<template>
  <button ref="button" type="button" class="picture-button"><slot /></button>
</template>

<style scoped>
.picture-button {
  padding: 0;
  text-align: left;
  cursor: pointer;
  background: none;
  border: 0;
}
</style>
