<script setup lang="ts">
import { computed, toRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import KeyLink from './KeyLink.vue'
import PartnerLinks from './PartnerLinks.vue'
import { useSheet } from './useHandover'

/** What is to be entered at one end of a tunnel, in the order in which devices ask. */
const props = defineProps<{ tunnelId: string }>()
const emit = defineEmits<{ open: [tunnelId: string] }>()
const session = useOpenDesign()
const { design, designId } = session
const route = useRoute()
const router = useRouter()

const tunnels = computed(() =>
  (design.value?.tunnels ?? []).map((anyTunnel) => ({ value: anyTunnel.id, label: anyTunnel.name })),
)
const tunnelId = computed(() => props.tunnelId || (tunnels.value[0]?.value ?? ''))
const tunnel = computed(() => design.value?.tunnels.find((candidate) => candidate.id === tunnelId.value))
const side = computed(() => (route.query.side === 'right' ? 'right' : 'left'))
const sides = computed(() => {
  return (['left', 'right'] as const).map((key) => {
    const gateway = design.value?.gateways.find((other) => other.id === tunnel.value?.[key].gateway_id)
    return { value: key, label: gateway?.name ?? key }
  })
})
const { data, error } = useSheet(
  session,
  toRef(() => tunnelId.value),
  side,
)
const address = computed(
  () => `/api/designs/${designId.value}/tunnels/${tunnelId.value}/sheets/${side.value}`,
)
const lists = computed(() => [
  { title: 'Routes', lines: data.value?.routes ?? [] },
  { title: 'Filters must let pass', lines: data.value?.open ?? [] },
  { title: 'Checks', lines: data.value?.checks ?? [] },
  { title: 'What the log must say', lines: data.value?.log ?? [] },
])
</script>

<template>
  <section class="sheet plain-fields" aria-label="Sheet">
    <header>
      <SelectField
        label="Tunnel"
        :model-value="tunnelId"
        :options="tunnels"
        @update:model-value="emit('open', $event)"
      />
      <SelectField
        label="For"
        :model-value="side"
        :options="sides"
        @update:model-value="router.replace({ query: { ...route.query, side: $event } })"
      />
      <ElButton tag="a" :href="`${address}/html`" target="_blank">Page to print</ElButton>
      <ElButton tag="a" :href="`${address}/pdf`" :download="`${tunnelId}-${side}.pdf`">PDF</ElButton>
      <ElButton tag="a" :href="`${address}/md`" :download="`${tunnelId}-${side}.md`">Markdown</ElButton>
    </header>
    <PartnerLinks v-if="tunnelId" :key="`${tunnelId}/${side}`" :tunnel-id="tunnelId" :side="side" />
    <KeyLink v-if="tunnel" :key="tunnelId" :tunnel="tunnel" />
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <template v-else-if="data">
      <h2>{{ data.tunnel }}: {{ data.device }}, {{ data.site }}</h2>
      <p class="muted">
        {{ data.technology }}; the other end is {{ data.far_device }}, {{ data.far_site }}. Secrets come by a
        separate channel.
      </p>
      <p>{{ data.forecast }}</p>
      <template v-for="section in data.sections" :key="section.title">
        <h3>{{ section.title }}</h3>
        <dl>
          <div v-for="line in section.lines" :key="line.field">
            <dt>{{ line.title }}</dt>
            <dd>
              <span v-if="line.value" class="figures">{{ line.value }}</span>
              <em v-else-if="line.ask">not known yet: {{ line.ask }}</em>
              <span v-else class="muted">as the device has it</span>
            </dd>
            <dd class="muted figures">
              {{ line.counterpart ? `other end: ${line.counterpart}` : '' }}
            </dd>
          </div>
        </dl>
      </template>
      <template v-for="list in lists" :key="list.title">
        <template v-if="list.lines.length">
          <h3>{{ list.title }}</h3>
          <ul>
            <li v-for="line in list.lines" :key="line">{{ line }}</li>
          </ul>
        </template>
      </template>
    </template>
    <ElSkeleton v-else :rows="6" animated />
  </section>
</template>

<style scoped>
.sheet {
  padding: 10px 16px 16px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
h2 {
  margin-top: 10px;
  font-size: 16px;
}
h3 {
  margin: 12px 0 2px;
  font-size: 13px;
}
p {
  margin: 2px 0;
}
dl {
  margin: 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
dl > div {
  display: grid;
  grid-template-columns: 176px minmax(0, 1fr) minmax(0, 0.8fr);
  gap: 12px;
  padding: 3px 10px;
  border-bottom: 1px solid var(--line);
}
dl > div:last-child {
  border-bottom: 0;
}
dt {
  color: var(--muted);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
ul {
  padding-left: 18px;
  margin: 0;
}
</style>
