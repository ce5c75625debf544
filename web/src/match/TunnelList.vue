<script setup lang="ts">
import { computed, reactive, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import { SEVERITIES, SEVERITY_TITLES } from '@/ui/words'
import SelectField from '@/ui/SelectField.vue'
import { useVisibleRows } from '@/ui/useVisibleRows'
import { filtered, NO_FILTER, STAGES } from './filter'
import AddTunnel from './AddTunnel.vue'
import SeveralTunnels from './SeveralTunnels.vue'

withDefaults(defineProps<{ view?: 'match' | 'rehearse' }>(), { view: 'match' })

const ROW_HEIGHT = 46
const FEW = 8 // so many need no filter
const STAGE_CHOICES = [
  { value: '', label: 'any stage' },
  ...STAGES.map((stage) => ({ value: stage, label: `troubled at ${stage}` })),
]
const SEVERITY_CHOICES = [
  { value: '', label: 'any finding' },
  ...SEVERITIES.map((severity) => ({ value: severity, label: SEVERITY_TITLES[severity].toLowerCase() })),
]

const route = useRoute()
const { design, analysis } = useOpenDesign()
const filter = reactive({ ...NO_FILTER })
const several = ref(false)
const scroller = useTemplateRef<HTMLElement>('scroller')

const total = computed(() => design.value?.tunnels.length ?? 0)
const listed = computed(() => (design.value ? filtered(design.value, analysis.value, filter) : []))
const allSites = computed(() => design.value?.sites ?? []) // the very same while no site changes, and so its choices
const sites = computed(() => [
  { value: '', label: 'any site' },
  ...allSites.value.map((site) => ({ value: site.id, label: site.name })),
])
const { rows, drawn, totalPx } = useVisibleRows({
  items: listed,
  scroller,
  heightPx: () => ROW_HEIGHT,
  beyond: 12,
})
/** The tunnel that is open is in sight. */
watch(
  () => [route.params.tunnelId, scroller.value],
  () => {
    const at = listed.value.findIndex(({ tunnel }) => tunnel.id === route.params.tunnelId)
    if (at >= 0 && scroller.value) rows.value.scrollToIndex(at)
  },
  { flush: 'post' },
)
</script>

<template>
  <nav class="tunnels" aria-label="Tunnels">
    <form v-if="total > FEW" class="filter" aria-label="Filter the tunnels" @submit.prevent>
      <ElInput v-model="filter.text" clearable placeholder="Name" aria-label="Name holds" />
      <SelectField v-model="filter.stage" label="Troubled at" hide-label stacked :options="STAGE_CHOICES" />
      <SelectField
        v-model="filter.severity"
        label="With findings"
        hide-label
        stacked
        :options="SEVERITY_CHOICES"
      />
      <SelectField v-model="filter.siteId" label="At site" hide-label stacked :options="sites" />
      <p class="muted" role="status">{{ listed.length }} of {{ total }}</p>
    </form>
    <div ref="scroller" class="scroller printed-whole" tabindex="-1">
      <ul :style="{ height: `${totalPx}px` }">
        <li
          v-for="{ item: { tunnel, forecast }, top } in drawn"
          :key="tunnel.id"
          :style="{ top: `${top}px` }"
        >
          <RouterLink
            class="tunnel"
            :to="{ name: view, params: { designId: design?.id, tunnelId: tunnel.id } }"
          >
            <span class="name">{{ tunnel.name }}</span>
            <ForecastStrip v-if="forecast" :forecast="forecast" compact />
          </RouterLink>
        </li>
      </ul>
    </div>
    <slot>
      <ElButton v-if="total > 1" @click="several = true">Edit several …</ElButton>
      <SeveralTunnels v-if="several" v-model="several" :tunnels="listed" />
      <AddTunnel />
    </slot>
  </nav>
</template>

<style scoped>
.tunnels {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
  padding: 12px 8px;
  border-right: 1px solid var(--line);
}
@media (max-width: 1020px) {
  .scroller {
    flex: none;
    height: 190px;
  }
}
.filter {
  display: grid;
  gap: 4px;
}
.scroller {
  flex: 1;
  min-height: 60px;
  overflow: auto;
}
ul {
  position: relative;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  position: absolute;
  width: 100%;
}
.tunnel {
  display: block;
  height: 44px;
  padding: 6px 8px;
  color: var(--ink);
  text-decoration: none;
  border-radius: 3px;
}
.name {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tunnel.router-link-active {
  font-weight: 600;
  background: var(--card);
  box-shadow: inset 0 0 0 1px var(--line);
}
@media print {
  .tunnels {
    display: none;
  }
}
</style>
