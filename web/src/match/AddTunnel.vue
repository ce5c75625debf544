<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { freshId } from '@/design/ids'
import { putOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { TECHNOLOGIES } from './fields'

/** Adding a tunnel between two gateways: all else is filled in, end by end, where it is compared. */
const router = useRouter()
const { design, change } = useOpenDesign()
const adding = ref(false)
const left = ref('')
const right = ref('')
const technology = ref(TECHNOLOGIES[0]?.value ?? '')

const gateways = computed(() => design.value?.gateways ?? [])
const choices = computed(() =>
  gateways.value.map((gateway) => ({
    value: gateway.id,
    label: `${gateway.name} · ${siteName(gateway.id)}`,
  })),
)
const ready = computed(() => left.value && right.value && left.value !== right.value)

const sites = computed(() => design.value?.sites ?? [])
const siteNames = computed(() => {
  const names = new Map(sites.value.map((site) => [site.id, site.name]))
  return new Map(gateways.value.map((gateway) => [gateway.id, names.get(gateway.site_id)]))
})
const siteName = (gatewayId: string): string => siteNames.value.get(gatewayId) ?? gatewayId
/** An end of which nothing is known yet but its gateway, and the uplink that is used first. */
function unknownEnd(gatewayId: string): Record<string, unknown> {
  const uplinks = (design.value?.uplinks ?? []).filter((uplink) => uplink.gateway_id === gatewayId)
  const first = [...uplinks].sort((a, b) => a.preference - b.preference)[0]
  return { gateway_id: gatewayId, uplink_id: first?.id ?? null, technology: technology.value }
}
async function add(): Promise<void> {
  const name = `${siteName(left.value)}–${siteName(right.value)}`
  const taken = new Set((design.value?.tunnels ?? []).map((tunnel) => tunnel.id))
  const id = freshId(name, taken)
  const object = { id, name, left: unknownEnd(left.value), right: unknownEnd(right.value) }
  if (!(await change([putOf('tunnel', object)], `Add the tunnel ${name}`))) return
  adding.value = false
  void router.push({ name: 'match', params: { designId: design.value?.id, tunnelId: id } })
}
</script>

<template>
  <form v-if="adding" class="add" @submit.prevent="add" @keydown.esc="adding = false">
    <SelectField v-model="left" label="Left gateway" stacked :options="choices" />
    <SelectField v-model="right" label="Right gateway" stacked :options="choices" />
    <SelectField v-model="technology" label="Technology" stacked :options="TECHNOLOGIES" />
    <div class="buttons">
      <ElButton type="primary" native-type="submit" :disabled="!ready">Add tunnel</ElButton>
      <ElButton @click="adding = false">Cancel</ElButton>
    </div>
  </form>
  <div v-else-if="gateways.length > 1" class="ways">
    <ElButton @click="adding = true"> Add tunnel … </ElButton>
    <RouterLink :to="{ name: 'connect', params: { designId: design?.id } }">Connect sites …</RouterLink>
    <RouterLink :to="{ name: 'standards', params: { designId: design?.id } }">Standards</RouterLink>
  </div>
  <p v-else class="muted">A tunnel needs two gateways. Add them in the survey first.</p>
</template>

<style scoped>
.add {
  display: grid;
  gap: 6px;
}
.ways {
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-start;
}
.buttons {
  display: flex;
  gap: 6px;
}
</style>
