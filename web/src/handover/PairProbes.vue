<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { RunShown } from '@/api/types'
import { useDoing } from '@/design/useDoing'
import DataTable from '@/ui/DataTable.vue'
import { counted } from '@/ui/words'

/** The same pairs before the first step and after the last: what the trace says, and what was seen. */
type Phase = 'before' | 'after'
type Pair = RunShown['plan']['pairs'][number]

const props = defineProps<{
  run: RunShown
  see: (tries: string, phase: Phase, text: string) => Promise<void>
  tryPair?: (tries: string, phase: Phase) => Promise<void> // where some gateway can be asked to
}>()
const COLUMNS = [
  { name: 'tries', title: 'What is tried', minWidth: 220 },
  { name: 'before', title: 'Before', minWidth: 210 },
  { name: 'after', title: 'After', minWidth: 210 },
]
const next = reactive({ tries: '', phase: 'before' as Phase, text: '' })
const isOpen = ref(false) // the next step is what a person looks for first
const { trouble, isBusy: isTrying, doing } = useDoing()
const words = (answered: boolean | null): string =>
  answered === null ? 'not there' : answered ? 'answered' : 'no answer'
const against = computed(() => props.run.seen.filter((answer) => answer.contradicts).length)

function seen(pair: Pair, phase: Phase) {
  return props.run.seen.find((answer) => answer.tries === pair.tries && answer.phase === phase)
}
function ask(pair: Pair, phase: Phase): void {
  Object.assign(next, { tries: pair.tries, phase, text: seen(pair, phase)?.text ?? '' })
  trouble.value = ''
}
const keep = () => keeping(() => props.see(next.tries, next.phase, next.text.trim()))
function tryIt(): void {
  const { tryPair } = props
  if (tryPair) void keeping(() => tryPair(next.tries, next.phase))
}
async function keeping(work: () => Promise<void>): Promise<void> {
  if (await doing(work)) next.tries = next.text = ''
}
</script>

<template>
  <section v-if="run.plan.pairs.length" class="pairs plain-fields" aria-label="Before and after">
    <ElButton :aria-expanded="isOpen" @click="isOpen = !isOpen"
      >Before and after: {{ counted(run.plan.pairs.length, 'pair') }}, {{ run.seen.length }} seen
      {{ isOpen ? '' : '…' }}</ElButton
    >
    <p v-if="against" class="against" role="status">
      {{
        against === 1
          ? '1 result contradicts the trace: the network is not as the design has it.'
          : `${against} results contradict the trace: the network is not as the design has it.`
      }}
    </p>
    <DataTable v-if="isOpen" :rows="run.plan.pairs" :columns="COLUMNS" label="Pairs before and after">
      <template #tries="{ row }"
        ><span class="figures">{{ row.tries }}</span></template
      >
      <template v-for="phase in ['before', 'after'] as const" :key="phase" #[phase]="{ row }">
        <span class="muted">by the trace {{ words(row[phase]) }}</span>
        <span v-if="seen(row, phase)" :class="{ against: seen(row, phase)?.contradicts }">
          seen: {{ words(seen(row, phase)?.answered ?? null) }}</span
        >
        <ElButton link :aria-label="`What was seen ${phase}: ${row.tries}`" @click="ask(row, phase)"
          >{{ seen(row, phase) ? 'again' : 'seen' }} …</ElButton
        >
      </template>
    </DataTable>
    <form v-if="isOpen && next.tries" :aria-label="`Seen ${next.phase}`" @submit.prevent="keep">
      <p>
        Seen {{ next.phase }}: <span class="figures">{{ next.tries }}</span>
      </p>
      <ElInput
        v-model="next.text"
        type="textarea"
        class="figures"
        :rows="4"
        aria-label="What was seen"
        placeholder="answered, no answer, or what ping or traceroute -n has printed"
      />
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <ElButton type="primary" native-type="submit" :disabled="!next.text.trim()">Keep</ElButton>
      <ElButton v-if="tryPair" :loading="isTrying" @click="tryIt">Try it from the gateway</ElButton>
      <ElButton @click="next.tries = ''">Cancel</ElButton>
    </form>
  </section>
</template>

<style scoped>
.pairs {
  margin: 12px 0;
}
.against {
  font-weight: 600;
  color: var(--madder);
}
form p {
  margin: 4px 0;
}
</style>
