<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { REACH_WORDS, type Reach } from './reach'
import { useDifference } from './usePaths'
import { useSupposed } from './useSupposed'

/** Which pairs of networks fare otherwise at one revision than at an earlier one. */
const session = useOpenDesign()
const { design, revision } = session
const { service, allUp, asked, set } = useSupposed()
const route = useRoute()
const router = useRouter()
const since = computed(() => {
  const asked = Number(route.query.since ?? 0)
  return Number.isInteger(asked) && asked >= 0 ? Math.min(asked, revision.value ?? 0) : 0
})
const until = computed(() => (asked('until') ? Number(asked('until')) : null))
const { data, error } = useDifference(session, since, until, service, allUp)

const names = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.networks ?? []).map((one) => [one.id, `${sites.get(one.site_id)}: ${one.name}`]),
  )
})
const words = (reach: string) => REACH_WORDS[reach as Reach] ?? 'not there'
const nameOf = (id: string) => names.value.get(id) ?? id
function look(from: string, to: string): void {
  void router.push({
    name: 'paths',
    params: { ...route.params, panel: '' },
    query: { ...route.query, from, to },
  })
}
</script>

<template>
  <section class="difference plain-fields" aria-label="Compare revisions">
    <div class="head">
      <label>
        Since revision
        <input
          class="figures"
          type="number"
          min="0"
          :max="revision"
          :value="since"
          @change="set({ since: ($event.target as HTMLInputElement).value })"
        />
      </label>
      <label>
        until
        <input
          class="figures"
          type="number"
          min="0"
          :max="revision"
          :value="until ?? revision"
          @change="set({ until: ($event.target as HTMLInputElement).value })"
        />
        <span class="muted">the design is at {{ revision }}</span>
      </label>
    </div>
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-else-if="data && !data.cells.length">Every pair of networks fares as it did.</p>
    <table v-else-if="data" class="plain-table">
      <thead>
        <tr>
          <th>From</th>
          <th>To</th>
          <th>Then</th>
          <th>Now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="cell in data.cells" :key="cell.source_id + cell.destination_id">
          <td>{{ nameOf(cell.source_id) }}</td>
          <td>
            <button class="link" type="button" @click="look(cell.source_id, cell.destination_id)">
              {{ nameOf(cell.destination_id) }}
            </button>
          </td>
          <td>{{ words(cell.before) }}</td>
          <td>
            <strong>{{ words(cell.after) }}</strong>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.difference {
  padding: 10px 16px;
}
.head {
  display: flex;
  gap: 12px;
  padding-bottom: 8px;
}
input {
  width: 84px;
}
.link {
  padding: 0;
  color: var(--verdigris);
  cursor: pointer;
  background: none;
  border: 0;
}
</style>
