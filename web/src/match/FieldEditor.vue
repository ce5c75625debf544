<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import type { Design, Identity, KeyFacts, Proposal, Side, Tunnel } from '@/api/types'
import { words } from '@/ui/words'
import KeyEditor from './KeyEditor.vue'
import ProposalsEditor from './ProposalsEditor.vue'
import { editorKind, IDENTITY_TYPES, networksOf, secondsOf, uplinksOf, type EndField } from './fields'

const props = defineProps<{
  design: Design
  tunnel: Tunnel
  side: Side
  field: string
  label: string
  error: string
}>()
const emit = defineEmits<{ save: [value: unknown]; close: [] }>()

const root = ref<HTMLElement>()
const end = computed(() => props.tunnel[props.side])
const value = end.value[props.field as EndField]
const kind = editorKind(props.field)
const facts = value as KeyFacts | null
const proposals = value as Proposal[]
const typed = ref(startText())
const identityType = ref<Identity['type']>((value as Identity | null)?.type ?? 'fqdn')
const hint = {
  role: '',
  text: 'address, DNS name, or: any',
  uplink: '',
  identity: 'letter by letter, as the device has it',
  networks: 'prefixes, parted by commas',
  seconds: 'seconds',
  key: '',
  proposals: '',
}[kind]

function startText(): string {
  if (kind === 'identity') return (value as Identity | null)?.value ?? ''
  if (kind === 'networks') return (value as string[]).join(', ')
  return value === null || value === undefined || typeof value === 'object' ? '' : String(value)
}
function save(): void {
  if (kind === 'identity') emit('save', { type: identityType.value, value: typed.value })
  else if (kind === 'networks') emit('save', networksOf(typed.value))
  else if (kind === 'seconds') emit('save', secondsOf(typed.value))
  else emit('save', typed.value.trim() || null)
}
function forget(): void {
  emit('save', kind === 'networks' ? [] : null)
}
onMounted(async () => {
  await nextTick()
  root.value?.querySelector<HTMLElement>('input, select, textarea, button')?.focus()
})
</script>

<template>
  <div ref="root" class="editor" @keydown.esc.stop="emit('close')">
    <KeyEditor v-if="kind === 'key'" :facts="facts" @save="emit('save', $event)" @close="emit('close')" />
    <ProposalsEditor
      v-else-if="kind === 'proposals'"
      :proposals="proposals"
      :protocol="field === 'ike_proposals' ? 'ike' : 'esp'"
      @save="emit('save', $event)"
      @close="emit('close')"
    />
    <form v-else @submit.prevent="save">
      <div class="line">
        <select v-if="kind === 'role'" v-model="typed" :aria-label="label">
          <option value="call">call</option>
          <option value="wait">wait</option>
        </select>
        <select v-else-if="kind === 'uplink'" v-model="typed" :aria-label="label">
          <option v-for="uplink in uplinksOf(design, end)" :key="uplink.value" :value="uplink.value">
            {{ uplink.label }}
          </option>
        </select>
        <template v-else>
          <select v-if="kind === 'identity'" v-model="identityType" :aria-label="`Type of ${label}`">
            <option v-for="one in IDENTITY_TYPES" :key="one" :value="one">{{ words(one) }}</option>
          </select>
          <input
            v-model="typed"
            class="figures"
            :aria-label="label"
            :placeholder="hint"
            :aria-invalid="Boolean(error)"
            autocomplete="off"
            spellcheck="false"
          />
        </template>
      </div>
      <div class="line">
        <button class="plain-button primary" type="submit">Save</button>
        <button class="plain-button" type="button" @click="emit('close')">Leave it</button>
        <button v-if="kind !== 'uplink'" class="plain-button" type="button" @click="forget">Not known</button>
      </div>
    </form>
    <p v-if="error" class="field-error" role="alert">{{ error }}</p>
  </div>
</template>

<style scoped>
.editor {
  padding: 4px;
  background: var(--card);
  outline: 1px solid var(--verdigris);
}
.line {
  display: flex;
  gap: 4px;
  margin-bottom: 4px;
}
input,
select {
  flex: 1;
  min-width: 0;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
select:not(:only-child) {
  flex: 0 1 90px;
}
</style>
