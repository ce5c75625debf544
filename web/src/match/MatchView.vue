<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Side } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useRemoval } from '@/design/useRemoval'
import RemovalDialog from '@/ui/RemovalDialog.vue'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import { isSame, madeLike } from './copying'
import MatchTable from './MatchTable.vue'
import TunnelList from './TunnelList.vue'
import TunnelName from './TunnelName.vue'
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
  const stopped = session.analysis.value.forecasts.find((candidate) => candidate.state === 'fails')
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
const removing = useRemoval(session)
async function removeTunnel(): Promise<void> {
  if (tunnel.value && (await removing.remove('tunnel', tunnel.value.id))) leave()
}
function leave(): void {
  void router.push({ name: 'match', params: { designId: design.value?.id, tunnelId: '' } })
}
</script>

<template>
  <div class="match">
    <TunnelList />
    <div v-if="design && tunnel && match" class="ends">
      <header>
        <div class="title">
          <TunnelName :key="tunnel.id" :tunnel="tunnel" />
          <span class="buttons">
            <ElButton title="Make the left end like the right one" @click="makeLike('left')">
              ← All like right
            </ElButton>
            <ElButton title="Make the right end like the left one" @click="makeLike('right')">
              All like left →
            </ElButton>
            <ElButton @click="print">Print</ElButton>
            <ElButton @click="removeTunnel">Remove tunnel</ElButton>
          </span>
        </div>
        <ForecastStrip v-if="forecast" :forecast="forecast" />
        <p v-if="forecast" class="sentence" :class="forecast.state" role="status">
          {{ forecast.sentence }} <span v-if="examining" class="muted">examining …</span>
        </p>
      </header>
      <MatchTable :key="tunnel.id" :design="design" :tunnel="tunnel" :match="match" :at="at" />
      <RemovalDialog :removing="removing" @removed="leave" />
      <TunnelTools :key="`${tunnel.id} tools`" :design="design" :tunnel="tunnel" :match="match" />
    </div>
    <p v-else-if="design && !design.tunnels.length" class="empty">
      There is no tunnel yet. Choose two gateways on the left for the first one.
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
  padding: 0 16px 12px;
  overflow: auto;
}
header {
  position: sticky;
  top: 0;
  z-index: 2;
  padding-top: 10px;
  background: var(--paper);
}
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin-bottom: 6px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-left: auto;
}
@media (max-width: 1020px) {
  .match {
    grid-template-columns: minmax(0, 1fr);
  }
  .ends {
    overflow: visible;
  }
}
@media print {
  .match {
    display: block;
  }
  .buttons {
    display: none;
  }
}
.sentence {
  min-height: 20px;
  padding: 4px 0;
  font-size: 15px;
  font-weight: 500;
}
.empty {
  padding: 32px;
}
</style>
