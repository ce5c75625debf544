<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import FaultBar from './FaultBar.vue'
import RehearsedCourse from './RehearsedCourse.vue'
import { saveCapture, useAsked, useRehearsal } from './useRehearsal'

/** One tunnel, dialled: time, both ends, what went between them, and whether the forecast said so. */
const props = defineProps<{ tunnel: Tunnel }>()
const session = useOpenDesign()
const { asked, at, set } = useAsked()
const { data, error, isFetching } = useRehearsal(
  session,
  toRef(() => props.tunnel.id),
  asked,
)
const forecast = computed(() =>
  session.analysis.value?.forecasts.find((candidate) => candidate.tunnel_id === props.tunnel.id),
)
const saving = ref(false)
async function save(): Promise<void> {
  saving.value = true
  await saveCapture(session.designId.value, props.tunnel.id, asked.value).finally(
    () => (saving.value = false),
  )
}
</script>

<template>
  <section class="one" :aria-label="`Rehearsal of ${tunnel.name}`">
    <header>
      <h2>{{ tunnel.name }}</h2>
      <span class="buttons">
        <ElButton :loading="saving" :disabled="!data?.packets.length" @click="save"
          >Save capture and keys</ElButton
        >
        <ElButton
          v-if="data && !data.agrees"
          tag="a"
          :href="`/api/designs/${session.designId.value}/export`"
          download
          title="The design as a file: with the tunnel's name and the same start it can be rehearsed again"
        >
          Keep the case
        </ElButton>
      </span>
      <ForecastStrip v-if="forecast" class="strip" :forecast="forecast" />
    </header>
    <p v-if="asked.plan">
      By the steps of a plan; after each of them both ends dial anew.
      <RouterLink
        :to="{
          name: 'handover',
          params: { designId: session.designId.value, panel: '', objectId: '' },
          query: { since: asked.plan },
        }"
        >The plan</RouterLink
      >
      <ElButton link @click="set({ plan: undefined, at: undefined })">Rehearse it without the plan</ElButton>
    </p>
    <FaultBar v-else :choices="data?.choices ?? []" :asked="asked" @change="set" />
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!data && isFetching" :rows="6" animated />
    <RehearsedCourse v-else-if="data" :rehearsal="data" :at="at" @at="set({ at: String($event) })" />
  </section>
</template>

<style scoped>
.one {
  padding: 10px 16px 16px;
  overflow: auto;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
h2 {
  font-size: 16px;
}
.buttons {
  display: flex;
  gap: 4px;
  margin-left: auto;
}
.strip {
  flex: 1 0 100%;
}
</style>
