<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'
import SelectField from '@/ui/SelectField.vue'
import PlanSummary from './PlanSummary.vue'
import { rehearsedTunnels } from './states'
import StepList from './StepList.vue'
import { startRun, usePlan, usePlanProgress } from './useHandover'

/** An order of steps, from what runs to the design as it stands; or what takes something down and leaves nothing. */
const emit = defineEmits<{ walk: [runId: string] }>()
const session = useOpenDesign()
const { design, designId, history, revision } = session
const route = useRoute()
const router = useRouter()

const asked = computed(() => (typeof route.query.since === 'string' ? route.query.since : ''))
/** Without a choice, the plan is about the last change. */
const since = computed(() => asked.value || String(Math.max((revision.value ?? 0) - 1, 0)))
const isTakeDown = computed(() => since.value.includes('/'))
const { data, error, isFetching } = usePlan(session, since)

const isRevision = computed(() => !isTakeDown.value && since.value !== 'devices')
const reviewAddress = computed(() => `/api/designs/${designId.value}/review`)
const MOST_REHEARSED = 12
const rehearsals = computed(() => (data.value ? rehearsedTunnels(data.value.plan) : []))

const revisions = computed(() => {
  const notes = new Map((history.value?.changes ?? []).map((change) => [change.revision, change.note]))
  const current = revision.value ?? 0
  const numbers = [...Array(Math.min(current, 100)).keys()].map((k) => current - 1 - k)
  if (!numbers.length) numbers.push(0)
  const asRead = { value: 'devices', label: 'what was read of the devices' }
  return [
    asRead,
    ...numbers.map((number) => {
      const next = notes.get(number + 1)
      return {
        value: String(number),
        label: next ? `revision ${number}, before “${next}”` : `revision ${number}`,
      }
    }),
  ]
})
const removable = computed(() => [
  ...(design.value?.tunnels ?? []).map((tunnel) => ({
    value: `tunnel/${tunnel.id}`,
    label: `tunnel ${tunnel.name}`,
  })),
  ...(design.value?.sites ?? []).map((site) => ({ value: `site/${site.id}`, label: `site ${site.name}` })),
])
function choose(value: string): void {
  void router.replace({ query: { ...route.query, since: value } })
}
const { trouble, isBusy: isStarting, doing } = useDoing()
const { data: progress } = usePlanProgress(
  session,
  computed(() => isFetching.value || isStarting.value),
)
const walk = () => doing(async () => emit('walk', (await startRun(designId.value, since.value)).id))
</script>

<template>
  <section class="plan plain-fields" aria-label="Plan of a change">
    <header>
      <SelectField
        label="From what runs"
        class="wide"
        :model-value="isTakeDown ? null : since"
        :options="revisions"
        placeholder="a revision"
        @update:model-value="choose"
      />
      <span class="muted">to the design as it stands</span>
      <SelectField
        label="or take down"
        class="wide"
        :model-value="isTakeDown ? since : null"
        :options="removable"
        placeholder="nothing"
        @update:model-value="choose"
      />
      <ElButton type="primary" :disabled="!data?.plan.steps.length || isStarting" @click="walk"
        >Walk this plan</ElButton
      >
    </header>
    <p v-if="error || trouble" class="field-error" role="alert">{{ trouble || error?.message }}</p>
    <template v-else-if="(!data && isFetching) || isStarting">
      <p v-if="progress?.of" role="status">
        {{ isStarting ? 'Proving it once more, to keep it' : 'Proving each step' }}:
        {{ progress.done.toLocaleString('en') }} of {{ progress.of.toLocaleString('en') }}
      </p>
      <ElSkeleton :rows="6" animated />
    </template>
    <template v-else-if="data">
      <div class="title">
        <h2>{{ data.title }}</h2>
        <template v-if="isRevision">
          <ElButton tag="a" :href="`${reviewAddress}/html?since=${since}`" target="_blank"
            >Page for the reviewer</ElButton
          >
          <ElButton
            tag="a"
            :href="`${reviewAddress}/csv?since=${since}`"
            :download="`${designId}-changes.csv`"
            >Changes as CSV</ElButton
          >
          <ElButton tag="a" :href="`${reviewAddress}/pdf?since=${since}`" :download="`${designId}-review.pdf`"
            >Review as PDF</ElButton
          >
        </template>
      </div>
      <PlanSummary :plan="data.plan" />
      <div v-if="data.leftovers.length" class="stays">
        <h3>What stays, since no step takes it out</h3>
        <ul>
          <li v-for="leftover in data.leftovers" :key="`${leftover.where} ${leftover.what}`">
            {{ leftover.where }}: {{ leftover.what }}
          </li>
        </ul>
      </div>
      <p v-if="rehearsals.length" class="rehearsals">
        Rehearse it step by step:
        <RouterLink
          v-for="rehearsal in rehearsals.slice(0, MOST_REHEARSED)"
          :key="rehearsal.id"
          :to="{ name: 'rehearse', params: { designId, tunnelId: rehearsal.id }, query: { plan: since } }"
          >{{ rehearsal.name }}</RouterLink
        >
        <span v-if="rehearsals.length > MOST_REHEARSED" class="muted"
          >and {{ rehearsals.length - MOST_REHEARSED }} more</span
        >
      </p>
      <StepList :plan="data.plan" />
    </template>
  </section>
</template>

<style scoped>
.plan {
  padding: 10px 16px 16px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.wide :deep(.el-select) {
  width: 280px;
}
.stays {
  padding: 6px 10px;
  margin: 8px 0;
  background: var(--card);
  border-left: 3px solid var(--slate);
}
.stays h3 {
  margin: 0;
  font-size: 13px;
}
.stays ul {
  padding-left: 18px;
  margin: 2px 0 0;
}
.rehearsals {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 6px 0;
}
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin-top: 10px;
}
h2 {
  margin-right: auto;
  font-size: 16px;
}
</style>
