<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, toRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Analysis, Design } from '@/api/types'
import PictureTable from '@/ui/PictureTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { words } from '@/ui/words'
import { useNeighbourhood } from './useNeighbourhood'
import { useSpanChart } from './useSpanChart'

/** A site with what it is joined to: as many as there is room for, and the rest counted. */
const props = defineProps<{ design: Design; analysis: Analysis | undefined }>()
const route = useRoute()
const router = useRouter()
const box = ref<HTMLElement>()
const { width } = useElementSize(box)
const room = computed(() => Math.max(320, Math.floor(width.value)))
const asked = computed(() => String(route.query.around ?? ''))
const near = useNeighbourhood(toRef(props, 'design'), toRef(props, 'analysis'), asked, room)
const { focus, shown, hidden, pages, page, neighbours, next } = near
const chart = useSpanChart(toRef(props, 'design'), toRef(props, 'analysis'), room, shown)
const { arcs, piers, ties, baselineY, heightPx, widthPx, pierHeight, titleY } = chart
const sites = computed(() => props.design.sites.map((site) => ({ value: site.id, label: site.name })))

function look(siteId: string): void {
  void router.replace({ query: { ...route.query, around: siteId } })
}
</script>

<template>
  <figure ref="box" class="spans" aria-label="Sites and the tunnels between them">
    <figcaption class="about">
      <slot />
      <SelectField label="Around" :model-value="focus" :options="sites" @update:model-value="look" />
      <span v-if="hidden" class="muted">
        {{ neighbours.length }} joined to it; {{ hidden }} of {{ design.sites.length }} sites are not shown
        here.
      </span>
      <ElButton v-if="pages > 1" @click="next">Next of them ({{ page + 1 }} of {{ pages }})</ElButton>
    </figcaption>
    <svg :width="widthPx" :height="heightPx" :viewBox="`0 0 ${widthPx} ${heightPx}`">
      <line class="ground" x1="0" :x2="widthPx" :y1="baselineY" :y2="baselineY" />
      <path v-for="tie in ties" :key="tie.key" class="tie" :d="tie.path" />
      <text v-for="tie in ties" :key="`${tie.key} text`" class="tie-text figures" :x="tie.x" :y="tie.y">
        {{ tie.text }}
      </text>
      <g v-for="pier in piers" :key="pier.id" class="pier">
        <rect :x="pier.x - 5" :y="baselineY - pierHeight" width="10" :height="pierHeight" />
        <a href="#" :aria-label="`Look around ${pier.name}`" @click.prevent="look(pier.id)">
          <text class="name" :class="{ focus: pier.id === focus }" :x="pier.x" :y="baselineY + titleY - 16">
            {{ pier.name }}
          </text>
        </a>
        <text class="kind" :x="pier.x" :y="baselineY + titleY - 1">{{ words(pier.kind) }}</text>
        <text
          v-for="network in pier.networks"
          :key="network.id"
          class="network"
          :class="{ collides: network.collides }"
          :x="pier.x"
          :y="network.y"
        >
          <tspan class="figures">{{ network.prefix }}</tspan>
          <title>{{ network.name }}{{ network.zone ? `, isolated: ${network.zone}` : '' }}</title>
        </text>
        <text v-if="pier.more" class="kind" :x="pier.x" :y="pier.moreY">and {{ pier.more }} more</text>
      </g>
      <RouterLink
        v-for="arc in arcs"
        :key="arc.tunnel.id"
        v-slot="{ href, navigate }"
        custom
        :to="{ name: 'match', params: { designId: design.id, tunnelId: arc.tunnel.id } }"
      >
        <a
          :href="href"
          class="arc"
          :class="arc.look"
          :aria-label="`${arc.tunnel.name}: ${arc.state}`"
          @click="navigate"
        >
          <title>{{ arc.sentence }}</title>
          <path class="reach" :d="arc.leftHalf" />
          <path class="reach" :d="arc.rightHalf" />
          <path class="line" :d="arc.leftHalf" />
          <path class="line" :d="arc.rightHalf" />
        </a>
      </RouterLink>
      <g aria-hidden="true">
        <RouterLink
          v-for="arc in arcs"
          :key="arc.tunnel.id"
          tabindex="-1"
          :to="{ name: 'match', params: { designId: design.id, tunnelId: arc.tunnel.id } }"
        >
          <text class="arc-name" :class="arc.look" :x="arc.crown.x" :y="arc.crown.y - 7">
            {{ arc.tunnel.name }}
          </text>
        </RouterLink>
      </g>
    </svg>
    <PictureTable class="visually-hidden" caption="Tunnels">
      <tbody>
        <tr v-for="arc in arcs" :key="arc.tunnel.id">
          <th scope="row">{{ arc.tunnel.name }}</th>
          <td>{{ arc.sentence }}</td>
        </tr>
      </tbody>
    </PictureTable>
  </figure>
</template>

<style scoped>
.spans {
  position: relative;
  margin: 0;
  overflow-x: auto;
  overflow-y: hidden;
}
svg {
  display: block;
}
text {
  fill: var(--ink);
  font-size: 12px;
  text-anchor: middle;
}
.ground {
  stroke: var(--muted);
  stroke-width: 1.5;
}
.pier rect {
  fill: var(--muted);
}
.pier .name {
  font-weight: 600;
}
.pier .name.focus {
  fill: var(--verdigris);
}
.pier .kind {
  fill: var(--muted);
  font-size: 11px;
}
.network.collides {
  fill: var(--madder);
  font-weight: 500;
}
.tie {
  fill: none;
  stroke: var(--madder);
  stroke-width: 1.5;
}
.tie-text {
  fill: var(--madder);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
}
.arc .line {
  fill: none;
  stroke: var(--verdigris);
  stroke-width: 3;
}
.arc .reach {
  fill: none;
  stroke: transparent;
  stroke-width: 14;
}
.about {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  padding: 4px 16px 0;
}
.arc-name {
  font-weight: 500;
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
}
.arc.broken .line {
  stroke: var(--madder);
}
.arc-name.broken {
  fill: var(--madder);
}
.arc.hatched .line {
  stroke: var(--ochre);
  stroke-width: 6;
  stroke-dasharray: 2 3;
}
.arc.dashed .line {
  stroke: var(--slate);
  stroke-dasharray: 9 6;
}
.arc:hover .line,
.arc:focus-visible .line {
  stroke-width: 5;
}
</style>
