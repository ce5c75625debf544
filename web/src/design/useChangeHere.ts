/** A change that a form sends: what it is refused for stands there, and in the notice above only if it is about no field. */
import { computed, ref } from 'vue'
import type { Operation, Problem } from '@/api/types'
import { reasonOf, reasonsByField, refusedFields } from './refusals'
import { useOpenDesign, type DesignSession } from './useDesignSession'

export function useChangeHere(
  session: Pick<DesignSession, 'change' | 'refusal' | 'dismissRefusal'> = useOpenDesign(),
) {
  const refused = ref<Problem | null>(null)
  /** Send it; whether it was done. */
  async function changeHere(operations: Operation[], note: string): Promise<boolean> {
    refused.value = null
    if (await session.change(operations, note)) return true
    refused.value = session.refusal.value
    if (refused.value?.errors.length) session.dismissRefusal()
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
