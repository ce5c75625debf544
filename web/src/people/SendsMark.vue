<script setup lang="ts">
import type { Sends } from '@/api/types'

/** Where a device sends a packet: into the tunnel, past it, to its neighbours, or nowhere. */
defineProps<{ way: Sends; small?: boolean }>()
</script>

<template>
  <svg class="mark" :class="[way, { small }]" viewBox="0 0 28 14" aria-hidden="true">
    <template v-if="way === 'through'">
      <path d="M1 3.5H27M1 10.5H27" />
      <path class="flow" d="M3 7H22M18.5 4.8 22.5 7 18.5 9.2" />
    </template>
    <template v-else-if="way === 'beside'">
      <path class="faint" d="M9 8.5H27M9 12.5H27" />
      <path class="flow" d="M2 4H22M18.5 1.8 22.5 4 18.5 6.2" />
    </template>
    <path v-else-if="way === 'local'" class="flow" d="M4 11V6a5 4 0 0 1 14 0v4M15 7.5 18 11 21 7.5" />
    <path v-else class="flow" d="M2 7H16M19 2V12" />
  </svg>
</template>

<style scoped>
.mark {
  width: 28px;
  height: 14px;
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
.mark.small {
  width: 16px;
  height: 8px;
  opacity: 0.75;
}
.through {
  color: var(--verdigris);
}
.beside {
  color: var(--ochre);
}
.local {
  color: var(--slate);
}
.held {
  color: var(--madder);
}
.faint {
  opacity: 0.45;
}
</style>
