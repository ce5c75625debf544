<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { useOpenDesign } from '@/design/useDesignSession'
import ForecastStrip from '@/ui/ForecastStrip.vue'

const router = useRouter()
const { design, analysis, change } = useOpenDesign()
const laying = ref(false)
const left = ref('')
const right = ref('')

const tunnels = computed(() => {
  const forecasts = new Map((analysis.value?.forecasts ?? []).map((one) => [one.tunnel_id, one]))
  return (design.value?.tunnels ?? []).map((tunnel) => ({ tunnel, forecast: forecasts.get(tunnel.id) }))
})
const gateways = computed(() => design.value?.gateways ?? [])
const ready = computed(() => left.value && right.value && left.value !== right.value)

function siteName(gatewayId: string): string {
  const gateway = design.value?.gateways.find((one) => one.id === gatewayId)
  return design.value?.sites.find((one) => one.id === gateway?.site_id)?.name ?? gatewayId
}
/** An end of which nothing is known yet but its gateway, and the uplink that is used first. */
function unknownEnd(gatewayId: string): Record<string, unknown> {
  const uplinks = (design.value?.uplinks ?? []).filter((uplink) => uplink.gateway_id === gatewayId)
  const first = [...uplinks].sort((a, b) => a.preference - b.preference)[0]
  return { gateway_id: gatewayId, uplink_id: first?.id ?? null }
}
async function lay(): Promise<void> {
  const name = `${siteName(left.value)}–${siteName(right.value)}`
  const taken = new Set((design.value?.tunnels ?? []).map((tunnel) => tunnel.id))
  const id = freshId(name, taken)
  const object = { id, name, left: unknownEnd(left.value), right: unknownEnd(right.value) }
  if (!(await change([{ op: 'put-tunnel', object } as unknown as Operation], `Lay the tunnel ${name}`)))
    return
  laying.value = false
  void router.push({ name: 'match', params: { designId: design.value?.id, tunnelId: id } })
}
</script>

<template>
  <nav class="tunnels" aria-label="Tunnels">
    <RouterLink
      v-for="{ tunnel, forecast } in tunnels"
      :key="tunnel.id"
      class="tunnel"
      :to="{ name: 'match', params: { designId: design?.id, tunnelId: tunnel.id } }"
    >
      <span>{{ tunnel.name }}</span>
      <ForecastStrip v-if="forecast" :forecast="forecast" compact />
    </RouterLink>
    <form v-if="laying" class="lay" @submit.prevent="lay" @keydown.esc="laying = false">
      <label>
        Left gateway
        <select v-model="left">
          <option v-for="gateway in gateways" :key="gateway.id" :value="gateway.id">
            {{ gateway.name }}
          </option>
        </select>
      </label>
      <label>
        Right gateway
        <select v-model="right">
          <option v-for="gateway in gateways" :key="gateway.id" :value="gateway.id">
            {{ gateway.name }}
          </option>
        </select>
      </label>
      <div class="buttons">
        <button class="plain-button primary" type="submit" :disabled="!ready">Lay it</button>
        <button class="plain-button" type="button" @click="laying = false">Not now</button>
      </div>
    </form>
    <button v-else-if="gateways.length > 1" class="plain-button" type="button" @click="laying = true">
      Lay a tunnel …
    </button>
    <p v-else class="muted">A tunnel needs two gateways. Add them in the survey first.</p>
  </nav>
</template>

<style scoped>
.tunnels {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 12px 8px;
  overflow: auto;
  border-right: 1px solid var(--line);
}
.tunnel {
  padding: 6px 8px 8px;
  color: var(--ink);
  text-decoration: none;
  border-radius: 3px;
}
.tunnel.router-link-active {
  font-weight: 600;
  background: var(--card);
  box-shadow: inset 0 0 0 1px var(--line);
}
.tunnels > .plain-button {
  margin-top: 8px;
}
.lay label {
  display: block;
  margin-top: 8px;
}
.lay select {
  width: 100%;
  padding: 3px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
