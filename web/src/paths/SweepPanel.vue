<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Failure } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import PictureButton from '@/ui/PictureButton.vue'
import PictureTable from '@/ui/PictureTable.vue'
import { REACH_WORDS } from './reach'
import { useSweep } from './usePaths'
import { useSupposed } from './useSupposed'

/** Every single failure: a heat map of what each costs each site, and the same as a table, the worst first. */
const session = useOpenDesign()
const { design, designId } = session
const { allUp, asked, set } = useSupposed()
const router = useRouter()
const { data, error, isPending } = useSweep(session, allUp)

const failures = computed(() => data.value?.failures ?? [])
const harmful = computed(() => failures.value.filter((failure) => failure.lost))
const harmless = computed(() => failures.value.filter((failure) => !failure.lost))
const keyOf = (failure: Failure) => `${failure.type} ${failure.id}`
const opened = computed(
  () => failures.value.find((failure) => keyOf(failure) === asked('fails')) ?? harmful.value[0],
)

const siteOf = computed(
  () => new Map((design.value?.networks ?? []).map((network) => [network.id, network.site_id])),
)
const sites = computed(() => {
  const touched = new Set(
    harmful.value.flatMap((failure) =>
      failure.pairs.flatMap((pair) => [pair.source_id, pair.destination_id]),
    ),
  )
  const ids = new Set([...touched].map((id) => siteOf.value.get(id)))
  return (design.value?.sites ?? []).filter((site) => ids.has(site.id))
})
/** How many pairs a failure costs a site, as begun or as reached there. */
function lostAt(failure: Failure, siteId: string): number {
  return failure.pairs.filter((pair) =>
    [pair.source_id, pair.destination_id].some((id) => siteOf.value.get(id) === siteId),
  ).length
}
const most = computed(() =>
  Math.max(1, ...harmful.value.flatMap((failure) => sites.value.map((site) => lostAt(failure, site.id)))),
)
const gateways = computed(
  () => new Map((design.value?.gateways ?? []).map((gateway) => [gateway.id, gateway.name])),
)
function nameOf(failure: Failure): string {
  const uplink = design.value?.uplinks.find((each) => failure.type === 'uplink' && each.id === failure.id)
  return uplink ? `${gateways.value.get(uplink.gateway_id)}: ${failure.name}` : failure.name
}
const networkName = computed(() => {
  const names = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.networks ?? []).map((network) => [
      network.id,
      `${names.get(network.site_id)}: ${network.name}`,
    ]),
  )
})
function look(pair: Failure['pairs'][number], failed: Failure): void {
  const query = {
    from: pair.source_id,
    to: pair.destination_id,
    down: failed.id,
    ...(allUp.value ? { up: '1' } : {}),
  }
  void router.push({ name: 'paths', params: { designId: designId.value, panel: '' }, query })
}
</script>

<template>
  <section class="sweep" aria-label="When something fails">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-else-if="isPending" class="muted">Taking down one thing after the other …</p>
    <template v-else>
      <div class="head">
        <p>
          <strong>{{ harmful.length }}</strong> of {{ failures.length }} single failures cost something;
          {{ harmless.length }} break nothing.
        </p>
        <ElCheckbox :model-value="allUp" @update:model-value="set({ up: $event ? '1' : undefined })"
          >Suppose all tunnels come up</ElCheckbox
        >
      </div>
      <div class="scroll">
        <PictureTable
          class="heat-map"
          caption="Pairs of networks that each failure costs, in all and by site; the worst first."
        >
          <thead>
            <tr>
              <th scope="col">Fails</th>
              <th scope="col" class="number">Pairs lost</th>
              <th scope="col" class="number">Unprotected</th>
              <th v-for="site in sites" :key="site.id" scope="col" class="site">
                <span>{{ site.name }}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="failure in harmful" :key="keyOf(failure)" :class="{ open: failure === opened }">
              <th scope="row">
                <PictureButton
                  class="failure"
                  :aria-expanded="failure === opened"
                  @click="set({ fails: keyOf(failure) })"
                >
                  <span class="muted">{{ failure.type }}</span> {{ nameOf(failure) }}
                </PictureButton>
              </th>
              <td class="number figures">{{ failure.lost }}</td>
              <td class="number figures" :class="{ leak: failure.unprotected }">
                {{ failure.unprotected || '' }}
              </td>
              <td
                v-for="site in sites"
                :key="site.id"
                class="heat figures"
                :style="{ '--part': lostAt(failure, site.id) / most }"
              >
                {{ lostAt(failure, site.id) || '' }}
              </td>
            </tr>
          </tbody>
        </PictureTable>
      </div>
      <div v-if="opened" class="pairs">
        <h3>What is lost without {{ nameOf(opened) }}</h3>
        <ul>
          <li v-for="pair in opened.pairs.slice(0, 40)" :key="pair.source_id + pair.destination_id">
            <ElButton link type="primary" @click="look(pair, opened)">
              {{ networkName.get(pair.source_id) }} → {{ networkName.get(pair.destination_id) }}
            </ElButton>
            <span class="muted">{{ REACH_WORDS[pair.before] }}, then {{ REACH_WORDS[pair.during] }}</span>
          </li>
        </ul>
        <p v-if="opened.lost > 40" class="muted">{{ opened.lost - 40 }} more.</p>
      </div>
      <p v-if="harmless.length" class="muted">
        Break nothing: {{ harmless.slice(0, 12).map(nameOf).join(', ')
        }}{{ harmless.length > 12 ? ` and ${harmless.length - 12} more` : '' }}.
      </p>
    </template>
  </section>
</template>

<style scoped>
.sweep {
  padding: 10px 16px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 24px;
  padding-bottom: 8px;
}
.scroll {
  overflow: auto;
}
.heat-map {
  border-collapse: separate;
  border-spacing: 1px;
}
thead th {
  padding: 2px 6px;
  font-size: 12px;
  font-weight: 500;
  color: var(--muted);
  text-align: left;
  vertical-align: bottom;
}
.site span {
  display: block;
  max-height: 110px;
  writing-mode: vertical-rl;
  transform: rotate(180deg);
}
tbody th {
  font-weight: 400;
  text-align: left;
  white-space: nowrap;
}
.failure {
  padding: 3px 8px 3px 0;
}
tr.open .failure {
  font-weight: 600;
}
.number {
  padding: 0 8px;
  text-align: right;
}
.leak {
  font-weight: 600;
  color: var(--madder);
}
.heat {
  min-width: 30px;
  text-align: center;
  background: color-mix(in srgb, var(--ochre) calc(var(--part) * 34%), var(--card));
}
.pairs {
  padding: 10px 0;
}
ul {
  padding: 0;
  margin: 4px 0;
  list-style: none;
  columns: 2 320px;
}
li .muted {
  font-size: 12px;
}
</style>
