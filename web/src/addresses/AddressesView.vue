<script setup lang="ts">
import { useDebounceFn, watchOnce } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import AddressRuler from './AddressRuler.vue'
import { around, extentIn, prefixText, rootOf, type Extent } from './blocks'
import ViewTabs from '@/ui/ViewTabs.vue'
import ChosenBlock from './ChosenBlock.vue'
import ReservePrefixForm from './ReservePrefixForm.vue'
import ImportPanel from './ImportPanel.vue'
import InWords from './InWords.vue'
import { columnsOf, gapsOf, lanesOf, type Block } from './lanes'
import RenumberPanel from './RenumberPanel.vue'
import RoomPanel from './RoomPanel.vue'
import TranslatePanel from './TranslatePanel.vue'
import { useRulerWindow } from './useRulerWindow'
import { useUsage } from './useSpace'
import WaysOutPanel from './WaysOutPanel.vue'

const EVERYTHING = '0.0.0.0/0'
const PANELS = { words: 'List', room: 'Utilisation', import: 'Import', out: 'Resolve collisions' } as const

const route = useRoute()
const router = useRouter()
const session = useOpenDesign()
const { design, analysis } = session
const usage = useUsage(session)

const panel = computed(() => String(route.params.panel || 'words'))
const objectId = computed(() => String(route.params.objectId ?? ''))
const roots = computed(() => [...(design.value?.supernets ?? []), EVERYTHING])
const rootPrefix = ref(startRoot())
const root = computed(() => rootOf(rootPrefix.value))
const lanes = computed(() => (design.value ? lanesOf(design.value, analysis.value, root.value) : []))
const columns = computed(() => (design.value ? columnsOf(design.value, analysis.value, root.value) : []))
const gaps = computed(() => gapsOf(usage.value, root.value))
const view = useRulerWindow(root, startWindow)
const { window } = view
const typed = ref('')
let moved = false
const trouble = ref('')
const reserving = ref<string | null>(null) // the prefix that is about to be reserved
const chosenKey = ref('')
const chosen = computed<Block | null>(
  () =>
    lanes.value.flatMap((lane) => lane.blocks).find((block) => block.kind + block.id === chosenKey.value) ??
    null,
)
const sight = computed(() => {
  const size = 2 ** Math.floor(Math.log2(window.value.size))
  const first = Math.floor((window.value.first + (window.value.size - size) / 2) / size) * size
  return prefixText(root.value, { first, size })
})

/** The supernet that the address names, or the one that holds most networks. */
function startRoot(): string {
  const asked = String(route.query.in ?? '')
  if (roots.value.includes(asked)) return asked
  const count = (prefix: string) => {
    const there = rootOf(prefix)
    return (design.value?.networks ?? []).filter((network) => extentIn(there, network.prefix)).length
  }
  const all = design.value?.supernets ?? []
  return [...all].sort((a, b) => count(b) - count(a))[0] ?? EVERYTHING
}
/** What the address names, or the neighbourhood of what collides, or of all that there is. */
function startWindow(): Extent {
  const asked = String(route.query.show ?? '')
  const named = /^[0-9a-f.:]+\/\d+$/i.test(asked) ? extentIn(root.value, asked) : null
  if (named) return named
  const networks = design.value?.networks ?? []
  const first = analysis.value?.overlaps.find((pair) => pair.joined)
  const site = networks.find((network) => network.id === first?.outer_id)?.site_id
  const near = networks.filter((network) => (!site || network.site_id === site) && !network.zone)
  const extents = near.flatMap((network) => extentIn(root.value, network.prefix) ?? [])
  return around(extents) ?? { first: 0, size: root.value.units }
}
/** What collides is known a moment after the design; who has moved meanwhile is left alone. */
watchOnce(analysis, () => {
  if (!moved && !route.query.show) view.show(startWindow())
})
const remember = useDebounceFn(() => {
  if (route.name !== 'addresses') return
  void router.replace({ query: { in: rootPrefix.value, show: sight.value } })
}, 400)
watch([window, rootPrefix], () => {
  moved = true
  void remember()
})
watch(roots, (now) => {
  if (!now.includes(rootPrefix.value)) rootPrefix.value = startRoot()
})

