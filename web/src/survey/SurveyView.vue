<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { Problem } from '@/api/types'
import { membersOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'
import ObjectGrid, { type CellError } from './ObjectGrid.vue'
import PastePanel from './PastePanel.vue'
import SettingsForm from './SettingsForm.vue'
import SpanChart from './SpanChart.vue'
import { putRow, rowId, type GridRow } from './columns'
import { gridOf, GRIDS } from './grids'

const route = useRoute()
const { design, analysis, refusal, dismissRefusal, change } = useOpenDesign()
const pasted = ref<string | null>(null)

const grid = computed(() => gridOf(String(route.params.grid)) ?? gridOf('networks')!)
const settings = computed(() => route.params.grid === 'design')
const at = computed(() => String(route.query.at ?? ''))
const tabs = computed(() =>
  GRIDS.map((one) => ({ ...one, count: design.value ? membersOf(design.value, one.type).length : 0 })),
)
const empty = computed(() => design.value && !design.value.sites.length)

async function save(row: Record<string, unknown>): Promise<CellError[]> {
  if (!design.value) return []
  const taken = new Set(membersOf(design.value, grid.value.type).map((item) => item.id))
  const id = row.id ? String(row.id) : rowId(grid.value, row, taken)
  const note = `${row.id ? 'Edit' : 'Add'} ${grid.value.label} ${String(row.name || row.prefix)}`
  if (await change([putRow(grid.value, { ...row, id } as GridRow)], note)) return []
  const problem = refusal.value as Problem | null
  const errors = (problem?.errors ?? []).map((error) => ({
    field: error.pointer.split('/').at(-1) ?? '',
    reason: error.detail,
  }))
  if (errors.length) dismissRefusal() // it stands beside the cell
  return errors
}
async function remove(id: string): Promise<void> {
  const found = design.value && membersOf(design.value, grid.value.type).find((item) => item.id === id)
  await change(
    [{ op: 'remove', type: grid.value.type, id, cascade: true }],
    `Remove ${grid.value.label} ${found?.name || id}`,
  )
}
watch(
  () => grid.value.members,
  () => (pasted.value = null),
)
</script>

<template>
  <div v-if="design" class="survey">
    <SpanChart v-if="!empty" class="chart" :design="design" :analysis="analysis" />
    <p v-else class="first-step">
      Nothing is here yet. Type the first site below, or paste rows from a spreadsheet into <em>Networks</em>:
      <span class="figures">site, network, prefix</span>.
    </p>
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
      <button v-if="pasted === null && !settings" class="plain-button" type="button" @click="pasted = ''">
        Paste rows …
      </button>
    </div>
    <PastePanel
      v-if="pasted !== null"
      :key="grid.members"
      :grid="grid"
      :text="pasted"
      @close="pasted = null"
    />
    <div class="grid-room">
      <SettingsForm v-if="settings" :design="design" />
      <ObjectGrid
        v-else
        :grid="grid"
        :design="design"
        :at="at"
        :save="save"
        :remove="remove"
        @paste="pasted = $event"
      />
    </div>
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
.first-step {
  padding: 24px 16px;
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 0;
  align-items: center;
  padding: 8px 16px;
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
.tabs .plain-button {
  margin-left: auto;
}
.grid-room {
  flex: 1;
  min-height: 140px;
  padding: 0 16px 16px;
  overflow: auto;
}
</style>
