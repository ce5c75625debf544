<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Rehearsal, ShownPacket } from '@/api/types'
import PictureButton from '@/ui/PictureButton.vue'
import { timeText } from './asked'

/** What went between the gateways, from top to bottom: an arrow a message, each opened into its payloads. */
const props = defineProps<{ rehearsal: Rehearsal; place: number }>()

const PAGE = 100
const page = ref(1)
const open = ref(new Set<number>())
const rows = useTemplateRef<HTMLElement>('rows')
const drawn = computed(() =>
  props.rehearsal.packets
    .map((packet, place) => ({ packet, place }))
    .slice((page.value - 1) * PAGE, page.value * PAGE),
)
watch(
  () => props.place,
  async (place) => {
    page.value = Math.floor(Math.max(place, 0) / PAGE) + 1
    await nextTick()
    rows.value?.querySelector('.here')?.scrollIntoView?.({ block: 'nearest' })
  },
)
const isBetween = computed(() => props.rehearsal.packets.some((packet) => packet.message?.translated))
function toggle(place: number): void {
  if (!open.value.delete(place)) open.value.add(place)
}
function name(packet: ShownPacket): string {
  const message = packet.message
  if (!message) return packet.routine
  if (message.carries === 'esp') return 'a packet of the tunnel'
  if (message.carries === 'keepalive') return 'keep-alive'
  if (message.carries !== 'ike') return message.exchange
  return `${message.exchange}${message.is_response ? ', answer' : ''} ${message.message_id}`
}
function time(packet: ShownPacket): string {
  const first = timeText(packet.at_s)
  return packet.until_s > packet.at_s ? `${first} – ${timeText(packet.until_s)}` : first
}
</script>

<template>
  <section class="ladder" aria-label="Messages between the gateways">
    <header class="row head">
      <span>Time</span>
      <span class="ends">
        <span>{{ rehearsal.left_name }}</span>
        <span v-if="isBetween" class="muted">NAT on the way</span>
        <span>{{ rehearsal.right_name }}</span>
      </span>
    </header>
    <ol ref="rows">
      <li
        v-for="{ packet, place: at } in drawn"
        :key="at"
        :class="[
          packet.message?.sender ?? 'routine',
          { here: at === place, lost: packet.message?.dropped, error: packet.message?.notify },
        ]"
      >
        <PictureButton v-if="packet.message" :aria-expanded="open.has(at)" @click="toggle(at)">
          <span class="row">
            <span class="time figures muted">{{ time(packet) }}</span>
            <span class="arrow">
              <span class="name">{{ name(packet) }}</span>
              <strong v-if="packet.message.notify" class="notify">{{ packet.message.notify }}</strong>
              <span class="muted figures">{{ packet.message.octets }} octets</span>
              <span v-if="packet.message.dropped" class="dropped">✕ {{ packet.message.dropped }}</span>
            </span>
          </span>
        </PictureButton>
        <span v-else class="row">
          <span class="time figures muted">{{ time(packet) }}</span>
          <span class="muted counted">{{ packet.routine }}</span>
        </span>
        <dl v-if="open.has(at) && packet.message" class="payloads">
          <dt>from</dt>
          <dd class="figures">
            {{ packet.message.source }} → {{ packet.message.destination }}
            <span v-if="packet.message.translated" class="muted">(as the NAT sends it on)</span>
          </dd>
          <template v-for="(line, k) in packet.message.payloads" :key="k">
            <dt>{{ line.name }}</dt>
            <dd>{{ line.text }}</dd>
          </template>
        </dl>
      </li>
    </ol>
    <ElPagination
      v-if="rehearsal.packets.length > PAGE"
      v-model:current-page="page"
      :page-size="PAGE"
      :total="rehearsal.packets.length"
      layout="prev, pager, next, total"
      size="small"
    />
  </section>
</template>

<style scoped>
.ladder {
  margin-top: 12px;
}
.row {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  width: 100%;
}
.head {
  padding-bottom: 4px;
  font-weight: 600;
  border-bottom: 1px solid var(--line);
}
.ends {
  display: flex;
  justify-content: space-between;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  border-bottom: 1px dotted var(--line);
}
li.here {
  background: var(--verdigris-wash);
}
.picture-button {
  width: 100%;
  padding: 3px 0;
  color: inherit;
  font: inherit;
}
.arrow {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
  padding: 2px 20px;
  border-bottom: 2px solid var(--slate);
}
.arrow::after {
  position: absolute;
  right: 0;
  bottom: -6px;
  content: '';
  border: 5px solid transparent;
  border-left: 9px solid var(--slate);
  border-right: 0;
}
.right .arrow {
  justify-content: flex-end;
}
.right .arrow::after {
  right: auto;
  left: 0;
  border-right: 9px solid var(--slate);
  border-left: 0;
}
.error .arrow {
  border-color: var(--madder);
}
.error .notify,
.dropped {
  color: var(--madder);
}
.lost .arrow {
  border-bottom-style: dashed;
}
.lost .arrow::after {
  display: none;
}
.counted {
  padding: 3px 0;
  text-align: center;
}
.payloads {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 2px 12px;
  margin: 4px 0 8px 158px;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
