<script setup lang="ts">
import { computed } from 'vue'
import type { Ladder } from '@/api/types'
import { typeWords } from './transforms'
import { ladderHeight, rungPath, type Rung } from '@/geometry/ladder'

/** The seam between two lists of proposals: thin lines join rungs that meet, a thick one those that are taken. */
const props = defineProps<{ ladder: Ladder }>()

const WIDTH = 44
const height = computed(() => ladderHeight(props.ladder.left.length, props.ladder.right.length))
const isChosen = (rung: Rung) =>
  props.ladder.chosen?.left === rung.left && props.ladder.chosen.right === rung.right
const words = computed(() => {
  const { chosen, nearest, unmet, meeting } = props.ladder
  if (chosen)
    return `Left ${chosen.left + 1} and right ${chosen.right + 1} are taken; ${meeting.length} pairs meet`
  if (nearest)
    return `No pair meets; left ${nearest.left + 1} and right ${nearest.right + 1} lack ${unmet.map(typeWords).join(', ')}`
  return 'Not known yet'
})
</script>

<template>
  <svg :width="WIDTH" :height="height" role="img" :aria-label="words">
    <title>{{ words }}</title>
    <path
      v-for="rung in ladder.meeting"
      :key="`${rung.left}-${rung.right}`"
      :d="rungPath(rung, WIDTH)"
      :class="{ chosen: isChosen(rung) }"
    />
    <path v-if="ladder.nearest" class="nearest" :d="rungPath(ladder.nearest, WIDTH)" />
  </svg>
</template>

<style scoped>
path {
  fill: none;
  stroke: var(--verdigris);
  stroke-width: 1;
}
path.chosen {
  stroke-width: 4;
  stroke-linecap: round;
}
path.nearest {
  stroke: var(--madder);
  stroke-width: 2;
  stroke-dasharray: 3 6;
}
</style>
