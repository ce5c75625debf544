/** Secrets on their way into the vault and, once, out of it. What comes back is only what a design may know. */
import { ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { KeyFacts, KeyPair } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'

export function useVault() {
  const { designId } = useOpenDesign()
  const trouble = ref('')
  const busy = ref(false)
  const path = () => ({ design_id: designId.value })

  /** Do a piece of work; a refusal is said in `trouble` and gives null. */
  async function attempt<T>(work: () => Promise<T>): Promise<T | null> {
    trouble.value = ''
    busy.value = true
    try {
      return await work()
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      trouble.value = error.problem.detail
      return null
    } finally {
      busy.value = false
    }
  }
  type Body = { how: 'generate' } | { how: 'set'; secret: string }
  const keep = (body: Body): Promise<KeyFacts | null> =>
    attempt(() => bodyOf(api.POST('/api/designs/{design_id}/keys', { params: { path: path() }, body })))
  const makePair = (): Promise<KeyPair | null> =>
    attempt(() => bodyOf(api.POST('/api/designs/{design_id}/keys/pair', { params: { path: path() } })))
  const show = (reference: string): Promise<string | null> =>
    attempt(async () => {
      const params = { path: { ...path(), reference } }
      return (await bodyOf(api.POST('/api/designs/{design_id}/keys/{reference}/show', { params }))).secret
    })
  return { trouble, busy, keep, makePair, show }
}

/** A secret with what nobody would see: blanks as ␣, line ends as ↵. */
export function withMarks(text: string): string {
  return text.replaceAll(' ', '␣').replaceAll('\t', '⇥').replaceAll('\n', '↵\n')
}
