<script setup lang="ts">
import { computed } from 'vue'
import type { Match, Tunnel } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'

/** A call that one end alone can make: who, over what, and all that keeps it up while nobody can call back. */
const props = defineProps<{ facts: Match['call']; tunnel: Tunnel }>()
const { change } = useOpenDesign()
const LONGEST_MS = 60_000
const measured = computed(() => props.tunnel.left.round_trip_ms ?? props.tunnel.right.round_trip_ms)
function keep(value: number | undefined | null): void {
  const left = { ...props.tunnel.left, round_trip_ms: value ?? null }
  const right = { ...props.tunnel.right, round_trip_ms: null }
  void change(
    [putOf('tunnel', { ...props.tunnel, left, right })],
    `${props.tunnel.name}: round trip measured`,
  )
}
</script>

<template>
  <dl class="facts">
    <template v-for="fact in facts" :key="fact.title">
      <dt>{{ fact.title }}</dt>
      <dd :class="{ bad: !fact.is_sound }">
        {{ fact.says }}
        <ElButton
          v-for="remedy in fact.remedies"
          :key="remedy.title"
          size="small"
          @click="change(remedy.operations, remedy.title)"
          >{{ remedy.title }}</ElButton
        >
      </dd>
    </template>
    <dt>Measured, ms</dt>
    <dd>
      <ElInputNumber
        :model-value="measured"
        :min="1"
        :max="LONGEST_MS"
        :controls="false"
        size="small"
        aria-label="Round trip as measured, ms"
        placeholder="not yet"
        @change="keep"
      />
    </dd>
  </dl>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 3px 12px;
  margin: 0 0 8px;
}
dt {
  color: var(--muted);
}
dd {
  margin: 0;
}
.bad {
  font-weight: 600;
  color: var(--madder);
}
@media (max-width: 1020px) {
  .facts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
