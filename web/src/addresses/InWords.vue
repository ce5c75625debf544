<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import type { Usage } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import PictureButton from '@/ui/PictureButton.vue'
import { useVisibleRows } from '@/ui/useVisibleRows'
import type { Extent } from './blocks'
import { inWindow, type Block, type Lane } from './lanes'

/** What is on the rulers, line by line in address order: the same for whoever reads instead of looks. */
const ROW_HEIGHT = 28

const props = defineProps<{
  lanes: Lane[]
  gaps: (Extent & { text: string })[]
  window: Extent
  usage: Usage | undefined
  chosen: Block | null
}>()
const emit = defineEmits<{
  choose: [block: Block]
  reserve: [prefix: string]
  open: [panel: string, id: string]
}>()
const { design, analysis } = useOpenDesign()
const scroller = useTemplateRef<HTMLElement>('scroller')

interface Line {
  key: string
  first: number
  size: number
  text: string
  what: string
  site: string
  state: string
  block: Block | null
}

const fullness = computed(
  () => new Map((props.usage?.networks ?? []).map((network) => [network.network_id, network])),
)
const rivals = computed(() => {
  const networks = new Map((design.value?.networks ?? []).map((network) => [network.id, network]))
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  const found = new Map<string, string[]>()
  const add = (id: string, otherId: string) => {
    const other = networks.get(otherId)
    if (other) found.set(id, [...(found.get(id) ?? []), `${sites.get(other.site_id)}: ${other.name}`])
  }
  for (const pair of (analysis.value?.overlaps ?? []).filter((overlap) => overlap.joined)) {
    add(pair.outer_id, pair.inner_id)
    add(pair.inner_id, pair.outer_id)
  }
  return found
})
const lines = computed<Line[]>(() => {
  const blocks = props.lanes.flatMap((lane) =>
    inWindow(lane.blocks, props.window).map((block) => ({
      key: block.kind + block.id,
      first: block.first,
      size: block.size,
      text: block.text,
      what: block.kind === 'network' ? block.name : `${block.name} (${KINDS[block.kind]})`,
      site: lane.name,
      state: stateOf(block),
      block,
    })),
  )
  const free = inWindow(props.gaps, props.window).map((gap) => ({
    key: `free${gap.text}`,
    first: gap.first,
    size: gap.size,
    text: gap.text,
    what: 'free',
    site: '',
    state: '',
    block: null,
  }))
  return [...blocks, ...free].sort((a, b) => a.first - b.first || b.size - a.size)
})
const KINDS = { network: '', reserved: 'reserved', shown: 'translated' }

function stateOf(block: Block): string {
  const said = []
  const others = rivals.value.get(block.id)
  if (block.kind === 'network' && others) said.push(`collides with ${others.join(', ')}`)
  const use = fullness.value.get(block.id)
  if (block.kind === 'network' && use) {
    said.push(`${use.taken}${block.text.includes(':') ? '' : ` of ${use.capacity}`} spoken for`)
    if (use.grows_to) said.push(`can grow to ${use.grows_to}`)
  }
  if (block.zone) said.push(`isolated in ${block.zone}`)
  return said.join('; ')
}
const { rows, drawn, totalPx } = useVisibleRows({
  items: lines,
  scroller,
  heightPx: () => ROW_HEIGHT,
  beyond: 8,
})
watch(
  () => props.chosen,
  (block) => {
    const at = block ? lines.value.findIndex((line) => line.key === block.kind + block.id) : -1
    if (at >= 0) rows.value.scrollToIndex(at)
  },
)
/** The largest aligned block at the start of a gap is what is offered first. */
function reserve(line: Line): void {
  emit('reserve', line.text.includes('-') ? '' : line.text)
}
</script>

<template>
  <div
    ref="scroller"
    class="lines printed-whole"
    role="table"
    aria-label="Addresses in sight"
    :aria-rowcount="lines.length + 1"
  >
    <div class="line head" role="row">
      <span role="columnheader">Prefix</span><span role="columnheader">What</span>
      <span role="columnheader">Site</span><span role="columnheader">State</span>
    </div>
    <div role="rowgroup" :style="{ height: `${totalPx}px` }" class="tall">
      <div
        v-for="{ item: line, at, top } in drawn"
        :key="line.key"
        class="line"
        role="row"
        :aria-rowindex="at + 2"
        :class="{
          free: !line.block,
          collides: line.block?.collides,
          chosen: line.block && chosen?.id === line.block.id && chosen.kind === line.block.kind,
        }"
        :style="{ transform: `translateY(${top}px)` }"
      >
        <span role="cell" class="figures prefix" :title="line.text">{{ line.text }}</span>
        <span role="cell">
          <PictureButton v-if="line.block" class="name" @click="emit('choose', line.block)">
            {{ line.what }}
          </PictureButton>
          <template v-else>{{ line.what }}</template>
        </span>
        <span role="cell">{{ line.site }}</span>
        <span role="cell" class="state" :title="line.state">
          <PictureButton v-if="!line.block" class="name" @click="reserve(line)">
            reserve a part of it …
          </PictureButton>
          {{ line.state }}
        </span>
      </div>
    </div>
    <p v-if="!lines.length" class="muted nothing">
      Nothing is in sight here, and nothing of it is in the supernets.
    </p>
  </div>
</template>

<style scoped>
.lines {
  position: relative;
  flex: 1;
  min-height: 0;
  padding: 0 16px 8px;
  overflow: auto;
}
.tall {
  position: relative;
}
.line {
  position: absolute;
  display: grid;
  grid-template-columns: 200px 150px 150px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  width: 100%;
  height: 28px;
  border-bottom: 1px solid var(--line);
}
.head {
  position: sticky;
  top: 0;
  z-index: 1;
  font-size: 12px;
  color: var(--muted);
  background: var(--paper);
}
.line > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.free {
  color: var(--verdigris);
}
.collides .prefix,
.collides .state {
  color: var(--madder);
}
.chosen {
  background: var(--verdigris-wash);
}
.name {
  text-decoration: underline;
  text-decoration-color: var(--line);
  text-underline-offset: 3px;
}
.nothing {
  padding: 16px 0;
}
</style>
