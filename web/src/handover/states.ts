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
  for (const one of [...plan.at_first, ...plan.steps.flatMap((step) => step.expected)])
    named.set(one.tunnel_id, one.name)
  return [...named]
    .map(([id, name]) => ({ id, name }))
    .sort((one, other) => one.name.localeCompare(other.name))
}

/** Their states before the first step, and after each of the steps. */
export function statesOf(plan: ChangePlan): ShownState[][] {
  const tunnels = tunnelsOf(plan)
  const known = new Map<string, TunnelState>(plan.at_first.map((one) => [one.tunnel_id, one]))
  const shown = (changed: ReadonlySet<string>): ShownState[] =>
    tunnels.map(({ id, name }) => {
      const found = known.get(id)
      const state = found?.state ?? 'absent' // before it is entered, and once it is taken out
      return { id, name, state, sentence: found?.sentence ?? 'It is not there.', isNew: changed.has(id) }
    })
  const rows = [shown(new Set())]
  for (const step of plan.steps) {
    for (const one of step.expected) known.set(one.tunnel_id, one)
    rows.push(shown(new Set(step.expected.map((one) => one.tunnel_id))))
  }
  return rows
}
