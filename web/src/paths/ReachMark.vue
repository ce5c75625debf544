<script setup lang="ts">
import type { Reach } from './reach'

/** The two halves of a way, there and back: together, apart, one alone, barred, or gone outside. Shape says it; colour repeats it. */
defineProps<{ reach: Reach }>()
</script>

<template>
  <svg class="mark" :class="reach" viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
    <template v-if="reach === 'reaches'">
      <path d="M7 2 A5 5 0 0 0 7 12 Z" />
      <path d="M7 2 A5 5 0 0 1 7 12 Z" />
    </template>
    <template v-else-if="reach === 'asymmetric'">
      <path d="M6.5 0.5 A5 5 0 0 0 6.5 10.5 Z" />
      <path d="M7.5 3.5 A5 5 0 0 1 7.5 13.5 Z" />
    </template>
    <template v-else-if="reach === 'unknown'">
      <path class="open" d="M6 2.3 A5 5 0 0 0 6 11.7 Z" />
      <path class="open" d="M8 2.3 A5 5 0 0 1 8 11.7 Z" />
    </template>
    <template v-else-if="reach === 'one-way'">
      <path d="M7 2 A5 5 0 0 0 7 12 Z" />
      <path class="open" d="M8.5 2.3 A5 5 0 0 1 8.5 11.7" />
    </template>
    <template v-else-if="reach === 'held'">
      <path class="open" d="M5.5 2.3 A5 5 0 0 0 5.5 11.7 Z" />
      <path class="open" d="M9 1.5 V12.5" />
    </template>
    <path v-else-if="reach === 'blocked'" class="open" d="M4 7 H10" />
    <template v-else>
      <path d="M5.5 2 A5 5 0 0 0 5.5 12 Z" />
      <path class="open" d="M7.5 7 L12.5 2.5 M12.5 6 V2.5 H9" />
    </template>
  </svg>
</template>

<style scoped>
.mark {
  display: block;
  fill: currentcolor;
  stroke: none;
}
.open {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
.reaches {
  color: var(--verdigris);
}
.asymmetric,
.one-way {
  color: var(--ochre);
}
.unknown,
.held,
.blocked {
  color: var(--slate);
}
.unprotected {
  color: var(--madder);
}
</style>
