<script setup lang="ts">
/**
 * A picture in rows and columns: a matrix, a heat map, or the words of a drawing for whoever can't see it. Element
 * Plus's tables split head and body into two tables and know no headings of rows, which such a picture lives by.
 */
import { useTemplateRef } from 'vue'

defineProps<{ caption: string }>()
const table = useTemplateRef<HTMLTableElement>('table')
defineExpose({ focusCell: () => table.value?.querySelector<HTMLElement>('button[tabindex="0"]')?.focus() })
</script>

<template>
  <table ref="table">
    <caption class="visually-hidden">
      {{
        caption
      }}
    </caption>
    <slot />
  </table>
</template>
