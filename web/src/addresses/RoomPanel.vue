<script setup lang="ts">
import { computed } from 'vue'
import type { Usage } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

/** Utilisation: how full supernets and sites are, and what keeps a site from being summarised. */
const props = defineProps<{ usage: Usage | undefined }>()
const { design } = useOpenDesign()

const siteName = computed(() => new Map((design.value?.sites ?? []).map((site) => [site.id, site.name])))
const networkName = computed(
  () =>
    new Map(
      (design.value?.networks ?? []).map((one) => [
        one.id,
        `${siteName.value.get(one.site_id)}: ${one.name} ${one.prefix}`,
      ]),
    ),
)
const percent = (share: number) => (share > 0 && share < 0.001 ? '<0.1 %' : `${(share * 100).toFixed(1)} %`)
const MOST_NAMED = 3

function broken(one: Usage['sites'][number]): string {
  const names = one.broken_by.slice(0, MOST_NAMED).map((id) => networkName.value.get(id) ?? id)
  return (
    names.join(', ') + (one.broken_count > MOST_NAMED ? ` and ${one.broken_count - MOST_NAMED} more` : '')
  )
}
const sites = computed(() => props.usage?.sites ?? [])
</script>

<template>
  <div class="room">
    <table>
      <caption>
        Supernets
      </caption>
      <thead>
        <tr>
          <th>Supernet</th>
          <th>Used or reserved</th>
          <th>Free blocks by size, each with the lowest of them</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in usage?.supernets" :key="one.prefix">
          <td class="figures">{{ one.prefix }}</td>
          <td class="figures">{{ percent(one.used_share) }}</td>
          <td class="figures sizes">
            <span v-for="size in one.free" :key="size.length"
              >{{ size.count }} × /{{ size.length }} <span class="muted">{{ size.first }}</span></span
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="usage && !usage.supernets.length" class="muted">
      No supernets are given yet: without them nothing is known to be free.
      <RouterLink :to="{ name: 'survey', params: { designId: design?.id, grid: 'design' } }"
        >Give them</RouterLink
      >
    </p>
    <table>
      <caption>
        Sites
      </caption>
      <thead>
        <tr>
          <th>Site</th>
          <th>Networks</th>
          <th>Summary</th>
          <th>Of it used</th>
          <th>Broken by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in sites" :key="one.site_id + one.family">
          <td>{{ siteName.get(one.site_id) }}</td>
          <td class="figures">{{ one.networks }}</td>
          <td class="figures">{{ one.summary }}</td>
          <td class="figures">{{ percent(one.used_share) }}</td>
          <td :class="{ broken: one.broken_count }">{{ broken(one) || '—' }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.room {
  padding: 8px 16px;
}
table {
  width: 100%;
  margin-bottom: 12px;
  border-collapse: collapse;
}
caption {
  padding: 4px 0;
  font-weight: 600;
  text-align: left;
}
th,
td {
  padding: 3px 12px 3px 0;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
th {
  font-size: 12px;
  font-weight: 500;
  color: var(--muted);
}
.sizes > span {
  display: inline-block;
  margin-right: 14px;
}
.broken {
  color: var(--ochre);
}
</style>
