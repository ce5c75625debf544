<script setup lang="ts">
import { computed } from 'vue'
import type { Verdict } from '@/api/types'
import { halfDiscs, SEAM_HEIGHT, SEAM_WIDTH } from '@/geometry/halfDiscs'
import { VERDICT_WORDS } from './words'

const props = defineProps<{ verdict: Verdict }>()
const drawn = computed(() => halfDiscs(props.verdict))
</script>

<template>
  <svg
    class="discs"
    :class="verdict"
    :width="SEAM_WIDTH"
    :height="SEAM_HEIGHT"
    role="img"
    :aria-label="VERDICT_WORDS[verdict]"
  >
    <title>{{ VERDICT_WORDS[verdict] }}</title>
    <path :d="drawn.left" :class="{ outline: !drawn.filled }" />
    <path :d="drawn.right" :class="{ outline: !drawn.filled || drawn.hatched }" />
    <path v-if="drawn.hatched" class="hatch" :d="`M26,6v12M29,9v6`" />
  </svg>
</template>

<style scoped>
.discs {
  color: var(--verdigris);
}
.differs {
  color: var(--madder);
}
.narrowed,
.differs-later {
  color: var(--ochre);
}
.unknown {
  color: var(--slate);
}
path {
  fill: currentcolor;
  stroke: var(--paper);
  stroke-width: 1;
}
path.outline {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
path.hatch {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.5;
}
</style>
