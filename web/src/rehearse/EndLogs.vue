<script setup lang="ts">
import { computed } from 'vue'
import type { Rehearsal } from '@/api/types'
import { timeText } from './asked'

/** What each gateway says of itself at the time where the scrubber stands, and its log up to there. */
const props = defineProps<{ rehearsal: Rehearsal; until: number }>()

/** What carries the packets once the tunnel is up; a peering of clouds has none of its own, and nothing is tried in it. */
const carrier = computed(() => {
  if (!props.rehearsal.probes.length) return 'peering'
  return props.rehearsal.packets.some((packet) => packet.message?.carries === 'ike')
    ? 'Child SA'
    : 'connection'
})
const SIDES = ['left', 'right'] as const
const ends = computed(() =>
  SIDES.map((side) => {
    const logs = props.rehearsal.logs.filter((line) => line.side === side && line.at_s <= props.until)
    const marks = props.rehearsal.marks.filter((mark) => mark.side === side && mark.at_s <= props.until)
    const last = marks.filter((mark) => ['up', 'rekey', 'down', 'restart'].includes(mark.kind)).at(-1)
    const isUp = last?.kind === 'up' || last?.kind === 'rekey'
    const rekeys = marks.filter((mark) => mark.kind === 'rekey').length
    const name = side === 'left' ? props.rehearsal.left_name : props.rehearsal.right_name
    return { side, name, isUp, rekeys, logs: logs.slice(-60).reverse() }
  }),
)
</script>

<template>
  <div class="ends">
    <section v-for="end in ends" :key="end.side" :aria-label="`Gateway of ${end.name}`">
      <h3>
        {{ end.name }}
        <span class="state" :class="{ up: end.isUp }">{{
          end.isUp ? `a ${carrier} stands` : `no ${carrier}`
        }}</span>
        <span v-if="end.rekeys" class="muted"
          >rekeyed {{ end.rekeys === 1 ? 'once' : `${end.rekeys} times` }}</span
        >
      </h3>
      <ol tabindex="0" :aria-label="`Log of ${end.name}, newest first`">
        <li v-for="(line, k) in end.logs" :key="k" :class="line.level">
          <span class="time figures muted">{{ timeText(line.at_s) }}</span>
          <span>{{ line.text }}</span>
        </li>
        <li v-if="!end.logs.length" class="muted">Nothing in its log yet.</li>
      </ol>
    </section>
  </div>
</template>

<style scoped>
.ends {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 8px 24px;
  margin-top: 8px;
}
section {
  display: flex;
  flex-direction: column;
  justify-content: space-between;
}
h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  align-items: baseline;
}
h3 .muted {
  font-weight: 400;
}
.state {
  font-weight: 400;
  color: var(--madder);
}
.state.up {
  color: var(--verdigris);
}
ol {
  height: 104px;
  margin: 4px 0 0;
  padding: 4px 8px;
  overflow: auto;
  list-style: none;
  background: var(--card);
  border: 1px solid var(--line);
}
li {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 8px;
  padding: 1px 0;
}
.error {
  color: var(--madder);
}
.warning {
  color: var(--ochre);
}
@media print {
  section {
    justify-content: flex-start;
  }
  ol {
    height: auto;
  }
}
</style>
