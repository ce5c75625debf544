/** Something that is asked of the server, which may refuse it: whether it is under way, and what was said against it. */
import { ref, type Ref } from 'vue'
import { Refusal } from '@/api/client'
import { reasonOf } from './refusals'

export function useDoing() {
  const trouble = ref('')
  const isBusy = ref(false)
  /** Do it; whether it was done. Whatever isn't a refusal is an error of ours, and is thrown on. */
  async function doing(work: () => Promise<unknown>): Promise<boolean> {
    trouble.value = ''
    isBusy.value = true
    try {
      await work()
      return true
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      trouble.value = reasonOf(failed.problem)
      return false
    } finally {
      isBusy.value = false
    }
  }
  /** Send what stands in a field, which is free at once: what is typed meanwhile is kept, and what was refused comes back. */
  function sending(field: Ref<string>, send: (said: string) => Promise<unknown>): Promise<boolean> {
    const said = field.value
    field.value = ''
    return doing(async () => {
      try {
        await send(said.trim())
      } catch (failed) {
        field.value ||= said
        throw failed
      }
    })
  }
  return { trouble, isBusy, doing, sending }
}
