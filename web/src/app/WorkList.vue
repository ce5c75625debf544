<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { counted, SEVERITIES, SEVERITY_TITLES } from '@/ui/words'
import AcceptedList from './AcceptedList.vue'
import DevicesOff from './DevicesOff.vue'
import NextSteps from './NextSteps.vue'
import FindingGroup from './FindingGroup.vue'
import { grouped, isAccepted, SEVERITY_CHOICES, type WorkFilter } from './grouping'
import { tunnelOf } from './places'

/** What is open in view or in the whole design, grouped by what is wrong, the worst first. */
const AREAS: { value: WorkFilter['area']; label: string }[] = [
  { value: '', label: 'any area' },
  { value: 'match', label: 'Match' },
  { value: 'addresses', label: 'Addresses' },
  { value: 'paths', label: 'Paths' },
  { value: 'survey', label: 'Survey' },
]
const emit = defineEmits<{ fold: [] }>()
const route = useRoute()
const { analysis, examining } = useOpenDesign()
const everything = ref(false)
const filter = reactive<WorkFilter>({ severity: '', area: '' })

const all = computed(() => analysis.value?.findings ?? [])
const open = computed(() => all.value.filter((finding) => !isAccepted(finding)))
const OWN_SCREENS: ReadonlySet<string> = new Set(['addresses', 'paths', 'people', 'clouds'])
const accepted = computed(() => all.value.filter(isAccepted))
const inView = computed(() => open.value.filter(isInView))
const listed = computed(() => (everything.value ? open.value : inView.value))
const groups = computed(() => grouped(listed.value, filter))
const shown = computed(() => groups.value.reduce((sum, group) => sum + group.findings.length, 0))
const untold = computed(() => (analysis.value?.findings_count ?? 0) - all.value.length)
const elsewhere = computed(() => open.value.length - inView.value.length)
const bySeverity = computed(() =>
  SEVERITIES.map((severity) => ({
    severity,
    title: SEVERITY_TITLES[severity],
    groups: groups.value.filter((group) => group.severity === severity),
  })).filter((candidate) => candidate.groups.length),
)
const countOf = (some: typeof groups.value) => some.reduce((sum, group) => sum + group.findings.length, 0)

function isInView(finding: Finding): boolean {
  if (OWN_SCREENS.has(String(route.name))) return finding.screen === route.name
  const tunnelId = tunnelOf(route)
  if (tunnelId === undefined) return true
  return finding.where.some((place) => place.type === 'tunnel' && (!tunnelId || place.id === tunnelId))
}
</script>

<template>
  <aside class="list" aria-label="Worklist">
    <h2>
      Worklist
      <span class="muted">{{ analysis ? counted(shown, 'finding') : '' }}</span>
      <ElButton link aria-label="Fold the worklist" title="Fold the worklist" @click="emit('fold')"
        >»</ElButton
      >
    </h2>
    <div class="filter">
      <SelectField
        v-model="filter.severity"
        label="Severity"
        hide-label
        stacked
        :options="SEVERITY_CHOICES"
      />
      <SelectField v-model="filter.area" label="Area" hide-label stacked :options="AREAS" />
    </div>
    <p v-if="examining" class="muted" role="status">
      Examining …{{ analysis ? ' What stands here is of the revision before.' : '' }}
    </p>
    <p v-if="analysis && !examining && !shown" class="nothing muted">Nothing open here.</p>
    <p v-if="untold > 0" class="muted">
      The worst {{ all.length }} are told here; {{ untold }} more are behind them.
    </p>
    <section v-for="part in bySeverity" :key="part.severity">
      <h3 :class="part.severity">
        {{ part.title }} <span class="figures">{{ countOf(part.groups) }}</span>
      </h3>
      <FindingGroup v-for="group in part.groups" :key="group.key" :group="group" />
    </section>
    <DevicesOff />
    <NextSteps />
    <ElButton v-if="elsewhere" class="more" @click="everything = !everything">
      {{ everything ? 'Only what is in view' : `${elsewhere} more elsewhere in the design` }}
    </ElButton>
    <AcceptedList v-if="accepted.length" :findings="accepted" />
  </aside>
</template>

<style scoped>
.list {
  padding: 12px;
  overflow: auto;
  border-left: 1px solid var(--line);
}
h2 {
  display: flex;
  gap: 8px;
  align-items: baseline;
  margin-bottom: 6px;
}
h2 .muted {
  flex: 1;
  font-size: 12px;
  font-weight: 400;
  text-align: right;
}
.filter {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
section h3 {
  margin: 12px 0 6px;
}
h3.blocker {
  color: var(--madder);
}
h3.later,
h3.partial,
h3.exposure {
  color: var(--ochre);
}
.nothing {
  padding: 12px 0;
}
.more {
  width: 100%;
  margin-top: 8px;
}
</style>
