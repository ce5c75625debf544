<script setup lang="ts">
import { computed } from 'vue'
import type { WaysOut } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useWaysOut } from './useSpace'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** The cheapest set of moves that leaves no collision, what each costs, and what was compared. */
const emit = defineEmits<{ open: [panel: string, id: string] }>()
const session = useOpenDesign()
const { design, change } = session
const { data: found, isPending } = useWaysOut(session)

const networkName = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.networks ?? []).map((network) => [
      network.id,
      `${sites.get(network.site_id)}: ${network.name}`,
    ]),
  )
})
const costOf = computed(() => new Map((found.value?.costs ?? []).map((cost) => [cost.network_id, cost])))
const named = (ids: readonly string[]) => ids.map((id) => networkName.value.get(id) ?? id).join(' and ')

interface Member {
  id: string
  name: string
  points: number | undefined
  cost: WaysOut['costs'][number] | undefined
  moves: boolean
}
function membersOf(group: WaysOut['groups'][number]): Member[] {
  return group.network_ids.map((id) => ({
    id,
    name: networkName.value.get(id) ?? id,
    points: costOf.value.get(id)?.total,
    cost: costOf.value.get(id),
    moves: group.best.network_ids.includes(id),
  }))
}
function proof(group: WaysOut['groups'][number]): string {
  const compared = `${group.compared} partial sets were compared`
  return group.exact
    ? `Proven: ${compared}, none that is left out costs less.`
    : `Not proven: ${compared}; no set costs less than ${group.bound}.`
}
async function carryOut(): Promise<void> {
  if (found.value) await change(found.value.operations, 'Leave all collisions by the cheapest way')
}

const COLUMNS: TableColumn[] = [
  { name: 'name', title: 'Network', minWidth: 140 },
  { name: 'points', title: 'Points', width: 70, figures: true },
  { name: 'made', title: 'Made of', minWidth: 360 },
  { name: 'renumber', title: 'Renumber', width: 90 },
]
</script>

<template>
  <section class="out" aria-label="Resolve collisions">
    <p v-if="isPending" class="muted">Comparing …</p>
    <p v-else-if="found && !found.groups.length">Nothing collides: there is nothing to leave.</p>
    <template v-else-if="found">
      <div class="best">
        <h2>{{ found.total }} points</h2>
        <ul>
          <li v-for="word in found.words" :key="word">{{ word }}</li>
        </ul>
        <ElButton type="primary" :disabled="!found.operations.length" @click="carryOut">
          Do all of it as one change
        </ElButton>
      </div>
      <article v-for="group in found.groups" :key="group.network_ids.join()">
        <h3>
          {{ group.collisions === 1 ? '1 collision' : `${group.collisions} collisions` }}: move
          {{ named(group.best.network_ids) }}
          <span class="muted figures">{{ group.best.total }} points</span>
        </h3>
        <p class="muted">{{ proof(group) }}</p>
        <DataTable
          :rows="membersOf(group)"
          :columns="COLUMNS"
          :row-class="(row) => (row.moves ? 'moves' : '')"
          label="What the moves cost"
          ><template #made="{ row }">
            <span v-for="item in row.cost?.items" :key="item.words" class="item"
              >{{ item.words }} <span class="figures muted">{{ item.points }}</span></span
            >
          </template>
          <template #renumber="{ row }">
            <ElButton :aria-label="`Plan the move of ${row.name}`" @click="emit('open', 'renumber', row.id)">
              Plan …
            </ElButton>
          </template></DataTable
        >
        <p v-if="group.alternatives.length">
          Next best:
          <span v-for="way in group.alternatives" :key="way.network_ids.join()" class="item"
            >{{ named(way.network_ids) }} <span class="figures muted">{{ way.total }}</span></span
          >
        </p>
      </article>
    </template>
  </section>
</template>

<style scoped>
.out {
  padding: 8px 16px;
}
.best {
  display: flex;
  gap: 16px;
  align-items: center;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--line);
}
.best h2 {
  white-space: nowrap;
}
ul {
  flex: 1;
  margin: 0;
  padding-left: 16px;
}
article {
  padding: 8px 0;
}
:deep(.moves td:first-child) {
  font-weight: 600;
}
.item {
  display: inline-block;
  margin-right: 12px;
}
</style>
