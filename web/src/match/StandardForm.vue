<script setup lang="ts">
import { computed, ref } from 'vue'
import described from '@/api/kinds.json'
import { api, bodyOf } from '@/api/client'
import type { EndFieldDescription, Standard } from '@/api/types'
import { putOf } from '@/design/kinds'
import { reasonsByField } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { OUTLOOK_WORDS } from '@/ui/words'
import { numberOf } from './fields'
import ProposalsEditor from './ProposalsEditor.vue'

/** A standard being changed: which tunnels it changes, and what becomes of each forecast, before it is saved. */
const props = defineProps<{ standard: Standard; isNew: boolean }>()
const emit = defineEmits<{ close: [] }>()
const { designId, revision } = useOpenDesign()
const { changeHere, trouble } = useChangeHere()
const draft = ref<Standard>({ ...props.standard })
const typed = ref<Record<string, string>>({})

const SECONDS = [
  'ike_lifetime_s',
  'child_lifetime_s',
  'rekey_margin_s',
  'dead_peer_s',
  'keepalive_s',
] as const
const LISTS = [
  { field: 'ike_proposals', protocol: 'ike' },
  { field: 'child_proposals', protocol: 'esp' },
] as const
const NOTHING = { value: '', label: 'each tunnel decides' }
const FIELDS = new Map((described.end_fields as EndFieldDescription[]).map((field) => [field.field, field]))
const titleOf = (field: string) => FIELDS.get(field)?.title ?? field
const choicesOf = (field: string) => [NOTHING, ...(FIELDS.get(field)?.choices ?? [])]
const COLUMNS: TableColumn[] = [
  { name: 'tunnel', title: 'Tunnel', minWidth: 140 },
  { name: 'before', title: 'Now', width: 120 },
  { name: 'after', title: 'Then', width: 120 },
  { name: 'says', title: 'What is foretold then', minWidth: 240 },
]
const text = (field: (typeof SECONDS)[number]) => typed.value[field] ?? String(draft.value[field] ?? '')
const shown = computed<Standard>(() => ({
  ...draft.value,
  ...Object.fromEntries(Object.entries(typed.value).map(([field, written]) => [field, numberOf(written)])),
}))
const changed = computed(() => props.isNew || JSON.stringify(shown.value) !== JSON.stringify(props.standard))
const { answer, problem, settled } = useAnswer(
  'standard-effect',
  () => (changed.value && !props.isNew ? { revision: revision.value, standard: shown.value } : null),
  ({ standard }, signal) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/standards/effect', {
        params: { path: { design_id: designId.value } },
        body: standard,
        signal,
      }),
    ),
)
const reasons = computed(() => reasonsByField(problem.value))
const ready = computed(
  () => changed.value && (props.isNew || (answer.value && settled.value && !problem.value)),
)
const count = computed(() => answer.value?.tunnels.length ?? 0)
const worse = computed(
  () =>
    answer.value?.tunnels.filter((tunnel) => tunnel.before === 'holds' && tunnel.after !== 'holds').length ??
    0,
)

async function save(): Promise<void> {
  const operations = props.isNew ? [putOf('standard', shown.value)] : (answer.value?.operations ?? [])
  const note = props.isNew
    ? `Add the standard ${shown.value.name}`
    : `Change the standard ${shown.value.name}`
  if (await changeHere(operations, note)) emit('close')
}
const orNull = <T,>(chosen: T | '') => (chosen === '' ? null : chosen)
</script>

<template>
  <form class="standard" :aria-label="`Standard ${standard.name}`" @submit.prevent="save">
    <div class="fields">
      <label>Name <ElInput v-model="draft.name" maxlength="80" /></label>
      <label
        >Identity pattern
        <ElInput
          :model-value="draft.identity_pattern ?? ''"
          class="figures"
          title="{site}, {gateway} and {design} stand for their names"
          spellcheck="false"
          @update:model-value="draft.identity_pattern = $event || null"
      /></label>
      <SelectField
        :model-value="draft.mode ?? ''"
        label="Mode"
        stacked
        :options="choicesOf('mode')"
        @update:model-value="draft.mode = orNull($event as Standard['mode'] | '')"
      />
      <SelectField
        :model-value="draft.auth ?? ''"
        label="Both prove themselves by"
        stacked
        :options="choicesOf('local_auth')"
        @update:model-value="draft.auth = orNull($event as Standard['auth'] | '')"
      />
      <label v-for="field in SECONDS" :key="field">
        {{ titleOf(field) }}
        <ElInput
          :model-value="text(field)"
          class="figures"
          inputmode="numeric"
          :aria-invalid="Boolean(reasons[field])"
          @update:model-value="typed[field] = $event"
        />
        <span v-if="reasons[field]" class="field-error" role="alert">{{ reasons[field] }}</span>
      </label>
    </div>
    <div class="lists">
      <div v-for="{ field, protocol } in LISTS" :key="field">
        <h4>{{ titleOf(field) }}</h4>
        <ProposalsEditor
          :model-value="draft[field] ?? []"
          :protocol="protocol"
          embedded
          @update:model-value="draft[field] = $event"
        />
      </div>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <div class="buttons">
      <ElButton type="primary" native-type="submit" :disabled="!ready">
        {{ count ? `Save, and change ${count === 1 ? '1 tunnel' : `${count} tunnels`}` : 'Save' }}
      </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <span v-if="worse" class="worse" role="status"
        >{{ worse === 1 ? '1 tunnel that comes up now' : `${worse} tunnels that come up now` }} would not any
        more.</span
      >
      <span v-else-if="changed && !isNew && answer && !count" class="muted" role="status"
        >No tunnel changes.</span
      >
    </div>
    <DataTable
      v-if="count"
      :rows="answer?.tunnels ?? []"
      :columns="COLUMNS"
      label="Tunnels that change"
      :row-class="(row) => (row.before === row.after ? '' : 'differs')"
    >
      <template #before="{ row }">{{ OUTLOOK_WORDS[row.before] }}</template>
      <template #after="{ row }">{{ OUTLOOK_WORDS[row.after] }}</template>
    </DataTable>
    <p v-if="changed && answer?.departures.length" class="muted">
      {{ answer.departures.length }} fields depart from it and stay as somebody decided.
    </p>
  </form>
</template>

<style scoped>
.standard {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: 6px 12px;
}
.lists {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 12px;
}
h4 {
  margin: 4px 0;
  font-size: 12px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.worse {
  color: var(--madder);
}
</style>
