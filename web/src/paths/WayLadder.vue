<script setup lang="ts">
import { computed } from 'vue'
import type { Way } from '@/api/types'

/** One direction of a flow, hop by hop, each with what decided. */
const props = defineProps<{ title: string; way: Way | null; missing?: string }>()

const END_WORDS: Record<Way['end'], string> = {
  arrives: 'Arrives',
  held: 'Held back',
  lost: 'Lost',
  unprotected: 'Leaves unprotected',
  internet: 'Leaves to the Internet',
  unknown: 'Not known',
}
const end = computed(() => (props.way ? END_WORDS[props.way.end] : ''))
const reason = computed(() => {
  const text = props.way?.reason ?? ''
  return text ? `${text[0]?.toUpperCase()}${text.slice(1)}.` : ''
})
</script>

<template>
  <section class="ladder" :aria-label="title">
    <h3>
      {{ title }}
      <span v-if="way" class="figures muted">{{ way.source }} → {{ way.destination }}</span>
    </h3>
    <p v-if="!way" class="muted">{{ missing }}</p>
    <ol v-else>
      <li v-for="(hop, k) in way.hops" :key="k">
        <p class="where">{{ hop.where }}</p>
        <p class="decision">{{ hop.decision }}</p>
        <p class="by muted">{{ hop.by }}</p>
        <p v-if="hop.translated" class="note">Translated: {{ hop.translated }}</p>
        <p v-if="hop.filtered" class="note">Filter: {{ hop.filtered }}</p>
        <p v-if="hop.stateless" class="note">Keeps no state: each packet by itself</p>
        <p v-if="hop.marked" class="note">Marked as {{ hop.marked }} from here on</p>
        <p v-if="hop.inner_mtu" class="note figures">up to {{ hop.inner_mtu }} octets inside</p>
      </li>
      <li class="end" :class="way.end">
        <p class="where">{{ end }}</p>
        <p v-if="reason" class="by">{{ reason }}</p>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.ladder {
  flex: 1 1 280px;
  min-width: 0;
}
h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  align-items: baseline;
  margin-bottom: 6px;
}
ol {
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  position: relative;
  padding: 0 0 10px 18px;
  border-left: 2px solid var(--verdigris);
  margin-left: 5px;
}
li::before {
  position: absolute;
  top: 3px;
  left: -6px;
  width: 10px;
  height: 10px;
  content: '';
  background: var(--card);
  border: 2px solid var(--verdigris);
  border-radius: 50%;
}
.end {
  padding-bottom: 0;
  border-color: transparent;
}
.end::before {
  background: var(--verdigris);
}
.end.lost::before,
.end.held::before,
.end.unknown::before {
  background: var(--card);
  border-color: var(--slate);
}
.end.unprotected::before {
  background: var(--madder);
  border-color: var(--madder);
}
.end.lost .where,
.end.unprotected .where {
  color: var(--madder);
}
.where {
  font-weight: 600;
}
.by,
.note {
  font-size: 12px;
  overflow-wrap: anywhere;
}
</style>
