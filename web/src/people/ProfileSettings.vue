<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Profile } from '@/api/types'
import { kindOf, putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import { useTyped } from '@/design/useTyped'
import { useRemoval } from '@/design/useRemoval'
import { useRouter } from 'vue-router'
import RemovalDialog from '@/ui/RemovalDialog.vue'
import SelectField from '@/ui/SelectField.vue'
import { words } from '@/ui/words'
import InsideTests from './InsideTests.vue'
import ProxyFields from './ProxyFields.vue'
import TrafficRules from './TrafficRules.vue'

/** For whom a profile is, where and when it is dialled, and what the device does with its traffic. */
const props = defineProps<{ profile: Profile }>()
const session = useOpenDesign()
const { design } = session
const { changeHere, troubles, forget } = useChangeHere()
const router = useRouter()
const typed = useTyped(session.designId, 'profile')
const kept = typed.at(props.profile.id, 'draft')

const FIELDS = [
  'name',
  'gateway_id',
  'pool_id',
  'dhcp_block',
  'people',
  'groups',
  'families',
  'servers',
  'search',
  'dial',
  'dial_applications',
  'inside_tests',
  'rules',
  'proxy',
  'lock_down',
  'second_factor',
  'idle_limit_s',
  'session_limit_s',
] as const
type Draft = Pick<Profile, (typeof FIELDS)[number]>
const draftOf = (profile: Profile): Draft => {
  const copy = JSON.parse(JSON.stringify(profile)) as Profile
  return Object.fromEntries(FIELDS.map((field) => [field, copy[field]])) as Draft
}
const draft = ref<Draft>(kept ? (JSON.parse(kept.text) as Draft) : draftOf(props.profile))
const isChanged = computed(() => JSON.stringify(draft.value) !== JSON.stringify(draftOf(props.profile)))
watch(
  draft,
  () => {
    if (isChanged.value) typed.keep(props.profile.id, 'draft', JSON.stringify(draft.value))
    else typed.drop(props.profile.id, ['draft'])
  },
  { deep: true },
)
watch(
  () => props.profile,
  (now, before) => {
    // what somebody else changed shows, unless it is being changed here
    if (JSON.stringify(draft.value) === JSON.stringify(draftOf(before))) draft.value = draftOf(now)
  },
)

const columns = new Map((kindOf('profile')?.columns ?? []).map((column) => [column.field, column]))
const chosen = (field: string) =>
  (columns.get(field)?.choices ?? []).map((value) => ({ value, label: words(value) }))
const gateways = computed(() =>
  (design.value?.gateways ?? []).map((gateway) => ({ value: gateway.id, label: gateway.name })),
)
const pools = computed(() => [
  { value: '', label: 'not known yet' },
  ...(design.value?.networks ?? [])
    .filter((network) => network.role === 'pool')
    .map((network) => ({ value: network.id, label: `${network.name} ${network.prefix}` })),
])
const YES_NO_OPEN = [
  { value: '', label: 'not known yet' },
  { value: 'yes', label: 'yes' },
  { value: 'no', label: 'no' },
]
const factor = computed({
  get: () => (draft.value.second_factor === null ? '' : draft.value.second_factor ? 'yes' : 'no'),
  set: (value) => (draft.value.second_factor = value === '' ? null : value === 'yes'),
})
async function save(): Promise<void> {
  const changed = [putOf('profile', { ...props.profile, ...draft.value })]
  if (await changeHere(changed, `Change the profile ${draft.value.name}`))
    typed.drop(props.profile.id, ['draft'])
}
function giveUp(): void {
  draft.value = draftOf(props.profile)
  forget()
}
const removing = useRemoval(session)
async function removeProfile(): Promise<void> {
  if (await removing.remove('profile', props.profile.id)) leave()
}
function leave(): void {
  void router.push({ name: 'people', params: { designId: session.designId.value, profileId: '', panel: '' } })
}
const told = computed(() =>
  Object.entries(troubles.value).map(([field, reason]) => ({
    field,
    says: `${columns.get(field)?.title ?? words(field.replaceAll('_', '-'))}: ${reason}`,
  })),
)
</script>

<template>
  <form class="settings stacked-fields" aria-label="When and where" @submit.prevent="save">
    <fieldset>
      <legend>For whom</legend>
      <label>Name <ElInput v-model="draft.name" maxlength="80" /></label>
      <div class="field">
        <span aria-hidden="true">Groups</span>
        <ElInputTag v-model="draft.groups" aria-label="Groups" placeholder="Deck crew, then Enter" />
      </div>
      <label>People <ElInputNumber v-model="draft.people" :min="0" :controls="false" /></label>
      <div class="field">
        <span aria-hidden="true">Families of devices</span>
        <ElCheckboxGroup v-model="draft.families" aria-label="Families of devices">
          <ElCheckbox
            v-for="family in chosen('families')"
            :key="family.value"
            :value="family.value"
            :label="family.label"
          />
        </ElCheckboxGroup>
        <span v-if="!draft.families.length" class="muted">all of them</span>
      </div>
    </fieldset>
    <fieldset>
      <legend>Where to dial</legend>
      <SelectField v-model="draft.gateway_id" stacked label="Gateway" :options="gateways" />
      <SelectField
        stacked
        label="Pool"
        :model-value="draft.pool_id ?? ''"
        :options="pools"
        @update:model-value="draft.pool_id = $event || null"
      />
      <label
        title="The gateway takes the addresses from a DHCP server, so many at once; empty where it gives them out itself."
        >Leases that the gateway takes at once
        <ElInputNumber v-model="draft.dhcp_block" :min="1" :controls="false"
      /></label>
      <div class="field">
        <span aria-hidden="true">Servers, in this order</span>
        <ElInputTag
          v-model="draft.servers"
          aria-label="Servers"
          placeholder="dial.skerry.example, then Enter"
          draggable
        />
      </div>
      <div class="field">
        <span aria-hidden="true">Search list</span>
        <ElInputTag
          v-model="draft.search"
          aria-label="Search list"
          placeholder="skerry.example, then Enter"
        />
      </div>
    </fieldset>
    <fieldset>
      <legend>When to dial</legend>
      <SelectField
        v-model="draft.dial"
        stacked
        label="Dials"
        :options="chosen('dial') as { value: Profile['dial']; label: string }[]"
      />
      <div v-if="draft.dial === 'applications'" class="field">
        <span aria-hidden="true">Applications</span>
        <ElInputTag
          v-model="draft.dial_applications"
          aria-label="Applications"
          placeholder="Rota, then Enter"
        />
      </div>
      <ElCheckbox v-model="draft.lock_down"
        >Lock-down: nothing leaves the device while it should be dialled</ElCheckbox
      >
      <InsideTests v-model="draft.inside_tests" />
    </fieldset>
    <fieldset>
      <legend>Proof and limits</legend>
      <SelectField v-model="factor" stacked label="Second factor" :options="YES_NO_OPEN" />
      <label>Idle limit, s <ElInputNumber v-model="draft.idle_limit_s" :controls="false" /></label>
      <label>Session limit, s <ElInputNumber v-model="draft.session_limit_s" :controls="false" /></label>
      <ProxyFields v-model="draft.proxy" />
    </fieldset>
    <TrafficRules v-model="draft.rules" class="wide" />
    <div class="wide buttons">
      <ElButton type="primary" native-type="submit" :disabled="!isChanged">Save</ElButton>
      <ElButton :disabled="!isChanged" @click="giveUp">As it was</ElButton>
      <ElButton class="remove" @click="removeProfile">Remove this profile</ElButton>
    </div>
    <p v-for="fault in told" :key="fault.field" class="field-error wide" role="alert">{{ fault.says }}</p>
    <RemovalDialog :removing="removing" @removed="leave" />
  </form>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(270px, 1fr));
  gap: 10px;
  padding: 10px 16px;
}
fieldset {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
  padding: 8px 12px 10px;
  margin: 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
legend {
  font-weight: 600;
}
.wide {
  grid-column: 1 / -1;
}
.buttons {
  display: flex;
  gap: 8px;
}
.remove {
  margin-left: auto;
}
.el-checkbox {
  height: auto;
  white-space: normal;
}
</style>
