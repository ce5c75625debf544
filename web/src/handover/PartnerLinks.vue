<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'
import { dateAndTime } from '@/ui/words'
import { endLink, makeLink, usePartnerLinks, type PartnerLink } from './usePartnerLinks'

/** Links by which a partner fills in one end, without an account; what comes back is read line by line in Match. */
const props = defineProps<{ tunnelId: string; side: 'left' | 'right' }>()
const session = useOpenDesign()
const { designId } = session
const router = useRouter()
const { data, refresh } = usePartnerLinks(session)
const days = ref(14)
const address = ref('')
const { trouble, doing } = useDoing()
const { copy, copied } = useClipboard()
const shown = computed(() =>
  (data.value ?? []).filter(
    (candidate) => candidate.tunnel_id === props.tunnelId && candidate.side === props.side,
  ),
)
const STATES: Record<PartnerLink['state'], string> = {
  open: 'not answered yet',
  answered: 'answered',
  ended: 'ended',
  revoked: 'taken back',
}
const worksheet = computed(
  () => `/api/designs/${designId.value}/tunnels/${props.tunnelId}/worksheets/${props.side}`,
)
async function make(): Promise<void> {
  await doing(async () => {
    const made = await makeLink(designId.value, props.tunnelId, props.side, days.value)
    address.value = `${location.origin}${made.path}`
  })
  await refresh()
}
async function end(link: PartnerLink): Promise<void> {
  await endLink(designId.value, link.id)
  await refresh()
}
function read(link: PartnerLink): void {
  void router.push({
    name: 'match',
    params: { designId: designId.value, tunnelId: props.tunnelId },
    query: { open: 'form' },
    state: { form: link.form },
  })
}
</script>

<template>
  <section class="links plain-fields" aria-label="Links for the partner">
    <div class="head">
      <h3>Let the partner fill in this end</h3>
      <label
        >ends after
        <ElInputNumber v-model="days" class="short" :min="1" :max="90" :controls="false" aria-label="Days" />
        days</label
      >
      <ElButton @click="make">Make a link</ElButton>
      <span>or as a worksheet:</span>
      <ElButton tag="a" :href="`${worksheet}/xlsx`" download>Spreadsheet</ElButton>
      <ElButton tag="a" :href="`${worksheet}/txt`" download>Text</ElButton>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <p v-if="address" class="made" role="status">
      <span class="figures">{{ address }}</span>
      <ElButton @click="copy(address)">{{ copied ? 'Copied' : 'Copy' }}</ElButton>
      <span class="muted">It is shown this once. Whoever has it sees this tunnel alone.</span>
    </p>
    <ul v-if="shown.length">
      <li v-for="link in shown" :key="link.id">
        <strong>{{ STATES[link.state] }}</strong>
        <span class="muted"
          >made by {{ link.made_by }}, {{ dateAndTime(link.made_at) }}; ends
          {{ dateAndTime(link.until) }}</span
        >
        <ElButton v-if="link.form" @click="read(link)">Read the answer into Match …</ElButton>
        <ElButton v-if="link.state === 'open' || link.state === 'answered'" link @click="end(link)"
          >Take it back</ElButton
        >
        <pre v-if="link.form" class="figures">{{ link.form }}</pre>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.links {
  padding: 6px 10px;
  margin: 8px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head,
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
h3 {
  margin: 0;
  font-size: 13px;
}
.short {
  width: 56px;
}
.made {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.made .figures {
  overflow-wrap: anywhere;
}
ul {
  padding: 0;
  margin: 4px 0 0;
  list-style: none;
}
pre {
  flex: 1 0 100%;
  padding: 6px 8px;
  margin: 2px 0;
  overflow: auto;
  background: var(--paper);
  border: 1px solid var(--line);
}
</style>
