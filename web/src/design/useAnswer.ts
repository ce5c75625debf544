/** What the server says to what stands in a form. */
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { Refusal } from '@/api/client'
import type { Problem } from '@/api/types'

const PAUSE_MS = 250 // in typing, after which it is asked

/**
 * Ask whenever the question changes, once typing pauses; null asks nothing.
 *
 * An older question is broken off. The last answer stays to be read until there is a newer one, a refused question
 * included, and `settled` says whether it is about what stands there now.
 */
export function useAnswer<Q, A>(
  name: string,
  question: () => Q | null,
  ask: (question: Q, signal: AbortSignal) => Promise<A>,
): { answer: Ref<A | null>; problem: Ref<Problem | null>; settled: Ref<boolean> } {
  const now = computed(() => JSON.stringify(question()))
  const asked = refDebounced(now, PAUSE_MS)
  const { data, error } = useQuery({
    queryKey: [name, asked],
    queryFn: async ({ signal }) => ({ answer: await ask(JSON.parse(asked.value) as Q, signal) }),
    enabled: computed(() => asked.value !== 'null'),
    gcTime: 0,
  })
  const last = shallowRef<A | null>(null)
  watch(data, (found) => (last.value = found?.answer ?? last.value))
  const isAsked = computed(() => now.value !== 'null' && asked.value !== 'null')
  return {
    answer: computed(() => (isAsked.value ? (data.value?.answer ?? last.value) : null)),
    problem: computed(() => (isAsked.value && error.value instanceof Refusal ? error.value.problem : null)),
    settled: computed(() => now.value === asked.value && data.value !== undefined),
  }
}
