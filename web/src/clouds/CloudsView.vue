<script setup lang="ts">
import { computed, onUnmounted, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDoing } from '@/design/useDoing'
import { useOpenDesign } from '@/design/useDesignSession'
import GroupTables from '@/grids/GroupTables.vue'
import ViewTabs from '@/ui/ViewTabs.vue'
import { counted, dateAndTime } from '@/ui/words'
import AccountsPanel from './AccountsPanel.vue'
import PeeringPanel from './PeeringPanel.vue'
import StepTable from './StepTable.vue'
import { useClouds } from './useClouds'

/** Networks that clouds link: what is intended of them, what they hold, and the steps from one to the other. */
const PANELS = {
  links: 'Peerings',
  differences: 'What differs',
  accounts: 'Accounts',
  tables: 'Tables',
} as const
const SETTLES_MS = 2500 // after which a cloud that is at something is read again

const route = useRoute()
const router = useRouter()
const session = useOpenDesign()
const { design, change } = session
const acts = useClouds(session)
const { clouds, accounts } = acts
const { trouble, isBusy, doing } = useDoing()
const panel = computed(() => String(route.params.panel || 'links'))
const objectId = computed(() => String(route.params.objectId ?? ''))
function open(name: string, id = ''): void {
  const params = { designId: design.value?.id, panel: name === 'links' ? '' : name, objectId: id }
  void router.push({ name: 'clouds', params })
}

const shown = computed(() => clouds.data.value)
const reached = computed(
  () =>
    new Set(
      (accounts.data.value ?? []).filter((account) => account.address).map((account) => account.account),
    ),
)
const oldest = computed(
  () => (accounts.data.value ?? []).map((account) => account.read_at ?? '').sort()[0] ?? '',
)
const differing = computed(() =>
  (shown.value?.steps ?? []).filter((step) => step.state !== 'done' && !step.tunnel_id),
)
const settling = computed(() => (shown.value?.steps ?? []).some((step) => step.state === 'settling'))

const take = (key: string) => doing(() => acts.take(key))
const readAll = () => doing(() => acts.read())
const takeOver = (at: number) => {
  const remedy = shown.value?.take_over[at]
  return remedy && doing(() => change(remedy.operations, remedy.title))
}
let waiting: ReturnType<typeof setTimeout> | undefined
watch(
  [settling, oldest, isBusy],
  () => {
    clearTimeout(waiting)
    if (settling.value && reached.value.size && !isBusy.value && !trouble.value)
      waiting = setTimeout(() => void readAll(), SETTLES_MS)
  },
  { immediate: true },
)
onUnmounted(() => clearTimeout(waiting))
</script>

<template>
  <div v-if="design" class="clouds">
    <header>
      <ElButton type="primary" plain :disabled="isBusy || !reached.size" @click="readAll"
        >Read the clouds</ElButton
      >
      <span class="muted" role="status">
        <template v-if="isBusy">The cloud is asked …</template>
        <template v-else-if="settling">A cloud is still at it; it is read again.</template>
        <template v-else-if="!reached.size"
          >No account is reached from here yet: say how under Accounts.</template
        >
        <template v-else-if="oldest">Read {{ dateAndTime(oldest) }}.</template>
        <template v-else>Not read yet.</template>
      </span>
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <p v-for="(offer, at) in shown?.take_over ?? []" :key="offer.title" class="take-over">
        {{ offer.title }}
        <ElButton size="small" :disabled="isBusy" @click="takeOver(at)">Take it over</ElButton>
      </p>
    </header>
    <ViewTabs
      class="panels"
      :tabs="PANELS"
      label="Clouds"
      :model-value="panel"
      @update:model-value="open($event)"
    >
      <GroupTables
        v-if="panel === 'tables'"
        view="clouds"
        :members="objectId"
        @open="open('tables', $event)"
      />
      <AccountsPanel v-else-if="panel === 'accounts'" :accounts="accounts.data.value ?? []" :acts="acts" />
      <p v-else-if="!design.cloud_networks.length" class="empty">
        No cloud network yet. Add one in Tables for each site that is a cloud: its account, region and address
        blocks.
      </p>
      <template v-else-if="shown">
        <section v-if="panel === 'differences'" class="differences" aria-label="What differs">
          <p class="muted">
            {{ counted(differing.length, 'difference') }} beside the peerings, between what the design intends
            and what the clouds hold.
          </p>
          <StepTable
            v-if="differing.length"
            :steps="differing"
            :reached="reached"
            :busy="isBusy"
            @take="take"
          />
        </section>
        <template v-else>
          <p v-if="!shown.peerings.length" class="empty">
            No peering yet. Two cloud networks are linked by a tunnel of the technology “cloud peering”
            between their gateways.
          </p>
          <PeeringPanel
            v-for="peering in shown.peerings"
            :key="peering.tunnel_id"
            :peering="peering"
            :shown="shown"
            :reached="reached"
            :busy="isBusy"
            @take="take"
          />
        </template>
      </template>
      <p v-else-if="clouds.error.value" class="field-error" role="alert">{{ clouds.error.value.message }}</p>
    </ViewTabs>
  </div>
</template>

<style scoped>
.clouds {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  padding: 10px 16px 2px;
}
header p {
  flex: 1 0 100%;
  margin: 0;
}
.take-over {
  padding: 4px 8px;
  border-left: 3px solid var(--ochre);
}
.panels {
  flex: 1;
  min-height: 0;
}
.empty {
  padding: 24px 16px;
}
.differences {
  padding: 10px 16px;
}
</style>
