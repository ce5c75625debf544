<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ExitWorkload } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'

/** The address under which the outside has seen a workload, as somebody looked it up from within it. */
const props = defineProps<{ workload: ExitWorkload }>()
const { design } = useOpenDesign()
const { changeHere, trouble, forget } = useChangeHere()
const isBusy = ref(false)
const host = computed(() => design.value?.hosts.find((candidate) => candidate.id === props.workload.host_id))
const typed = ref(props.workload.seen ?? '')
watch(
  () => props.workload.seen,
  (seen) => (typed.value = seen ?? ''),
)
const VERDICTS: Record<ExitWorkload['verdict'], string> = {
  'as foreseen': 'as it should be',
  otherwise: 'the setting didn’t take',
  'not seen yet': 'look it up from within',
  'not comparable': 'nobody knows which it should be',
}
async function keep(): Promise<void> {
  const seen = typed.value.trim()
  if (!host.value || seen === (props.workload.seen ?? '')) return forget()
  isBusy.value = true
  await changeHere(
    [putOf('host', { ...host.value, seen_outside: seen || null })],
    `${host.value.name} was seen outside`,
  )
  isBusy.value = false
}
</script>

<template>
  <ElInput
    v-model="typed"
    size="small"
    class="figures"
    maxlength="45"
    :aria-label="`${workload.name} seen outside as`"
    :aria-invalid="trouble !== ''"
    :disabled="isBusy"
    spellcheck="false"
    @change="keep"
  />
  <span v-if="trouble" class="field-error" role="alert">{{ trouble }}</span>
  <span v-else class="verdict" :class="{ bad: workload.verdict === 'otherwise' }">{{
    VERDICTS[workload.verdict]
  }}</span>
</template>

<style scoped>
.verdict {
  display: block;
  font-size: 12px;
  color: var(--muted);
}
.bad {
  font-weight: 600;
  color: var(--madder);
}
</style>
