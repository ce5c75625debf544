<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { membersOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'
import GridPanel from '@/grids/GridPanel.vue'
import { gridOf, gridsOf } from '@/grids/grids'
import SettingsForm from './SettingsForm.vue'
import SpanChart from './SpanChart.vue'
import TunnelOverview from './TunnelOverview.vue'

const GRIDS = gridsOf('survey')

const route = useRoute()
const router = useRouter()
const { design, analysis } = useOpenDesign()
const grid = computed(() => gridOf(String(route.params.grid)) ?? gridOf('networks')!)
const settings = computed(() => route.params.grid === 'design')
const tabs = computed(() =>
  GRIDS.map((table) => ({ ...table, count: design.value ? membersOf(design.value, table.type).length : 0 })),
)
const MANY = 40 // tunnels: beyond, all of them are listed first
const chosen = ref<'near' | 'all' | null>(null)
const picture = computed({
  get: () => chosen.value ?? ((design.value?.tunnels.length ?? 0) > MANY ? 'all' : 'near'),
  set: (now) => (chosen.value = now),
})
const empty = computed(() => design.value && !design.value.sites.length)
/** An empty design begins with lines of sites; its grids are there for whoever asks for one. */
watchEffect(() => {
  if (empty.value && route.name === 'survey' && !route.params.grid)
    void router.replace({ name: 'start', params: route.params })
})
</script>

<template>
  <div v-if="design" class="survey">
    <template v-if="!empty">
      <component
        :is="picture === 'all' ? TunnelOverview : SpanChart"
        class="chart"
        :design="design"
        :analysis="analysis"
      >
        <ElRadioGroup v-model="picture" aria-label="What is pictured">
          <ElRadioButton value="near">A site and its neighbours</ElRadioButton>
          <ElRadioButton value="all">All tunnels</ElRadioButton>
        </ElRadioGroup>
        <RouterLink :to="{ name: 'start', params: { designId: design.id } }">Add sites</RouterLink>
        <RouterLink :to="{ name: 'connect', params: { designId: design.id } }">Connect sites</RouterLink>
      </component>
    </template>
    <div class="tabs">
      <RouterLink
        v-for="tab in tabs"
        :key="tab.members"
        :to="{ name: 'survey', params: { designId: design.id, grid: tab.members } }"
        :class="{ here: !settings && tab.members === grid.members }"
        :aria-current="!settings && tab.members === grid.members ? 'page' : undefined"
        >{{ tab.title }} <span class="figures muted">{{ tab.count }}</span></RouterLink
      >
      <RouterLink
        :to="{ name: 'survey', params: { designId: design.id, grid: 'design' } }"
        :class="{ here: settings }"
        :aria-current="settings ? 'page' : undefined"
        >Design</RouterLink
      >
    </div>
    <div v-if="settings" class="settings-room"><SettingsForm :design="design" /></div>
    <GridPanel v-else :key="grid.members" :grid="grid" />
  </div>
</template>

<style scoped>
.survey {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.chart {
  flex: none;
  padding: 4px 0 8px;
  border-bottom: 1px solid var(--line);
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 0;
  align-items: center;
  padding: 8px 16px 0;
}
.tabs a {
  padding: 3px 6px;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 2px solid transparent;
}
.tabs a.here {
  font-weight: 600;
  border-bottom-color: var(--verdigris);
}
.settings-room {
  flex: 1;
  min-height: 140px;
  padding: 8px 16px 16px;
  overflow: auto;
}
</style>
