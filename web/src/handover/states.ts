/** What the tunnels of a plan do after each of its steps. */
import type { ChangePlan, StageState, TunnelState } from '@/api/types'

export interface ShownState {
  id: string
  name: string
  state: StageState | 'absent'
  sentence: string
  isNew: boolean // the step has changed what is said of it
}

/** The tunnels that the steps are about, in the order of their names. */
export function tunnelsOf(plan: ChangePlan): { id: string; name: string }[] {
  const named = new Map<string, string>()
  for (const state of [...plan.at_first, ...plan.steps.flatMap((step) => step.expected)])
    named.set(state.tunnel_id, state.name)
  return [...named]
    .map(([id, name]) => ({ id, name }))
    .sort((former, other) => former.name.localeCompare(other.name))
}

/** The tunnels whose ends a step enters something at: each is rehearsed through the whole plan. */
export function rehearsedTunnels(plan: ChangePlan): { id: string; name: string }[] {
  const touched = new Set(plan.steps.map((step) => step.about))
  return tunnelsOf(plan).filter(({ id }) => touched.has(`tunnel/${id}`))
}

export const MOST_SHOWN = 40 // tunnels beside a step; of more only those that it is about, or of which it changes something

/** Their states before the first of some steps, and after each of them. */
export function statesOf(plan: ChangePlan, first = 0, end = plan.steps.length): ShownState[][] {
  const tunnels = tunnelsOf(plan)
  const known = new Map<string, TunnelState>(plan.at_first.map((state) => [state.tunnel_id, state]))
  const shown = (changed: ReadonlySet<string>, about = ''): ShownState[] => {
    const few =
      tunnels.length > MOST_SHOWN
        ? tunnels.filter(({ id }) => changed.has(id) || about === `tunnel/${id}`)
        : tunnels
    return few.map(({ id, name }) => {
      const found = known.get(id)
      const state = found?.state ?? 'absent' // before it is entered, and once it is taken out
      return { id, name, state, sentence: found?.sentence ?? 'It is not there.', isNew: changed.has(id) }
    })
  }
  for (const step of plan.steps.slice(0, first))
    for (const state of step.expected) known.set(state.tunnel_id, state)
  const rows = [shown(new Set())]
  for (const step of plan.steps.slice(first, end)) {
    for (const state of step.expected) known.set(state.tunnel_id, state)
    rows.push(shown(new Set(step.expected.map((state) => state.tunnel_id)), step.about))
  }
  return rows
}
