/** A change that a form sends: what is refused of its fields stands beside them, and not in the notice above. */
import { computed, ref } from 'vue'
import type { Operation, Problem } from '@/api/types'
import { reasonOf, reasonsByField, refusedFields } from './refusals'
import { useOpenDesign } from './useDesignSession'

export function useChangeHere() {
  const { change, refusal, dismissRefusal } = useOpenDesign()
  const refused = ref<Problem | null>(null)
  /** Send it; whether it was done. Whatever is about no field, such as that others were faster, stands in the notice. */
  async function changeHere(operations: Operation[], note: string): Promise<boolean> {
    refused.value = null
    if (await change(operations, note)) return true
    if (refusal.value?.errors.length) {
      refused.value = refusal.value
      dismissRefusal()
    }
    return false
  }
  return {
    changeHere,
    trouble: computed(() => reasonOf(refused.value)),
    troubles: computed(() => reasonsByField(refused.value)),
    refusedFields: computed(() => refusedFields(refused.value)),
    forget: () => {
      refused.value = null
    },
  }
}
