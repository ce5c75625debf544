<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import type { Design, Identity, KeyFacts, KeyPair, Proposal, Side, Tunnel, TunnelEnd } from '@/api/types'
import { words } from '@/ui/words'
import AccountEditor from './AccountEditor.vue'
import ChoiceField from './ChoiceField.vue'
import {
  certificatesOf,
  fieldOf,
  IDENTITY_TYPES,
  networksOf,
  numberOf,
  uplinksOf,
  YES_NO,
  type EndField,
} from './fields'
import KeyEditor from './KeyEditor.vue'
import KeyPairEditor from './KeyPairEditor.vue'
import ProposalsEditor from './ProposalsEditor.vue'
import SeveralField from './SeveralField.vue'

const props = defineProps<{
  design: Design
  tunnel: Tunnel
  side: Side
  field: string
  label: string
  error: string
  mirrored: boolean // the other end's field may be given the same value at once
}>()
const emit = defineEmits<{ save: [value: unknown, both: boolean]; close: [] }>()

const root = ref<HTMLElement>()
const end = computed(() => props.tunnel[props.side])
const value = end.value[props.field as EndField]
const { editor, hint, choices, needed } = fieldOf(props.field)
const chosenOf = computed(() => {
  if (editor === 'uplink') return uplinksOf(props.design, end.value)
  return editor === 'yes-no' ? YES_NO : editor === 'choice' ? choices : null
})
const facts = value as KeyFacts | null
const pair = value as KeyPair | null
const account = (value as TunnelEnd['accepted_account']) ?? null
const proposals = value as Proposal[]
const typed = ref(startText())
const chosen = ref<unknown>(value)
const several = ref<string[]>(editor === 'several' ? [...(value as string[])] : [])
const identityType = ref<Identity['type']>((value as Identity | null)?.type ?? 'fqdn')
const both = ref(false)
const identityTypes = computed(() =>
  props.field === 'remote_identity' ? [...IDENTITY_TYPES, 'any' as const] : IDENTITY_TYPES,
)
const isLong = editor === 'certificates'

function startText(): string {
  if (editor === 'identity') return (value as Identity | null)?.value ?? ''
  if (editor === 'networks') return (value as string[]).join(', ')
  if (editor === 'certificates') return (value as TunnelEnd['certificates']).map((one) => one.pem).join('')
  return value === null || value === undefined || typeof value === 'object' ? '' : String(value)
}
function entered(): unknown {
  switch (editor) {
    case 'identity':
      return { type: identityType.value, value: identityType.value === 'any' ? '' : typed.value }
    case 'networks':
      return networksOf(typed.value)
    case 'number':
      return numberOf(typed.value)
    case 'certificates':
      return certificatesOf(typed.value)
    case 'several':
      return several.value
    case 'choice':
    case 'yes-no':
    case 'uplink':
      return chosen.value
    default:
      return typed.value.trim() || null
  }
}
function forget(): void {
  emit('save', Array.isArray(value) ? [] : null, both.value)
}
onMounted(async () => {
  await nextTick()
  root.value?.scrollIntoView?.({ block: 'nearest' })
  root.value?.querySelector<HTMLElement>('input, select, textarea, button')?.focus()
})
</script>

<template>
  <div ref="root" class="editor" @keydown.esc.stop="emit('close')">
    <KeyEditor
      v-if="editor === 'key'"
      :facts="facts"
      @save="emit('save', $event, both)"
      @close="emit('close')"
    />
    <KeyPairEditor
      v-else-if="editor === 'key-pair'"
      :pair="pair"
      :label="label"
      @save="emit('save', $event, false)"
      @close="emit('close')"
    />
    <AccountEditor
      v-else-if="editor === 'account'"
      :account="account"
      :accepted="field === 'accepted_account'"
      @save="emit('save', $event, false)"
      @close="emit('close')"
    />
    <ProposalsEditor
      v-else-if="editor === 'proposals'"
      :proposals="proposals"
      :protocol="field === 'ike_proposals' ? 'ike' : 'esp'"
      @save="emit('save', $event, both)"
      @close="emit('close')"
    />
    <form v-else @submit.prevent="emit('save', entered(), both)">
      <div class="line">
        <ChoiceField v-if="chosenOf" v-model="chosen" :choices="chosenOf" :label="label" />
        <SeveralField v-else-if="editor === 'several'" v-model="several" :choices="choices" :label="label" />
        <textarea
          v-else-if="isLong"
          v-model="typed"
          class="figures long"
          rows="5"
          :aria-label="label"
          :placeholder="hint"
          :aria-invalid="Boolean(error)"
          spellcheck="false"
        />
        <template v-else>
          <select v-if="editor === 'identity'" v-model="identityType" :aria-label="`Type of ${label}`">
            <option v-for="one in identityTypes" :key="one" :value="one">{{ words(one) }}</option>
          </select>
          <input
            v-if="editor !== 'identity' || identityType !== 'any'"
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
      <p v-if="chosenOf && hint" class="muted">{{ hint }}</p>
      <div class="line">
        <button class="plain-button primary" type="submit">Save</button>
        <button class="plain-button" type="button" @click="emit('close')">Cancel</button>
        <button v-if="!needed && editor !== 'uplink'" class="plain-button" type="button" @click="forget">
          Not known
        </button>
      </div>
    </form>
    <label v-if="mirrored" class="both"><input v-model="both" type="checkbox" /> The same at both ends</label>
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
.both {
  display: flex;
  gap: 6px;
  margin-bottom: 4px;
}
.line > input,
.line > select,
.line > textarea {
  flex: 1;
  min-width: 0;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.line > select:not(:only-child) {
  flex: 0 1 90px;
}
.long {
  font-size: 11px;
}
</style>
