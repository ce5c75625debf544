<script setup lang="ts">
import { computed } from 'vue'
import type { CloudNetworkShown } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

/** One cloud network: its blocks, the subnets with the table that each uses, and which routes and rules the cloud holds. */
const props = defineProps<{ network: CloudNetworkShown; lacking: ReadonlySet<string> }>()
const { design } = useOpenDesign()
const nameOf = (id: string) => design.value?.networks.find((network) => network.id === id)?.name ?? id
/** What no step is left for is in the cloud as it is intended. */
const isHeld = (resource: string) => !props.lacking.has(`${resource}@${props.network.id}`)
const tables = computed(() =>
  props.network.intended.tables.map((table) => ({
    ...table,
    title: table.id === 'main' ? 'Main table' : `Own table of ${nameOf(table.id)}`,
    users: props.network.intended.subnets
      .filter((subnet) => subnet.table === table.id)
      .map((subnet) => nameOf(subnet.id)),
    routes: table.routes.map((route) => ({
      ...route,
      by: route.peering ? 'by the peering' : 'by the gateway',
      isHeld: isHeld(`route/${table.id}/${route.prefix}`),
    })),
  })),
)
const rules = computed(() =>
  props.network.intended.rules.map((rule) => ({
    id: rule.id,
    words: `${rule.level} ${rule.direction}: ${(rule.services ?? []).join(', ') || 'everything'} ${
      rule.direction === 'in' ? 'from' : 'to'
    } ${(rule.far ?? []).join(', ') || 'anywhere'}`,
    isHeld: isHeld(`rule/${rule.id}`),
  })),
)
const mark = (isHeld: boolean) => (!props.network.held ? '?' : isHeld ? '✓' : '–')
const heldWords = (isHeld: boolean) =>
  !props.network.held ? 'not read yet' : isHeld ? 'in the cloud' : 'not in the cloud'
</script>

<template>
  <article class="card" :aria-label="network.name">
    <h3>{{ network.name }}</h3>
    <p class="muted">
      account {{ network.intended.account
      }}{{ network.intended.region && `, region ${network.intended.region}` }}
    </p>
    <p class="figures">{{ network.intended.blocks.join(', ') }}</p>
    <ul class="subnets" aria-label="Subnets">
      <li v-for="subnet in network.intended.subnets" :key="subnet.id">
        {{ nameOf(subnet.id) }} <span class="figures">{{ subnet.prefix }}</span>
      </li>
    </ul>
    <template v-for="table in tables" :key="table.id">
      <h4>
        {{ table.title }}
        <span v-if="table.id === 'main'" class="muted">for {{ table.users.join(', ') || 'no subnet' }}</span>
      </h4>
      <ul>
        <li
          v-for="route in table.routes"
          :key="route.prefix"
          :class="{ lacking: network.held && !route.isHeld }"
        >
          <span class="mark" :title="heldWords(route.isHeld)">{{ mark(route.isHeld) }}</span>
          <span class="figures">{{ route.prefix }}</span> {{ route.by }}
          <span class="visually-hidden">{{ heldWords(route.isHeld) }}</span>
        </li>
        <li v-if="!table.routes.length" class="muted">no route</li>
      </ul>
    </template>
    <h4>Rules</h4>
    <ul>
      <li v-for="rule in rules" :key="rule.id" :class="{ lacking: network.held && !rule.isHeld }">
        <span class="mark" :title="heldWords(rule.isHeld)">{{ mark(rule.isHeld) }}</span>
        <span class="figures">{{ rule.words }}</span>
        <span class="visually-hidden">{{ heldWords(rule.isHeld) }}</span>
      </li>
      <li v-if="!rules.length" class="muted">none: everything passes</li>
    </ul>
  </article>
</template>

<style scoped>
.card {
  padding: 8px 12px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
h3 {
  margin: 0;
  font-size: 15px;
}
h4 {
  margin: 8px 0 2px;
  font-size: 12px;
  font-weight: 600;
}
p {
  margin: 0;
}
ul {
  padding: 0;
  margin: 0;
  list-style: none;
}
.subnets {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 6px;
}
.subnets li {
  padding: 2px 6px;
  font-size: 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.mark {
  display: inline-block;
  width: 14px;
  font-weight: 600;
}
.lacking,
.lacking .mark {
  color: var(--madder);
}
</style>
