<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { NextStep } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

/** What to do next in a design that isn't finished, each with the press that does it. */
const router = useRouter()
const { analysis, designId, revision, design } = useOpenDesign()
const { data: steps } = useQuery({
  queryKey: ['next-steps', designId, revision],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/next-steps', {
        params: { path: { design_id: designId.value } },
        signal,
      }),
    ),
  enabled: computed(() => revision.value !== undefined),
  placeholderData: (before) => before,
})
const green = computed(
  () =>
    steps.value?.length === 0 &&
    Boolean(design.value?.tunnels.length) &&
    analysis.value?.findings_count === 0 &&
    analysis.value.forecasts.every((forecast) => forecast.state === 'holds'),
)
type Press = { label: string; to: (step: NextStep) => RouteLocationRaw }
const inGrid = (grid: string) => () => ({ name: 'survey', params: { designId: designId.value, grid } })
const toView = (name: string) => () => ({ name, params: { designId: designId.value } })
const PRESSES: Record<NextStep['action'], Press> = {
  'add-sites': { label: 'Add sites', to: toView('start') },
  'add-uplinks': { label: 'Add uplinks', to: inGrid('uplinks') },
  'add-networks': { label: 'Add networks', to: inGrid('networks') },
  'connect-sites': { label: 'Connect sites', to: toView('connect') },
  'choose-standard': {
    label: 'Choose a standard',
    to: ({ ids }) => ({
      name: 'match',
      params: { designId: designId.value, tunnelId: ids[0] ?? '' },
      query: { open: 'standard' },
    }),
  },
  'add-intents': {
    label: 'Say what is wanted',
    to: () => ({ name: 'paths', params: { designId: designId.value, panel: 'tables', objectId: 'intents' } }),
  },
}
</script>

<template>
  <section v-if="steps?.length" class="next" aria-label="What to do next">
    <h3>Next</h3>
    <p v-for="step in steps" :key="step.action">
      {{ step.says }}
      <ElButton link type="primary" @click="router.push(PRESSES[step.action].to(step))">{{
        PRESSES[step.action].label
      }}</ElButton>
    </p>
  </section>
  <p v-else-if="green" class="green" role="status">All tunnels come up, and all that is wanted arrives.</p>
</template>

<style scoped>
.next {
  margin-top: 10px;
}
.next p {
  padding: 4px 0;
}
.green {
  color: var(--verdigris);
}
</style>
