<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { DeviceState, Profile, RolloutAct, RolloutShown } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { counted, dateAndTime } from '@/ui/words'
import AddPeople from './AddPeople.vue'
import DeviceSetup from './DeviceSetup.vue'
import StateBar from './StateBar.vue'
import { DEVICE_STATE_WORDS, useRollout } from './usePeople'
import VersionsList from './VersionsList.vue'

/** Which version of a profile is offered to whom, and what has become of it: figures from what devices asked and said. */
const PAGE = 200 // devices that the server tells at once

const props = defineProps<{ profile: Profile }>()
const session = useOpenDesign()
const state = ref<DeviceState | ''>('')
const page = ref(1)
const begin = computed(() => (page.value - 1) * PAGE)
watch(state, () => (page.value = 1))
const { data, error, act, sign, add, remove } = useRollout(
  session,
  computed(() => props.profile.id),
  state,
  begin,
)
const remark = ref('')
const first = ref(2)
const { trouble, isBusy, doing, sending } = useDoing()
const newest = computed(() => data.value?.versions[0]?.number ?? 0)
const rollout = computed(() => data.value?.rollout ?? null)

const signNow = () => sending(remark, sign)
const offer = (what: RolloutAct, version: number | null = null) =>
  doing(() => act(what, version, first.value || 1))

const STAGE_WORDS = { first: 'to the first few', all: 'to all', stopped: 'to nobody more' } as const
const offered = computed(() => {
  if (!rollout.value) return 'Nothing is offered yet.'
  const { version, stage, before, first: few } = rollout.value
  const whom = stage === 'first' ? `to the first ${counted(few, 'device')}` : STAGE_WORDS[stage]
  const others =
    stage === 'all'
      ? ''
      : before
        ? `; the others are offered version ${before}`
        : '; the others are offered nothing'
  return `Version ${version} is offered ${whom}${others}.`
})
const STATES = computed(() => [
  { value: '' as const, label: 'in any state' },
  ...(data.value?.states ?? []).map((counted) => ({
    value: counted.state,
    label: `${DEVICE_STATE_WORDS[counted.state]} (${counted.count})`,
  })),
])
type Device = RolloutShown['devices'][number]
const COLUMNS: TableColumn[] = [
  { name: 'name', title: 'Device', minWidth: 128 },
  { name: 'person', title: 'Person', minWidth: 104 },
  { name: 'platform', title: 'Platform', minWidth: 108 },
  { name: 'state', title: 'State', width: 84 },
  { name: 'says', title: 'What it says', minWidth: 156 },
  { name: 'gone', title: '', width: 76 },
]
function says({ report, offered: version }: Device): string {
  if (report.refused !== null && report.refused === version) return report.reason
  if (report.active === null)
    return report.fetched === null ? 'hasn’t asked yet' : `has fetched version ${report.fetched}`
  const call =
    report.dialled === null ? '' : report.dialled ? ', call came through' : ', call did not come through'
  return `version ${report.active}${call}`
}
const heard = ({ report }: Device) =>
  report.reported_at ? `heard of ${dateAndTime(report.reported_at)}` : ''
const platformName = (id: string) =>
  session.design.value?.platforms.find((platform) => platform.id === id)?.name ?? id
/** Which versions are active, platform by platform. */
const byPlatform = computed(() =>
  (data.value?.platforms ?? [])
    .map(({ platform, version, count }) => {
      const has = version === null ? 'without one' : `on version ${version}`
      return `${platformName(platform)}: ${count} ${has}`
    })
    .join('; '),
)
function platformOf(device: Device): string {
  return [platformName(device.platform), device.report.platform_version].filter(Boolean).join(' ')
}
</script>

<template>
  <section class="rollout" aria-label="Roll-out">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <p class="sentence" role="status">{{ offered }}</p>
      <StateBar :states="data.states" @chosen="state = $event" />
      <p v-if="data.platforms.length" class="muted">{{ byPlatform }}</p>
      <div class="acts plain-fields">
        <form class="line" aria-label="Sign" @submit.prevent="signNow">
          <ElInput
            v-model="remark"
            maxlength="200"
            placeholder="What is new in it"
            aria-label="What is new in it"
          />
          <ElButton
            native-type="submit"
            :type="data.is_signed_as_it_stands ? 'default' : 'primary'"
            :disabled="data.is_signed_as_it_stands"
            :loading="isBusy"
            >Sign version {{ newest + 1 }}</ElButton
          >
          <span class="muted">{{
            data.is_signed_as_it_stands
              ? `Version ${newest} is the profile as it stands.`
              : newest
                ? 'The profile has changed since the newest version.'
                : 'No version is signed yet.'
          }}</span>
        </form>
        <div v-if="newest" class="line">
          <ElButton
            v-if="!rollout || rollout.version !== newest || rollout.stage !== 'all'"
            type="primary"
            @click="offer('all', newest)"
            >Offer version {{ newest }} to all</ElButton
          >
          <template v-if="!rollout || rollout.version !== newest">
            <ElButton @click="offer('first', newest)">Offer it to the first</ElButton>
            <ElInputNumber
              v-model="first"
              :min="1"
              :max="100000"
              :controls="false"
              aria-label="How many first"
            />
          </template>
          <ElButton v-if="rollout && rollout.stage !== 'stopped'" @click="offer('stop')">Stop</ElButton>
          <ElButton v-if="rollout?.before" @click="offer('take-back')"
            >Back to version {{ rollout.before }}</ElButton
          >
        </div>
      </div>
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <VersionsList :profile-id="profile.id" :versions="data.versions" />
      <div class="head">
        <h3>{{ counted(data.devices_count, 'device') }}</h3>
        <SelectField v-model="state" hide-label label="State" :options="STATES" />
        <AddPeople :add="add" />
      </div>
      <p v-if="!data.groups.length" class="muted">
        The profile is for no group yet; name one under “When and where”.
      </p>
      <DataTable :rows="data.devices" :columns="COLUMNS" label="Devices" empty="No device of these groups">
        <template #person="{ row }"
          >{{ row.person }} <span class="muted">{{ row.group }}</span></template
        >
        <template #platform="{ row }">{{ platformOf(row) }}</template>
        <template #state="{ row }"
          ><span :class="row.state">{{ DEVICE_STATE_WORDS[row.state] }}</span></template
        >
        <template #says="{ row }"
          ><span :title="heard(row)">{{ says(row) }}</span></template
        >
        <template #gone="{ row }"
          ><ElButton link :aria-label="`Remove ${row.name}`" @click="doing(() => remove([row.id]))"
            >Remove</ElButton
          ></template
        >
      </DataTable>
      <ElPagination
        v-if="data.devices_count > PAGE"
        v-model:current-page="page"
        layout="prev, pager, next"
        :page-size="PAGE"
        :total="data.devices_count"
      />
      <DeviceSetup />
    </template>
    <ElSkeleton v-else-if="!error" :rows="6" animated />
  </section>
</template>

<style scoped>
.rollout {
  padding: 10px 16px;
}
.sentence {
  font-size: 15px;
  font-weight: 500;
}
.acts {
  display: grid;
  gap: 6px;
  margin: 8px 0;
}
.line,
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
}
.line .el-input {
  width: 260px;
}
.line .el-input-number {
  width: 70px;
}
.head {
  margin: 10px 0 4px;
}
.refused,
.outdated {
  font-weight: 600;
}
.refused {
  color: var(--madder);
}
.outdated {
  color: var(--ochre);
}
.active {
  color: var(--verdigris);
}
</style>
