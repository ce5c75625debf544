<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import type { Design, Identity, KeyFacts, KeyPair, Proposal, Side, Tunnel, TunnelEnd } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'
import { words } from '@/ui/words'
import AccountEditor from './AccountEditor.vue'
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
import { useProposed } from './useProposed'

const props = defineProps<{
  design: Design
  tunnel: Tunnel
  side: Side
  field: string
  label: string
  error: string
  withoutOffers?: boolean // nothing is proposed for it
  mirrored: boolean // the other end's field may be given the same value at once
  start: string | null // what was typed before a reload
  save: (value: unknown, both: boolean) => void // not an event: the vault may answer when the editor is gone
}>()
const emit = defineEmits<{ typed: [text: string | null]; close: [] }>() // null for a secret, which is kept nowhere

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
/** All that is typed and chosen here, as it is kept over a reload. */
interface Entered {
  typed: string
  chosen: string | boolean | null
  several: string[]
  identityType: Identity['type']
  proposals: Proposal[]
}
const before: Partial<Entered> = props.start ? (JSON.parse(props.start) as Entered) : {}
const typed = ref(before.typed ?? startText())
const chosen = ref(before.chosen ?? (value as string | boolean | null))
const several = ref<string[]>(before.several ?? (editor === 'several' ? [...(value as string[])] : []))
const identityType = ref<Identity['type']>(before.identityType ?? (value as Identity | null)?.type ?? 'fqdn')
const draft = ref<Proposal[]>(before.proposals ?? (editor === 'proposals' ? (value as Proposal[]) : []))
watch([typed, chosen, several, identityType, draft], () => {
  const all: Entered = {
    typed: typed.value,
    chosen: chosen.value,
    several: several.value,
    identityType: identityType.value,
    proposals: draft.value,
  }
  emit('typed', JSON.stringify(all))
})
const both = ref(false)
/** What follows from the rest of the design: taken over by one press, and saved as what is typed. */
const { offers } = useProposed(
  () => props.tunnel.id,
  () => props.side,
  () => props.field,
  !props.withoutOffers,
)
function take(text: string): void {
  typed.value = text
  if (editor === 'identity') identityType.value = 'fqdn'
}
const identityTypes = computed(() =>
  [...IDENTITY_TYPES, ...(props.field === 'remote_identity' ? (['any'] as const) : [])].map((type) => ({
    value: type,
    label: words(type),
  })),
)
const isLong = editor === 'certificates'

function startText(): string {
  if (editor === 'identity') return (value as Identity | null)?.value ?? ''
  if (editor === 'networks') return (value as string[]).join(', ')
  if (editor === 'certificates')
    return (value as TunnelEnd['certificates']).map((certificate) => certificate.pem).join('')
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
  props.save(Array.isArray(value) ? [] : null, both.value)
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
      :save="(found) => save(found, both)"
      @typed="emit('typed', null)"
      @close="emit('close')"
    />
    <KeyPairEditor
      v-else-if="editor === 'key-pair'"
      :pair="pair"
      :label="label"
      :save="(found) => save(found, false)"
      @typed="emit('typed', null)"
      @close="emit('close')"
    />
    <AccountEditor
      v-else-if="editor === 'account'"
      :account="account"
      :accepted="field === 'accepted_account'"
      :save="(found) => save(found, false)"
      @typed="emit('typed', null)"
      @close="emit('close')"
    />
    <ProposalsEditor
      v-else-if="editor === 'proposals'"
      v-model="draft"
      :protocol="field === 'ike_proposals' ? 'ike' : 'esp'"
      @save="save($event, both)"
      @close="emit('close')"
    />
    <form v-else @submit.prevent="save(entered(), both)">
      <div class="line">
        <SelectField
          v-if="chosenOf"
          v-model="chosen"
          class="choice"
          stacked
          :options="chosenOf"
          :label="label"
          hide-label
        />
        <SeveralField v-else-if="editor === 'several'" v-model="several" :choices="choices" :label="label" />
        <ElInput
          v-else-if="isLong"
          v-model="typed"
          type="textarea"
          class="figures long"
          :rows="5"
          :aria-label="label"
          :placeholder="hint"
          :aria-invalid="Boolean(error)"
          spellcheck="false"
        />
        <template v-else>
          <SelectField
            v-if="editor === 'identity'"
            v-model="identityType"
            class="type"
            stacked
            :label="`Type of ${label}`"
            hide-label
            :options="identityTypes"
          />
          <ElInput
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
      <p v-for="offer in offers" :key="offer.text">
        <ElButton link type="primary" :title="offer.text" @click="take(offer.text)">{{
          offer.says
        }}</ElButton>
        <span class="figures offer">{{ offer.text }}</span>
      </p>
      <div class="line">
        <ElButton type="primary" native-type="submit">Save</ElButton>
        <ElButton @click="emit('close')">Cancel</ElButton>
        <ElButton v-if="!needed && editor !== 'uplink'" @click="forget"> Not known </ElButton>
      </div>
    </form>
    <ElCheckbox v-if="mirrored" v-model="both">The same at both ends</ElCheckbox>
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
.offer {
  margin-left: 6px;
  font-size: 11px;
  overflow-wrap: anywhere;
}
.choice {
  flex: 1;
}
.type {
  flex: 0 1 130px;
}
.long {
  font-size: 11px;
}
</style>
