/** One design that is open: what is known of it, and the one way to change it. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, inject, provide, readonly, ref, watch, type InjectionKey, type Ref } from 'vue'
import { v4 as uuid } from 'uuid'
import { api, bodyOf, Refusal, withDetail } from '@/api/client'
import type { Analysis, Changed, Design, Operation, Problem } from '@/api/types'
import { patchedAnalysis, patchedDesign } from './patch'

const POLL_MS = 2500 // others' changes show after this at the latest; an unchanged design costs no body

const EXAMINING_AFTER_MS = 300
const ANALYSIS_STANDS_MS = 600_000 // certificates and exceptions are judged for a day, and days end

export type SaveState = 'saved' | 'saving' | 'refused'

/** What goes with everything that is written: the state that the person saw, and an id to ask for it by. */
interface Written {
  base_revision: number
  incarnation: string
  change_id: string
}

export function useDesignSession(designId: Ref<string>) {
  const client = useQueryClient()
  const saveState = ref<SaveState>('saved')
  const refusal = ref<Problem | null>(null)
  const path = computed(() => ({ design_id: designId.value }))

  const designQuery = useQuery({
    queryKey: ['design', designId],
    queryFn: () => bodyOf(api.GET('/api/designs/{design_id}', { params: { path: path.value } })),
    refetchInterval: POLL_MS,
    structuralSharing: (before, after) => (sameRevision(before, after) ? before : after),
    shallow: true, // a thousand tunnels are not made reactive one by one
  })
  const design = designQuery.data
  const revision = computed(() => design.value?.revision)
  const known = computed(() => revision.value !== undefined)
  const analysisQuery = useQuery({
    queryKey: ['analysis', designId, revision],
    // with the signal, the server breaks off what a newer revision has made needless
    queryFn: ({ signal }) =>
      bodyOf(api.GET('/api/designs/{design_id}/analysis', { params: { path: path.value }, signal })),
    enabled: known,
    placeholderData: keepPreviousData,
    staleTime: ANALYSIS_STANDS_MS, // what a change's answer brought is not read anew at once
    structuralSharing: false,
    shallow: true,
  })
  const examining = useSlow(analysisQuery.isFetching, EXAMINING_AFTER_MS)
  const historyQuery = useQuery({
    queryKey: ['history', designId, revision],
    queryFn: () => bodyOf(api.GET('/api/designs/{design_id}/changes', { params: { path: path.value } })),
    enabled: known,
    placeholderData: keepPreviousData,
  })

  /** Send something that writes; return its answer, or null when it was refused (then `refusal` says why). */
  async function write(send: (what: Written) => Promise<Changed>): Promise<Changed | null> {
    saveState.value = 'saving'
    refusal.value = null
    const what = {
      base_revision: revision.value ?? 0,
      incarnation: design.value?.incarnation ?? '',
      change_id: uuid(),
    }
    try {
      const changed = await send(what).catch((error: unknown) => writtenAfterAll(what.change_id, error))
      if (!take(changed)) await client.invalidateQueries({ queryKey: ['design', designId.value] })
      saveState.value = 'saved'
      return changed
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      saveState.value = 'refused'
      refusal.value = error.problem
      void client.invalidateQueries({ queryKey: ['design', designId.value] })
      return null
    }
  }

  /** Find out whether a change was written whose answer did not come; throw a Refusal that says what is known. */
  async function writtenAfterAll(change_id: string, error: unknown): Promise<Changed> {
    if (!(error instanceof Refusal) || error.problem.status !== 0) throw error
    const asked = { params: { path: { ...path.value, change_id } } }
    try {
      const found = await bodyOf(api.GET('/api/designs/{design_id}/changes/{change_id}', asked))
      return { revision: found.revision, fields: found.fields, operations: [], analysis: null }
    } catch (lookup) {
      const known = lookup instanceof Refusal && lookup.problem.status === 404
      const said = known ? 'Nothing was written.' : 'Whether this was written is not known until it answers.'
      throw new Refusal(withDetail(error.problem, said))
    }
  }

  /** Take over what a change's answer says; false where others' changes lie between, and all must be read anew. */
  function take(changed: Changed): boolean {
    const before = design.value
    if (!before || changed.revision === before.revision) return Boolean(before)
    if (changed.revision !== before.revision + 1 || !changed.operations.length) return false
    const after = patchedDesign(before, changed)
    const analysis = client.getQueryData<Analysis>(['analysis', designId.value, before.revision])
    const tunnelIds = after.tunnels.map((tunnel) => tunnel.id)
    const judged = analysis && patchedAnalysis(analysis, changed, tunnelIds)
    if (judged) client.setQueryData(['analysis', designId.value, after.revision], judged)
    client.setQueryData(['design', designId.value], after)
    return true
  }

  function change(operations: Operation[], note: string): Promise<Changed | null> {
    return write((what) =>
      bodyOf(
        api.POST('/api/designs/{design_id}/changes', {
          params: { path: path.value },
          body: { ...what, note, operations, dry_run: false },
        }),
      ),
    )
  }

  /** Return what a change would do. Throws a Refusal when it would be refused. */
  function tryChange(operations: Operation[], signal?: AbortSignal): Promise<Changed> {
    const body = {
      base_revision: revision.value ?? 0,
      incarnation: '',
      note: 'Only tried',
      operations,
      dry_run: true,
    }
    return bodyOf(
      api.POST('/api/designs/{design_id}/changes', { params: { path: path.value }, body, signal }),
    )
  }

  function step(kind: 'undo' | 'redo'): Promise<Changed | null> {
    return write((what) =>
      bodyOf(api.POST(`/api/designs/{design_id}/${kind}`, { params: { path: path.value }, body: what })),
    )
  }

  return {
    designId,
    design,
    revision,
    analysis: analysisQuery.data,
    /** The analysis that is shown is of an earlier revision, and the fresh one takes its time. */
    examining,
    history: historyQuery.data,
    loadError: designQuery.error,
    saveState: readonly(saveState),
    refusal: readonly(refusal) as Readonly<Ref<Problem | null>>,
    dismissRefusal: () => {
      refusal.value = null
      saveState.value = 'saved'
    },
    change,
    write,
    tryChange,
    undo: () => step('undo'),
    redo: () => step('redo'),
  }
}

/** True once something has gone on for some time, until it ends. */
function useSlow(going: Ref<boolean>, afterMs: number): Readonly<Ref<boolean>> {
  const slow = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(going, (now) => {
    clearTimeout(timer)
    if (now) timer = setTimeout(() => (slow.value = true), afterMs)
    else slow.value = false
  })
  return readonly(slow)
}

function sameRevision(before: unknown, after: unknown): boolean {
  const [former, latter] = [before, after].map((design) => design as Partial<Design> | undefined)
  return (
    former?.revision === latter?.revision &&
    former?.id === latter?.id &&
    former?.incarnation === latter?.incarnation
  )
}

export type DesignSession = ReturnType<typeof useDesignSession>

const SESSION: InjectionKey<DesignSession> = Symbol('design session')

export function provideDesignSession(designId: Ref<string>): DesignSession {
  const session = useDesignSession(designId)
  provide(SESSION, session)
  return session
}

/** The open design. Only below a component that provides it. */
export function useOpenDesign(): DesignSession {
  const session = inject(SESSION)
  if (!session) throw new Error('no design is open above this component')
  return session
}