/** Show what was typed: a prefix, or an address with its surroundings. */
function showTyped(): void {
  const text = typed.value.trim()
  trouble.value = ''
  if (!/^[0-9a-f.:]+(\/\d{1,3})?$/i.test(text)) {
    trouble.value = `'${text}' is no prefix or address`
    return
  }
  const prefix = text.includes('/') ? text : `${text}/${text.includes(':') ? 64 : 32}`
  try {
    const home = roots.value.find((candidate) => extentIn(rootOf(candidate), prefix))
    if (!home) throw new Error('outside')
    rootPrefix.value = home
    const extent = extentIn(rootOf(home), prefix)
    if (extent) view.fit(extent.size > 1 ? extent : { first: extent.first - 8, size: 16 })
  } catch {
    trouble.value = `${text} lies outside the supernets, and is no IPv4 address`
  }
}
function choose(block: Block | null): void {
  chosenKey.value = block ? block.kind + block.id : ''
}
function open(name: string, id = ''): void {
  void router.push({
    name: 'addresses',
    params: { designId: design.value?.id, panel: name === 'words' ? '' : name, objectId: id },
    query: route.query,
  })
}
</script>

<template>
  <div v-if="design" class="addresses">
    <div class="bar">
      <div class="roots" role="group" aria-label="Part of the address space">
        <ElButton
          v-for="prefix in roots"
          :key="prefix"
          class="figures"
          :aria-pressed="prefix === rootPrefix"
          @click="rootPrefix = prefix"
        >
          {{ prefix === EVERYTHING ? 'all IPv4' : prefix }}
        </ElButton>
      </div>
      <form class="show" @submit.prevent="showTyped">
        <ElInput
          v-model="typed"
          class="figures"
          :placeholder="sight"
          aria-label="Show a prefix or an address"
          :aria-invalid="trouble !== ''"
          spellcheck="false"
        />
        <ElButton native-type="submit">Show</ElButton>
      </form>
      <div class="zoom" role="group" aria-label="Zoom">
        <ElButton aria-label="Closer" title="Closer (+)" @click="view.zoom(0.5)"> + </ElButton>
        <ElButton aria-label="Further" title="Further (−)" @click="view.zoom(2)"> − </ElButton>
        <ElButton title="All of it (Home)" :disabled="view.whole.value" @click="view.reset()"> All </ElButton>
      </div>
    </div>
    <p v-if="trouble" class="field-error trouble" role="alert">{{ trouble }}</p>
    <AddressRuler
      class="rulers"
      :class="{ low: !['words', 'room'].includes(panel) }"
      :root="root"
      :window="window"
      :lanes="lanes"
      :columns="columns"
      :gaps="gaps"
      :chosen="chosen"
      @zoom="view.zoom"
      @move="view.move"
      @fit="view.fit"
      @reset="view.reset()"
      @choose="choose"
      @reserve="reserving = $event"
    />
    <ReservePrefixForm v-if="reserving !== null" :prefix="reserving" @close="reserving = null" />
    <ChosenBlock v-else-if="chosen" :block="chosen" :usage="usage" @open="open" @close="choose(null)" />
    <ViewTabs
      class="panels"
      :tabs="PANELS"
      label="Addresses"
      :model-value="panel"
      @update:model-value="open($event)"
    >
      <template #beside><ElButton @click="reserving = ''">Reserve a prefix …</ElButton></template>
      <RoomPanel v-if="panel === 'room'" :usage="usage" @show="view.fit" />
      <ImportPanel v-else-if="panel === 'import'" />
      <WaysOutPanel v-else-if="panel === 'out'" @open="open" />
      <RenumberPanel
        v-else-if="panel === 'renumber'"
        :key="objectId"
        :network-id="objectId"
        @done="open('words')"
      />
      <TranslatePanel
        v-else-if="panel === 'translate'"
        :key="objectId"
        :network-id="objectId"
        @done="open('words')"
      />
      <InWords
        v-else
        :lanes="lanes"
        :gaps="gaps"
        :window="window"
        :usage="usage"
        :chosen="chosen"
        @choose="choose"
        @reserve="reserving = $event"
        @open="open"
      />
    </ViewTabs>
  </div>
</template>

<style scoped>
.addresses {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding: 8px 16px;
}
.roots,
.zoom,
.show {
  display: flex;
  gap: 4px;
}
.show {
  flex: 1;
  justify-content: flex-end;
}
.show .el-input {
  --el-input-width: 176px;
}
.trouble {
  padding: 0 16px 6px;
}
.rulers {
  flex: none;
  height: 288px;
}
.rulers.low {
  height: 184px;
}
.panels {
  flex: 1;
  min-height: 200px;
}
</style>
