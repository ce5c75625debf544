<script setup lang="ts">
import { computed, ref } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import { readSlow, useSupposed } from './useSupposed'

/** Switches: what is down, what is slow, and whether tunnels that fail as designed count as up. */
const { design } = useOpenDesign()
const { down, slow, allUp, set, toggleDown } = useSupposed()
const chosen = ref('')

const groups = computed(() => {
  const now = design.value
  if (!now) return []
  const gateways = new Map(now.gateways.map((gateway) => [gateway.id, gateway.name]))
  return [
    { title: 'Tunnels', items: now.tunnels.map((tunnel) => ({ id: tunnel.id, name: tunnel.name })) },
    {
      title: 'Uplinks',
      items: now.uplinks.map((uplink) => ({
        id: uplink.id,
        name: `${gateways.get(uplink.gateway_id)}: ${uplink.name}`,
      })),
    },
    { title: 'Gateways', items: now.gateways.map((gateway) => ({ id: gateway.id, name: gateway.name })) },
    { title: 'Sites', items: now.sites.map((site) => ({ id: site.id, name: site.name })) },
  ].filter((group) => group.items.length)
})
const names = computed(
  () => new Map(groups.value.flatMap((group) => group.items.map((item) => [item.id, item.name]))),
)
function takeDown(): void {
  if (chosen.value && !down.value.includes(chosen.value)) toggleDown(chosen.value)
  chosen.value = ''
}
function slowWords(text: string): string {
  const supposed = readSlow(text)
  const parts = [
    supposed.delay === null ? '' : `${supposed.delay} ms`,
    supposed.jitter === null ? '' : `± ${supposed.jitter} ms`,
    supposed.loss === null ? '' : `${supposed.loss} % lost`,
    supposed.used === null ? '' : `${supposed.used} Mbit/s used by others`,
  ]
  return `${names.value.get(supposed.id) ?? supposed.id}: ${parts.filter(Boolean).join(', ')}`
}
</script>

<template>
  <div class="suppose plain-fields" role="group" aria-label="What is supposed">
    <ElCheckbox :model-value="allUp" @update:model-value="set({ up: $event ? '1' : undefined })"
      >Suppose all tunnels come up</ElCheckbox
    >
    <ElSelect
      v-model="chosen"
      class="take-down"
      aria-label="Take down"
      placeholder="Take down …"
      filterable
      @change="takeDown"
    >
      <ElOptionGroup v-for="group in groups" :key="group.title" :label="group.title">
        <ElOption v-for="item in group.items" :key="item.id" :value="item.id" :label="item.name" />
      </ElOptionGroup>
    </ElSelect>
    <ElButton
      v-for="id in down"
      :key="id"
      class="chip"
      :title="`Let ${names.get(id) ?? id} work again`"
      @click="toggleDown(id)"
    >
      {{ names.get(id) ?? id }} down <span aria-hidden="true">×</span
      ><span class="visually-hidden">, let it work again</span>
    </ElButton>
    <ElButton
      v-for="text in slow"
      :key="text"
      class="chip slow"
      title="As designed again"
      @click="set({ slow: slow.filter((candidate) => candidate !== text) })"
    >
      {{ slowWords(text) }} <span aria-hidden="true">×</span
      ><span class="visually-hidden">, as designed again</span>
    </ElButton>
  </div>
</template>

<style scoped>
.suppose {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  padding: 6px 16px;
}
.take-down {
  width: 180px;
}
.chip {
  padding: 2px 8px;
  color: var(--madder);
  border-color: var(--madder);
}
.chip.slow {
  color: var(--ochre);
  border-color: var(--ochre);
}
</style>
