<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import GroupTables from '@/grids/GroupTables.vue'
import ViewTabs from '@/ui/ViewTabs.vue'
import DifferencePanel from './DifferencePanel.vue'
import ExitsPanel from './ExitsPanel.vue'
import LinksPanel from './LinksPanel.vue'
import MatrixPanel from './MatrixPanel.vue'
import MoveHostPanel from './MoveHostPanel.vue'
import RoutesPanel from './RoutesPanel.vue'
import RulesPanel from './RulesPanel.vue'
import SupposeBar from './SupposeBar.vue'
import SweepPanel from './SweepPanel.vue'
import TracePanel from './TracePanel.vue'

/** What goes where, and back: the matrix with both ways of one flow, and what decides about them. */
const PANELS = {
  flows: 'Reachability',
  failures: 'Failures',
  tables: 'Tables',
  rules: 'Rules',
  exits: 'Exits',
  links: 'Links and classes',
  routes: 'Routes needed',
  host: 'Move a host',
  since: 'Compare revisions',
} as const
const SUPPOSING: readonly string[] = ['flows', 'links', 'host']

const route = useRoute()
const router = useRouter()
const { design } = useOpenDesign()
const panel = computed(() => String(route.params.panel || 'flows'))
const objectId = computed(() => String(route.params.objectId ?? ''))

function open(name: string, id = ''): void {
  const params = { designId: design.value?.id, panel: name === 'flows' ? '' : name, objectId: id }
  void router.push({ name: 'paths', params, query: route.query })
}
</script>

<template>
  <div v-if="design" class="paths">
    <ViewTabs
      class="panels"
      :tabs="PANELS"
      label="Paths"
      :model-value="panel"
      @update:model-value="open($event)"
    >
      <SupposeBar v-if="SUPPOSING.includes(panel)" />
      <p v-if="!design.networks.length" class="empty">
        There are no networks yet. Add sites, gateways and networks in the Survey, and what reaches what is
        told here.
      </p>
      <GroupTables
        v-else-if="panel === 'tables'"
        view="paths"
        :members="objectId"
        @open="open('tables', $event)"
      />
      <ExitsPanel v-else-if="panel === 'exits'" />
      <SweepPanel v-else-if="panel === 'failures'" />
      <RulesPanel v-else-if="panel === 'rules'" :gateway-id="objectId" @open="open('rules', $event)" />
      <LinksPanel v-else-if="panel === 'links'" />
      <RoutesPanel v-else-if="panel === 'routes'" />
      <MoveHostPanel v-else-if="panel === 'host'" />
      <DifferencePanel v-else-if="panel === 'since'" />
      <template v-else>
        <TracePanel />
        <MatrixPanel />
      </template>
    </ViewTabs>
  </div>
</template>

<style scoped>
.paths {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.panels {
  flex: 1;
  min-height: 0;
}
.empty {
  padding: 16px;
}
</style>
