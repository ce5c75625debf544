<script setup lang="ts">
import { STATE_WORDS } from '@/ui/words'
import type { ShownState } from './states'

/** All tunnels of a plan after a step, a bar each: filled where it is up, broken where it is down. */
defineProps<{ states: readonly ShownState[] }>()
const word = (state: ShownState['state']): string => (state === 'absent' ? 'not there' : STATE_WORDS[state])
</script>

<template>
  <ul class="states" aria-label="Tunnels after this step">
    <li
      v-for="state in states"
      :key="state.id"
      :class="[state.state, { changed: state.isNew }]"
      :title="`${state.name}: ${word(state.state)}\n${state.sentence}`"
    >
      <span class="visually-hidden">{{ state.name }}: {{ word(state.state) }}</span>
    </li>
  </ul>
</template>

<style scoped>
.states {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  width: 16px;
  height: 16px;
  border: 1px solid var(--line);
  border-radius: 2px;
}
li.changed {
  outline: 1px solid var(--ink);
  outline-offset: 1px;
}
.holds {
  background: var(--verdigris);
  border-color: var(--verdigris);
}
.partial {
  background: linear-gradient(to top, var(--ochre) 55%, transparent 55%);
  border-color: var(--ochre);
}
.fails-later {
  background: repeating-linear-gradient(115deg, var(--ochre) 0 3px, transparent 3px 6px);
  border-color: var(--ochre);
}
.fails {
  background: linear-gradient(90deg, var(--madder) 38%, transparent 38% 62%, var(--madder) 62%);
  border-color: var(--madder);
}
.unknown {
  border: 1px dashed var(--slate);
}
.absent {
  border-style: dotted;
}
</style>
