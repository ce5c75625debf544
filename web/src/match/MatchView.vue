<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Side } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import { isSame, madeLike } from './copying'
import MatchTable from './MatchTable.vue'
import TunnelList from './TunnelList.vue'
import TunnelTools from './TunnelTools.vue'
import { useMatch } from './useMatch'

const route = useRoute()
const router = useRouter()
const session = useOpenDesign()
const { design, change, examining } = session
const tunnelId = computed(() => String(route.params.tunnelId ?? ''))
const { tunnel, match, forecast } = useMatch(session, tunnelId)
const at = computed(() => String(route.query.at ?? ''))

/** Without a tunnel in the address, show the first that doesn't come up. */
watchEffect(() => {
  if (route.name !== 'match' || tunnelId.value || !design.value?.tunnels.length || !session.analysis.value)
    return
  const stopped = session.analysis.value.forecasts.find((one) => one.state === 'fails')
  const first = stopped?.tunnel_id ?? design.value.tunnels[0]?.id
  void router.replace({ name: 'match', params: { designId: design.value.id, tunnelId: first } })
})

/** Make all of one end that must agree like the other's: what the rows compare, and no more. */
async function makeLike(side: Side): Promise<void> {
  if (!tunnel.value || !match.value) return
  const now = tunnel.value
  const rows = match.value.rows.filter((row) => row.copyable && !isSame(now, row))
  const [name, far] = side === 'left' ? ['left', 'right'] : ['right', 'left']
  if (rows.length)
    await change(
      [{ op: 'put-tunnel', object: madeLike(now, rows, side) }],
      `Make the ${name} end like the ${far} one`,
    )
}
function print(): void {
  window.print()
}
async function removeTunnel(): Promise<void> {
  if (!tunnel.value) return
  const { id, name } = tunnel.value
  const removed = await change([{ op: 'remove', type: 'tunnel', id, cascade: true }], `Remove tunnel ${name}`)
  if (removed) void router.push({ name: 'match', params: { designId: design.value?.id, tunnelId: '' } })
}
</script>

<template>
  <div class="match">
    <TunnelList />
    <div v-if="design && tunnel && match" class="ends">
      <header>
        <div class="title">
          <h2>{{ tunnel.name }}</h2>
          <span class="buttons">
            <button
              class="plain-button"
              type="button"
              title="Make the left end like the right one"
              @click="makeLike('left')"
            >
              ← All like right
            </button>
            <button
              class="plain-button"
              type="button"
              title="Make the right end like the left one"
              @click="makeLike('right')"
            >
              All like left →
            </button>
            <button class="plain-button" type="button" @click="print">Print</button>
            <button class="plain-button" type="button" @click="removeTunnel">Remove tunnel</button>
          </span>
        </div>
        <ForecastStrip v-if="forecast" :forecast="forecast" />
        <p v-if="forecast" class="sentence" :class="forecast.state" role="status">
          {{ forecast.sentence }} <span v-if="examining" class="muted">examining …</span>
        </p>
      </header>
      <MatchTable :key="tunnel.id" :design="design" :tunnel="tunnel" :match="match" :at="at" />
      <TunnelTools :key="`${tunnel.id} tools`" :design="design" :tunnel="tunnel" :match="match" />
    </div>
    <p v-else-if="design && !design.tunnels.length" class="empty">
      No tunnel is laid yet. Choose two gateways on the left to lay the first one.
    </p>
    <p v-else-if="design && tunnelId && !tunnel" class="empty">
      There is no tunnel of this name in the design any more.
    </p>
  </div>
</template>

<style scoped>
.match {
  display: grid;
  flex: 1;
  grid-template-columns: 184px minmax(0, 1fr);
  min-height: 0;
}
.ends {
  padding: 12px 16px;
  overflow: auto;
}
.title {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin-bottom: 8px;
}
.buttons {
  display: flex;
  gap: 4px;
  margin-left: auto;
}
.buttons .plain-button {
  white-space: nowrap;
}
@media print {
  .match {
    display: block;
  }
  .buttons {
    display: none;
  }
}
.title h2 {
  white-space: nowrap;
}
.sentence {
  min-height: 20px;
  margin: 8px 0 10px;
  font-size: 15px;
  font-weight: 500;
}
.sentence.fails {
  color: var(--madder);
}
.sentence.partial,
.sentence.fails-later {
  color: var(--ochre);
}
.sentence.holds {
  color: var(--verdigris);
}
.empty {
  padding: 32px;
}
</style>
