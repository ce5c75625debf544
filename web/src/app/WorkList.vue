<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { SEVERITIES, SEVERITY_TITLES } from '@/ui/words'
import FindingCard from './FindingCard.vue'

const route = useRoute()
const { analysis, examining } = useOpenDesign()
const everything = ref(false)

const all = computed(() => analysis.value?.findings ?? [])
const inView = computed(() => all.value.filter(isInView))
const shown = computed(() => (everything.value ? all.value : inView.value))
const untold = computed(() => (analysis.value?.findings_count ?? 0) - all.value.length)
const elsewhere = computed(() => all.value.length - inView.value.length)
const groups = computed(() =>
  SEVERITIES.map((severity) => ({
    severity,
    title: SEVERITY_TITLES[severity],
    findings: shown.value.filter((finding) => finding.severity === severity),
  })).filter((group) => group.findings.length),
)

function isInView(finding: Finding): boolean {
  if (route.name === 'addresses' || route.name === 'paths') return finding.screen === route.name
  if (route.name !== 'match' && route.name !== 'compare-keys') return true
  const tunnelId = route.params.tunnelId
  return finding.where.some((place) => place.type === 'tunnel' && (!tunnelId || place.id === tunnelId))
}
function keyOf(finding: Finding): string {
  return finding.code + finding.where.map((place) => place.id + place.field).join()
}
</script>

<template>
  <aside class="list" aria-label="Worklist">
    <h2>
      Worklist
      <span class="muted">{{ shown.length === 1 ? '1 finding' : `${shown.length} findings` }}</span>
    </h2>
    <p v-if="examining" class="muted" role="status">
      Examining …{{ analysis ? ' What stands here is of the revision before.' : '' }}
    </p>
    <p v-if="analysis && !examining && !shown.length" class="nothing muted">Nothing open here.</p>
    <p v-if="untold > 0" class="muted">
      The worst {{ all.length }} are told here; {{ untold }} more are behind them.
    </p>
    <section v-for="group in groups" :key="group.severity">
      <h3 :class="group.severity">
        {{ group.title }} <span class="figures">{{ group.findings.length }}</span>
      </h3>
      <FindingCard v-for="finding in group.findings" :key="keyOf(finding)" :finding="finding" />
    </section>
    <button v-if="elsewhere" class="plain-button more" type="button" @click="everything = !everything">
      {{ everything ? 'Only what is in view' : `${elsewhere} more elsewhere in the design` }}
    </button>
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
  justify-content: space-between;
  margin-bottom: 8px;
}
h2 .muted {
  font-size: 12px;
  font-weight: 400;
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
