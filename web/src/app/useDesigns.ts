/** The list of designs, and what is done with one as a whole. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { readonly, ref } from 'vue'
import { api, bodyOf, doneBy, Refusal } from '@/api/client'
import type { DesignSummary, Problem } from '@/api/types'

export function useDesigns() {
  const client = useQueryClient()
  const signedOut = ref(false)
  const problem = ref<Problem | null>(null)
  const { data: designs } = useDesignList(false)
  const { data: deleted } = useDesignList(true)

  function useDesignList(gone: boolean) {
    return useQuery({
      queryKey: ['designs', { deleted: gone }],
      queryFn: () => bodyOf(api.GET('/api/designs', { params: { query: { deleted: gone } } })),
      enabled: () => !signedOut.value,
    })
  }

  /** Do something that changes the list; null where it was refused (then `problem` says why). */
  async function attempt<T>(send: () => Promise<T>): Promise<T | null> {
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

  const path = (design: DesignSummary) => ({ params: { path: { design_id: design.id } } })
  const create = (name: string) => attempt(() => bodyOf(api.POST('/api/designs', { body: { name } })))
  const duplicate = (design: DesignSummary, name: string) =>
    attempt(() => bodyOf(api.POST('/api/designs/{design_id}/copies', { ...path(design), body: { name } })))
  const rename = (design: DesignSummary, name: string) =>
    attempt(() => doneBy(api.PUT('/api/designs/{design_id}/name', { ...path(design), body: { name } })))
  const archive = (design: DesignSummary, archived: boolean) =>
    attempt(() =>
      doneBy(api.PUT('/api/designs/{design_id}/archived', { ...path(design), body: { archived } })),
    )
  const remove = (design: DesignSummary) =>
    attempt(() => doneBy(api.DELETE('/api/designs/{design_id}', path(design))))
  const restore = (design: DesignSummary) =>
    attempt(() => doneBy(api.POST('/api/designs/{design_id}/restore', path(design))))

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

  return {
    designs,
    deleted,
    problem: readonly(problem),
    create,
    duplicate,
    rename,
    archive,
    remove,
    restore,
    importFile,
    signedOut: readonly(signedOut),
    signOut,
  }
}
