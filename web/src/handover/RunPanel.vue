<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { TickResult } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'
import { dateAndTime } from '@/ui/words'
import PairProbes from './PairProbes.vue'
import PlanSummary from './PlanSummary.vue'
import { RUN_WORDS } from './runWords'
import StepList from './StepList.vue'
import { PROTOCOL_WORDS, useAccesses } from './useDevices'
import { useRun } from './useHandover'

/** A plan that is walked: the next step is ticked by whoever does it; a failed check stops, and offers the way back. */
const props = defineProps<{ runId: string }>()
const session = useOpenDesign()
const {
  data: run,
  error,
  tick,
  make,
  tryStep,
  see,
  tryPair,
} = useRun(
  session,
  toRef(() => props.runId),
)
const remark = ref('')
const state = computed(() => run.value?.progress.state)
const isGoingBack = computed(() => state.value === 'going-back')
const canGoBack = computed(() => Boolean(run.value?.progress.done.length))

const { data: accesses } = useAccesses(session)
const { trouble, isBusy: isEntering, doing, sending } = useDoing()
const hasShell = computed(() => accesses.value?.some((access) => access.protocol === 'ssh'))
/** The protocol by which the device of a step is reached from here; empty where a person enters it. */
function reached(step: number | undefined): string {
  const device = run.value?.plan.steps.find((candidate) => candidate.number === step)?.device
  const access = accesses.value?.find(
    (candidate) => candidate.gateway_id === device?.id && device.type === 'gateway',
  )
  return access ? PROTOCOL_WORDS[access.protocol] : ''
}
const last = computed(() => run.value?.progress.done.at(-1))

const act = (work: () => Promise<unknown>) => {
  wouldEnter.value = []
  return doing(work)
}
/** The field is free for the next step's remark at once. */
function say(step: number, result: TickResult): void {
  wouldEnter.value = []
  void sending(remark, (said) => tick(step, result, said))
}
const enter = (step: number) => act(() => make(step, false))
const wouldEnter = ref<string[]>([])
const tryOut = (step: number) => act(async () => void (wouldEnter.value = await tryStep(step)))
function undoLast(): void {
  const step = last.value
  if (step) say(step, 'undone')
}
function enterBack(): void {
  const step = last.value
  if (step) void act(() => make(step, true))
}
</script>

<template>
  <section class="run" aria-label="Run">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <template v-else-if="run">
      <header>
        <h2>{{ run.title }}</h2>
        <span class="muted">begun by {{ run.started_by }}, {{ dateAndTime(run.started_at) }}</span>
        <span class="state" :class="state" role="status"
          >{{ RUN_WORDS[run.progress.state] }}; {{ run.progress.done.length }} of {{ run.steps }} steps
          entered</span
        >
      </header>
      <PlanSummary :plan="run.plan" />
      <PairProbes :run="run" :see="see" :try-pair="hasShell ? tryPair : undefined" />
      <StepList :plan="run.plan" :run="run">
        <template #next="{ step }">
          <form class="tick plain-fields" :aria-label="`Step ${step.number}`" @submit.prevent>
            <p v-if="step.device.organisation && !isGoingBack" class="muted">
              {{ step.device.organisation }} enters this; tick it once they say that it is done.
            </p>
            <ElInput v-model="remark" maxlength="400" placeholder="Remark" aria-label="Remark" />
            <template v-if="!isGoingBack && reached(step.number)">
              <ElButton type="primary" :loading="isEntering" @click="enter(step.number)">
                {{ step.action === null ? 'Save' : state === 'stopped' ? 'Enter it again' : 'Enter it' }} by
                {{ reached(step.number) }}
              </ElButton>
              <ElButton v-if="step.action" :disabled="isEntering" @click="tryOut(step.number)"
                >Try it out</ElButton
              >
              <span class="muted">or by hand:</span>
            </template>
            <template v-if="!isGoingBack">
              <ElButton
                :type="reached(step.number) ? 'default' : 'primary'"
                @click="say(step.number, 'done')"
              >
                {{ state === 'stopped' ? 'Mended: check passes' : 'Done, check passes' }}
              </ElButton>
              <ElButton v-if="state !== 'stopped'" @click="say(step.number, 'failed')">
                Entered, check fails
              </ElButton>
            </template>
            <ElButton v-if="canGoBack && reached(last)" :loading="isEntering" @click="enterBack">
              Take back step {{ last }} by {{ reached(last) }}
            </ElButton>
            <ElButton v-if="canGoBack" @click="undoLast"> Taken back: step {{ last }} </ElButton>
            <div v-if="wouldEnter.length" class="would" role="status">
              The device would take this; nothing is entered yet:
              <pre class="figures">{{ wouldEnter.join('\n') }}</pre>
            </div>
            <p v-if="state === 'stopped'" class="stopped">
              The check failed. Mend it and tick again, or go back: {{ step.undo }}, then the steps before it.
            </p>
            <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
          </form>
        </template>
      </StepList>
    </template>
    <ElSkeleton v-else :rows="6" animated />
  </section>
</template>

<style scoped>
.run {
  padding: 0 16px 16px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
  margin-top: 10px;
}
h2 {
  font-size: 16px;
}
.state {
  margin-left: auto;
  font-weight: 600;
}
.state.stopped,
.stopped {
  color: var(--madder);
}
.tick {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
  margin-top: 6px;
}
.tick > .would,
.tick > p {
  flex: 1 0 100%;
  margin: 0;
}
pre {
  margin: 2px 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.tick .el-input {
  width: 220px;
}
</style>
