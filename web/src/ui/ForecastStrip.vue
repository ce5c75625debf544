<script setup lang="ts">
import type { Forecast } from '@/api/types'
import { STATE_WORDS } from './words'

defineProps<{ forecast: Forecast; compact?: boolean }>()

function title(stage: Forecast['stages'][number]): string {
  const name = stage.stage[0]?.toUpperCase() + stage.stage.slice(1)
  return [`${name}: ${STATE_WORDS[stage.state]}`, ...stage.reasons].join('\n')
}
</script>

<template>
  <ol class="strip" :class="{ compact }" aria-label="Forecast">
    <li v-for="stage in forecast.stages" :key="stage.stage" :class="stage.state" :title="title(stage)">
      <span class="fill" aria-hidden="true" />
      <span :class="compact ? 'visually-hidden' : 'name'">{{ stage.stage }}</span>
      <span class="visually-hidden">{{ STATE_WORDS[stage.state] }}</span>
    </li>
  </ol>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: repeat(7, 1fr);
  gap: 2px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.fill {
  display: block;
  height: 12px;
  background: none;
  border: 1px solid var(--line);
  border-radius: 2px;
}
.compact .fill {
  height: 7px;
}
.name {
  display: block;
  margin-top: 2px;
  font-size: 12px;
  text-transform: capitalize;
}
.behind .name {
  color: var(--muted);
}
.holds .fill {
  background: var(--verdigris);
  border-color: var(--verdigris);
}
.partial .fill {
  background: linear-gradient(to top, var(--ochre) 55%, transparent 55%);
  border-color: var(--ochre);
}
.fails-later .fill {
  background: repeating-linear-gradient(115deg, var(--ochre) 0 3px, transparent 3px 6px);
  border-color: var(--ochre);
}
.fails .fill {
  background: linear-gradient(90deg, var(--madder) 38%, transparent 38% 62%, var(--madder) 62%);
  border-color: var(--madder);
}
.fails .name {
  font-weight: 600;
  color: var(--madder);
}
.unknown .fill {
  border: 1px dashed var(--slate);
}
</style>
