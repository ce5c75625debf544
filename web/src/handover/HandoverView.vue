<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import ViewTabs from '@/ui/ViewTabs.vue'
import DevicesPanel from './DevicesPanel.vue'
import PlanPanel from './PlanPanel.vue'
import RunsPanel from './RunsPanel.vue'
import SheetsPanel from './SheetsPanel.vue'
import TemplatesPanel from './TemplatesPanel.vue'

/** The last third of the job: in which order, who enters what, and whether the device has kept it. */
const PANELS = {
  plan: 'Plan',
  runs: 'Runs',
  sheets: 'Sheets',
  devices: 'Devices',
  templates: 'Templates',
} as const

const route = useRoute()
const router = useRouter()
const { design } = useOpenDesign()
const panel = computed(() => String(route.params.panel || 'plan'))
const objectId = computed(() => String(route.params.objectId ?? ''))

function open(name: string, id = ''): void {
  const params = { designId: design.value?.id, panel: name === 'plan' ? '' : name, objectId: id }
  const query = name === panel.value ? route.query : {}
  void router.push({ name: 'handover', params, query })
}
</script>

<template>
  <div v-if="design" class="handover">
    <ViewTabs
      class="panels"
      :tabs="PANELS"
      label="Hand over"
      :model-value="panel"
      @update:model-value="open($event)"
    >
      <RunsPanel v-if="panel === 'runs'" :run-id="objectId" />
      <SheetsPanel v-else-if="panel === 'sheets'" :tunnel-id="objectId" @open="open('sheets', $event)" />
      <DevicesPanel v-else-if="panel === 'devices'" :gateway-id="objectId" />
      <TemplatesPanel
        v-else-if="panel === 'templates'"
        :key="objectId"
        :template-id="objectId"
        @open="open('templates', $event)"
      />
      <PlanPanel v-else @walk="open('runs', $event)" />
    </ViewTabs>
  </div>
</template>

<style scoped>
.handover {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.panels {
  flex: 1;
  min-height: 0;
}
</style>
