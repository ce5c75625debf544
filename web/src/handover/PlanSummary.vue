<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ChangePlan } from '@/api/types'
import { counted } from '@/ui/words'

/** Whether anything goes dark on the way, in one sentence; and what can't be avoided. */
const props = defineProps<{ plan: ChangePlan }>()
const kept = computed(
  () =>
    `${counted(props.plan.kept_tunnels, 'tunnel')} and ${counted(props.plan.kept_pairs, 'wanted pair')} that work before and after`,
)
const minutes = ref(2) // an estimate of one's own: how long a person takes for a step
const minutesOf = (outage: ChangePlan['outages'][number]) =>
  Math.max(1, outage.until_step - outage.from_step) * minutes.value
</script>

<template>
  <div class="summary" :class="{ proved: !plan.outages.length }" role="status">
    <p v-if="!plan.steps.length">Nothing has to be entered anywhere: no device holds what is different.</p>
    <p v-else-if="!plan.outages.length">
      Proved at each of {{ plan.steps.length }} steps: {{ kept }} work all the time.
    </p>
    <template v-else>
      <p>
        {{ plan.is_least ? 'No order avoids an outage; this one has the least.' : 'There is an outage.' }}
        <span v-if="!plan.is_least">Not every order was tried.</span>
      </p>
      <ul>
        <li v-for="outage in plan.outages" :key="`${outage.what} ${outage.from_step}`">
          <strong>{{ outage.what }}</strong> is down from step {{ outage.from_step }} until step
          {{ outage.until_step }} is done, about {{ minutesOf(outage) }} min. {{ outage.why }}
        </li>
      </ul>
      <label class="minutes plain-fields"
        >at
        <ElInputNumber
          v-model="minutes"
          class="short"
          :min="0"
          :max="600"
          :controls="false"
          aria-label="Minutes a step"
        />
        min a step</label
      >
    </template>
  </div>
</template>

<style scoped>
.summary {
  padding: 8px 10px;
  margin: 8px 0;
  background: var(--madder-wash);
  border-left: 3px solid var(--madder);
}
.summary.proved {
  background: var(--verdigris-wash);
  border-color: var(--verdigris);
}
p {
  margin: 0;
  font-weight: 500;
}
.minutes {
  display: block;
  margin-top: 4px;
}
.short {
  width: 56px;
}
ul {
  padding-left: 18px;
  margin: 4px 0 0;
}
</style>
