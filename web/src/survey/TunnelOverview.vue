<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { Analysis, Design } from '@/api/types'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import PictureButton from '@/ui/PictureButton.vue'
import SelectField from '@/ui/SelectField.vue'
import { useVisibleRows } from '@/ui/useVisibleRows'
import { GROUPINGS, overviewOf, type Grouping, type OverviewGroup, type OverviewTunnel } from './overview'

/** All tunnels of an estate, a strip each, in groups that fold. */
const props = defineProps<{ design: Design; analysis: Analysis | undefined }>()
const LINE_PX = 26

const grouping = ref<Grouping>('hub')
const sought = ref('')
const folded = ref(new Set<string>())
const scroller = useTemplateRef<HTMLElement>('scroller')

const groups = computed(() => overviewOf(props.design, props.analysis, grouping.value, sought.value))
type Line = { key: string; group?: OverviewGroup; strip?: OverviewTunnel }
const lines = computed<Line[]>(() =>
  groups.value.flatMap((group) => [
    { key: `group ${group.title}`, group },
    ...(folded.value.has(group.title)
      ? []
      : group.tunnels.map((tunnel) => ({ key: tunnel.tunnel.id, strip: tunnel }))),
  ]),
)
const found = computed(() => groups.value.reduce((sum, group) => sum + group.tunnels.length, 0))
const { drawn, totalPx } = useVisibleRows({
  items: lines,
  scroller,
  heightPx: () => LINE_PX,
  beyond: 10,
})
function fold(title: string): void {
  const now = new Set(folded.value)
  if (!now.delete(title)) now.add(title)
  folded.value = now
}
</script>

<template>
  <section class="overview" aria-label="All tunnels">
    <div class="head">
      <slot />
      <SelectField v-model="grouping" label="Grouped" hide-label :options="GROUPINGS" />
      <ElInput
        v-model="sought"
        clearable
        placeholder="Tunnel or site …"
        aria-label="Tunnels or sites named"
      />
      <span class="muted" role="status">{{ found }} of {{ design.tunnels.length }} tunnels</span>
    </div>
    <div
      ref="scroller"
      class="scroller printed-whole"
      tabindex="0"
      role="group"
      aria-label="Tunnels in groups"
    >
      <div class="tall" :style="{ height: `${totalPx}px` }">
        <div
          v-for="{ item: { key, group, strip }, top } in drawn"
          :key="key"
          class="line"
          :style="{ transform: `translateY(${top}px)` }"
        >
          <PictureButton
            v-if="group"
            class="group"
            :aria-expanded="!folded.has(group.title)"
            @click="fold(group.title)"
          >
            <span aria-hidden="true">{{ folded.has(group.title) ? '▸' : '▾' }}</span> {{ group.title }}
            <span class="muted">{{ group.sound }} of {{ group.tunnels.length }} come up and stay</span>
          </PictureButton>
          <RouterLink
            v-else-if="strip"
            class="tunnel"
            :to="{ name: 'match', params: { designId: design.id, tunnelId: strip.tunnel.id } }"
          >
            <span class="name">{{ strip.tunnel.name }}</span>
            <ForecastStrip v-if="strip.forecast" class="strip" :forecast="strip.forecast" compact />
            <span class="muted sentence" :title="strip.forecast?.sentence">{{
              strip.forecast?.sentence
            }}</span>
          </RouterLink>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.overview {
  display: flex;
  flex-direction: column;
  gap: 6px;
  height: 320px;
  padding: 4px 16px 8px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
}
.head .el-input {
  --el-input-width: 200px;
}
.scroller {
  flex: 1;
  overflow: auto;
}
.tall {
  position: relative;
}
.line {
  position: absolute;
  width: 100%;
  height: 26px;
}
.group {
  width: 100%;
  padding: 4px 0;
  font-weight: 600;
}
.group .muted {
  margin-left: 8px;
  font-weight: 400;
}
.tunnel {
  display: grid;
  grid-template-columns: 200px 190px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
  padding: 3px 0 3px 16px;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 1px solid var(--line);
}
.tunnel:hover {
  background: var(--verdigris-wash);
}
.name,
.sentence {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
