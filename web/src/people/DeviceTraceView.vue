<script setup lang="ts">
import { computed } from 'vue'
import type { DeviceTrace } from '@/api/types'
import WayLadder from '@/paths/WayLadder.vue'
import SendsMark from './SendsMark.vue'
import { SENDS_WORDS } from './usePeople'

/** One packet of a device, from the question whether it dials at all to the way back, and with the tunnel gone. */
const props = defineProps<{ traced: DeviceTrace }>()
const capital = (text: string) => `${text[0]?.toUpperCase() ?? ''}${text.slice(1)}`
const ended = (text: string) => (text.endsWith('.') ? text : `${text}.`)
const steps = computed(() => {
  const { traced } = props
  const resolver = traced.resolver
  return [
    { title: `The device, ${traced.place}`, says: capital(traced.dials), by: `in ${traced.prefix}` },
    ...(resolver
      ? [
          {
            title: `Asks ${resolver.resolver} for ${resolver.name}`,
            says: resolver.address ? `Answers ${resolver.address}` : 'No answer',
            by: resolver.why,
          },
        ]
      : []),
    { title: capital(SENDS_WORDS[traced.way]), says: traced.destination || 'nowhere', by: traced.why },
  ]
})
</script>

<template>
  <section class="traced" aria-label="Followed">
    <p class="verdict" :class="{ short: !traced.arrives }" role="status">
      <SendsMark :way="traced.way" /> {{ traced.verdict }}
    </p>
    <div class="ways">
      <section aria-label="On the device">
        <h3>On the device</h3>
        <ol>
          <li v-for="step in steps" :key="step.title">
            <p class="where">{{ step.title }}</p>
            <p>{{ step.says }}</p>
            <p class="muted">{{ step.by }}</p>
          </li>
        </ol>
        <p v-for="check in traced.inside" :key="check.test" class="muted">
          {{ check.test }}: {{ check.says_inside ? 'inside' : 'outside' }}, {{ check.why }}
        </p>
        <p class="dropped">
          Once the tunnel has dropped: <SendsMark :way="traced.dropped_way" small />
          {{ SENDS_WORDS[traced.dropped_way] }}. {{ capital(traced.dropped) }}.
        </p>
        <p v-if="traced.leased" class="dropped">
          Until its lease is renewed: <SendsMark :way="traced.leased.way" small />
          {{ ' ' }}
          <strong v-if="traced.leased.differs" class="short">{{ SENDS_WORDS[traced.leased.way] }}.</strong>
          <template v-else>the same way.</template>
          {{ capital(traced.leased.why) }}. {{ ended(traced.leased.verdict) }}
        </p>
        <p v-for="lack in traced.cannot" :key="lack" class="short">This family can’t do: {{ lack }}.</p>
      </section>
      <div v-if="traced.beyond" class="beyond">
        <WayLadder title="From the gateway on" :way="traced.beyond.forward" />
        <WayLadder title="And back" :way="traced.beyond.back" missing="There is nothing to come back." />
      </div>
    </div>
  </section>
</template>

<style scoped>
.verdict {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 0;
  font-size: 15px;
  font-weight: 500;
  color: var(--verdigris);
}
.short {
  color: var(--madder);
}
.ways {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 12px;
}
ol {
  padding-left: 18px;
  margin: 4px 0;
}
.beyond {
  display: grid;
  gap: 8px;
  align-content: start;
}
.where {
  font-weight: 600;
}
.dropped {
  margin-top: 6px;
}
</style>
