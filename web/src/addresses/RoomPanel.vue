<script setup lang="ts">
import { computed } from 'vue'
import type { Usage } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** Utilisation: how full supernets and sites are, and what keeps a site from being summarised. */
defineProps<{ usage: Usage | undefined }>()
const { design } = useOpenDesign()

const siteName = computed(() => new Map((design.value?.sites ?? []).map((site) => [site.id, site.name])))
const networkName = computed(
  () =>
    new Map(
      (design.value?.networks ?? []).map((network) => [
        network.id,
        `${siteName.value.get(network.site_id)}: ${network.name} ${network.prefix}`,
      ]),
    ),
)
const percent = (share: number) => (share > 0 && share < 0.001 ? '<0.1 %' : `${(share * 100).toFixed(1)} %`)
const MOST_NAMED = 3

type SiteUse = Usage['sites'][number]

function broken(use: SiteUse): string {
  const names = use.broken_by.slice(0, MOST_NAMED).map((id) => networkName.value.get(id) ?? id)
  return (
    names.join(', ') + (use.broken_count > MOST_NAMED ? ` and ${use.broken_count - MOST_NAMED} more` : '')
  )
}

const SUPERNET_COLUMNS: TableColumn[] = [
  { name: 'prefix', title: 'Supernet', width: 170, figures: true },
  { name: 'used', title: 'Used or reserved', width: 120, figures: true },
  { name: 'free', title: 'Free blocks by size, each with the lowest of them', figures: true },
]
const SITE_COLUMNS: TableColumn[] = [
  { name: 'site', title: 'Site', minWidth: 140 },
  { name: 'networks', title: 'Networks', width: 90, figures: true },
  { name: 'summary', title: 'Summary', width: 170, figures: true },
  { name: 'of', title: 'Of it used', width: 90, figures: true },
  { name: 'broken', title: 'Broken by', minWidth: 260 },
]
</script>

<template>
  <div class="room">
    <h3>Supernets</h3>
    <DataTable :rows="usage?.supernets ?? []" :columns="SUPERNET_COLUMNS" label="Supernets" empty="None yet"
      ><template #used="{ row }">
        {{ percent(row.used_share) }}
      </template>
      <template #free="{ row }">
        <span v-for="size in row.free" :key="size.length" class="size"
          >{{ size.count }} × /{{ size.length }} <span class="muted">{{ size.first }}</span></span
        >
      </template></DataTable
    >
    <p v-if="usage && !usage.supernets.length" class="muted">
      No supernets are given yet: without them nothing is known to be free.
      <RouterLink :to="{ name: 'survey', params: { designId: design?.id, grid: 'design' } }"
        >Give them</RouterLink
      >
    </p>
    <h3>Sites</h3>
    <DataTable :rows="usage?.sites ?? []" :columns="SITE_COLUMNS" label="Sites" empty="None yet"
      ><template #site="{ row }">
        {{ siteName.get(row.site_id) }}
      </template>
      <template #of="{ row }">
        {{ percent(row.used_share) }}
      </template>
      <template #broken="{ row }">
        <span :class="{ broken: row.broken_count }">{{ broken(row) || '—' }}</span>
      </template></DataTable
    >
  </div>
</template>

<style scoped>
.room {
  padding: 8px 16px;
}
.el-table {
  margin-bottom: 12px;
}
.size {
  display: inline-block;
  margin-right: 14px;
}
.broken {
  color: var(--ochre);
}
</style>
