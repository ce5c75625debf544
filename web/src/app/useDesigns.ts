/** The list of designs, and making or importing one. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { readonly, ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { DesignSummary, Problem } from '@/api/types'

export function useDesigns() {
  const client = useQueryClient()
  const signedOut = ref(false)
  const { data: designs } = useQuery({
    queryKey: ['designs'],
    queryFn: () => bodyOf(api.GET('/api/designs')),
    enabled: () => !signedOut.value,
  })
  const problem = ref<Problem | null>(null)

  async function attempt(send: () => Promise<DesignSummary>): Promise<DesignSummary | null> {
    problem.value = null
    try {
      const made = await send()
      await client.invalidateQueries({ queryKey: ['designs'] })
      return made
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      problem.value = error.problem
      return null
    }
  }

  const create = (name: string) => attempt(() => bodyOf(api.POST('/api/designs', { body: { name } })))

  /** The file goes as it is: the server tells line and column, or the path, of what it can't read. */
  const importFile = (file: File) =>
    attempt(() =>
      bodyOf(
        api.POST('/api/designs/import', {
          body: file as never,
          bodySerializer: (body: unknown) => body as Blob,
          headers: { 'Content-Type': 'application/json' },
        }),
      ),
    )

  /** End the session, and forget all that was read in it. */
  async function signOut(): Promise<void> {
    await api.DELETE('/api/session')
    signedOut.value = true
    client.clear()
  }

  return { designs, problem, create, importFile, signedOut: readonly(signedOut), signOut }
}
