<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ChangePlan, PlanStep, RunShown } from '@/api/types'
import { dateAndTime } from '@/ui/words'
import { MOST_SHOWN, statesOf, tunnelsOf } from './states'
import TunnelStates from './TunnelStates.vue'

/** The steps of a plan in their order, each with what must be seen after it; in a run with what was said of it. */
const MOST_NAMED = 6
const PAGE = 100

const props = defineProps<{ plan: ChangePlan; run?: RunShown }>()
const page = ref(1)
const first = computed(() => (page.value - 1) * PAGE)
const shown = computed(() => props.plan.steps.slice(first.value, first.value + PAGE))
const states = computed(() => statesOf(props.plan, first.value, first.value + PAGE))
const names = computed(() => tunnelsOf(props.plan).map((tunnel) => tunnel.name))
const done = computed(() => new Set(props.run?.progress.done ?? []))
const next = computed(() => props.run?.progress.next_step ?? null)
/** The next step is in sight, on whichever page it is. */
watch(
  next,
  (number) => {
    if (number) page.value = Math.ceil(number / PAGE)
  },
  { immediate: true },
)
const stopped = computed(() => (props.run?.progress.state === 'stopped' ? next.value : null))

function said(step: PlanStep) {
  return props.run?.ticks.filter((tick) => tick.step === step.number) ?? []
}
function mark(step: PlanStep): string {
  if (stopped.value === step.number) return 'check failed'
  if (done.value.has(step.number)) return 'done'
  return next.value === step.number ? 'next' : ''
}
const answer = (probe: PlanStep['checks'][number]): string => {
  if (probe.sort === 'tunnel') return probe.expected ? 'up' : 'down'
  return probe.expected ? 'answered' : 'no answer'
}
</script>

<template>
  <div v-if="names.length" class="step head">
    <span />
    <span>Where</span>
    <span>What, and what must be seen after it</span>
    <div>
      Tunnels after it
      <TunnelStates :states="states[0] ?? []" />
      <span v-if="names.length > MOST_SHOWN">{{ names.length }} tunnels; those that a step is about</span>
      <span v-else-if="names.length <= MOST_NAMED">{{ names.join(', ') }}; before the first step</span>
      <span v-else>{{ names.length }} tunnels, by name; before the first step</span>
    </div>
  </div>
  <ol class="steps" aria-label="Steps">
    <li
      v-for="(step, place) in shown"
      :key="step.number"
      :class="{ next: next === step.number, done: done.has(step.number), save: step.action === null }"
      :aria-current="next === step.number ? 'step' : undefined"
    >
      <p v-if="step.number === plan.no_return" class="no-return">
        From here on the way back touches what was there before.
      </p>
      <div class="step">
        <span class="number figures">{{ step.number }}</span>
        <div class="where">
          <strong>{{ step.device.name }}</strong>
          <span class="muted">{{ step.device.organisation }}</span>
        </div>
        <div class="what">
          <p>
            {{ step.does }}
            <span v-if="mark(step)" class="mark" :class="{ bad: stopped === step.number }">{{
              mark(step)
            }}</span>
          </p>
          <dl v-if="step.values.length" class="figures">
            <template v-for="value in step.values" :key="value.path">
              <dt>{{ value.title }}</dt>
              <dd>
                <template v-if="!value.before">add {{ value.after }}</template>
                <template v-else-if="!value.after">take out {{ value.before }}</template>
                <template v-else>
                  <span v-if="step.action !== 'add' && step.action !== 'enter'" class="was"
                    >{{ value.before }} →
                  </span>
                  {{ value.after }}
                </template>
              </dd>
            </template>
          </dl>
          <ul v-if="step.checks.length" class="checks">
            <li v-for="probe in step.checks" :key="probe.tries">
              {{ probe.tries }}: <strong>{{ answer(probe) }}</strong>
            </li>
          </ul>
          <p v-if="step.worked_over" class="muted">
            Whoever works over {{ step.worked_over }} may lose the connection here.
          </p>
          <p v-if="step.action" class="muted">Way back: {{ step.undo }}.</p>
          <p v-for="what in step.down" :key="what" class="down">Down after it: {{ what }}</p>
          <p v-for="tick in said(step)" :key="tick.made_at" class="tick">
            {{ tick.result }} by {{ tick.author }}, {{ dateAndTime(tick.made_at)
            }}<template v-if="tick.remark">: {{ tick.remark }}</template>
          </p>
          <slot v-if="next === step.number" name="next" :step="step" />
        </div>
        <TunnelStates :states="states[place + 1] ?? []" />
      </div>
    </li>
  </ol>
  <ElPagination
    v-if="plan.steps.length > PAGE"
    v-model:current-page="page"
    layout="prev, pager, next"
    :page-size="PAGE"
    :total="plan.steps.length"
    aria-label="Pages of steps"
  />
</template>

<style scoped>
.steps {
  padding: 0;
  margin: 0;
  list-style: none;
}
.step {
  display: grid;
  grid-template-columns: 32px 176px minmax(0, 1fr) 200px;
  gap: 4px 12px;
  padding: 8px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-top-width: 0;
}
.step.head {
  font-size: 12px;
  color: var(--muted);
  background: none;
  border: 0;
}
.steps > li:first-child .step,
.no-return + .step {
  border-top-width: 1px;
}
.next > .step {
  box-shadow: inset 3px 0 0 var(--verdigris);
}
.done .number,
.done .where {
  color: var(--muted);
}
.number {
  font-weight: 600;
  text-align: right;
}
.where span {
  display: block;
  font-size: 12px;
}
.what p {
  margin: 0 0 2px;
}
.mark {
  padding: 0 6px;
  margin-left: 6px;
  font-size: 12px;
  border: 1px solid var(--verdigris);
  border-radius: 3px;
}
.mark.bad,
.down {
  color: var(--madder);
  border-color: var(--madder);
}
dl {
  display: grid;
  grid-template-columns: 152px minmax(0, 1fr);
  gap: 0 10px;
  margin: 2px 0;
}
dt {
  color: var(--muted);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.was {
  color: var(--muted);
}
.checks {
  padding: 0;
  margin: 2px 0;
  list-style: none;
}
.checks li::before {
  content: 'check: ';
  color: var(--muted);
}
.no-return {
  padding: 6px 10px;
  margin: 8px 0 4px;
  font-weight: 600;
  color: var(--ochre-text, var(--ink));
  border-top: 2px solid var(--ochre);
}
.tick {
  font-size: 12px;
}
@media (max-width: 1020px) {
  .step {
    grid-template-columns: 32px minmax(0, 1fr);
  }
  .what,
  .step > :last-child {
    grid-column: 2;
  }
  .step.head > span {
    display: none;
  }
}
@media print {
  .steps > li {
    break-inside: avoid;
  }
}
</style>
