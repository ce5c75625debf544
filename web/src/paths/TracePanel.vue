<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import SuggestField from '@/ui/SuggestField.vue'
import { useTrace } from './usePaths'
import { useSupposed } from './useSupposed'
import WayLadder from './WayLadder.vue'

/** One flow, both ways side by side. Networks, hosts and addresses can be asked about. */
const session = useOpenDesign()
const { design } = session
const { supposed, service, dscp, from, to, set } = useSupposed()

const typed = ref({ from: '', to: '', service: 'any', class: 'DF' })
const named = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  const networks = (design.value?.networks ?? []).map(
    (network) => [network.id, `${sites.get(network.site_id)}: ${network.name}`] as const,
  )
  return new Map([...networks, ...(design.value?.hosts ?? []).map((host) => [host.id, host.name] as const)])
})
const names = computed(() => [...named.value.values()])
const shown = (text: string) => named.value.get(text) ?? text
/** A name as it was typed becomes the id that it stands for. */
function meant(text: string): string {
  const wanted = text.trim().toLowerCase()
  return [...named.value].find(([, name]) => name.toLowerCase() === wanted)?.[0] ?? text.trim()
}
watch(
  [from, to, service, dscp, named],
  () => {
    typed.value = { from: shown(from.value), to: shown(to.value), service: service.value, class: dscp.value }
  },
  { immediate: true },
)
const asked = computed(() => ({
  source: from.value,
  destination: to.value,
  service: service.value,
  dscp: dscp.value,
}))
const { data: trace, error } = useTrace(session, supposed, asked)
const sound = computed(() => trace.value?.back?.end === 'arrives')
const unknown = computed(() => [trace.value?.forward.end, trace.value?.back?.end].includes('unknown'))

function ask(): void {
  const { service: wanted, class: kind } = typed.value
  set({
    from: meant(typed.value.from),
    to: meant(typed.value.to),
    service: wanted.trim() === 'any' ? undefined : wanted.trim(),
    class: kind.trim() === 'DF' ? undefined : kind.trim(),
  })
}
</script>

<template>
  <section class="trace" aria-label="One flow">
    <form class="ask" @submit.prevent="ask">
      <label v-for="end in ['from', 'to'] as const" :key="end" class="place">
        {{ end === 'from' ? 'From' : 'to' }}
        <SuggestField
          v-model="typed[end]"
          :names="names"
          :label="end === 'from' ? 'From' : 'to'"
          placeholder="host, network or address"
          :title="typed[end]"
        />
      </label>
      <label>traffic <ElInput v-model="typed.service" class="short figures" /></label>
      <label>class <ElInput v-model="typed.class" class="short figures" /></label>
      <ElButton native-type="submit">Trace</ElButton>
      <ElButton v-if="trace" @click="set({ from: to, to: from })"> Swap ends </ElButton>
    </form>
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <p v-else-if="!trace" class="muted">
      Choose a cell of the matrix, or name where traffic begins and where it goes to.
    </p>
    <template v-else>
      <p class="verdict" :class="{ sound, unknown }" role="status">{{ trace.verdict }}</p>
      <p v-for="remark in trace.remarks" :key="remark" class="muted">Not modelled: {{ remark }}.</p>
      <div class="ladders">
        <WayLadder title="Forward" :way="trace.forward" />
        <WayLadder
          title="Return"
          :way="trace.back ?? null"
          missing="Nothing arrives that could be answered."
        />
      </div>
    </template>
  </section>
</template>

<style scoped>
.trace {
  padding: 8px 16px 16px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.ask label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.ask .place {
  flex: 1 1 180px;
}
.ask .short {
  --el-input-width: 80px;
}
.verdict {
  padding: 8px 10px;
  margin: 8px 0;
  font-weight: 500;
  background: var(--madder-wash);
  border-left: 3px solid var(--madder);
}
.verdict.sound {
  background: var(--verdigris-wash);
  border-color: var(--verdigris);
}
.verdict.unknown {
  background: var(--card);
  border-color: var(--slate);
}
.ladders {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 32px;
}
</style>
