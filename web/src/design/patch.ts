/** What a change's answer does to the design and the analysis that are shown: nothing is read anew. */
import type { Analysis, Changed, Design, ObjectType } from '@/api/types'

type Item = { id: string }
type ListName = `${Exclude<ObjectType, 'settings'>}s`

/** The design after the operations of a change; lists stay in the order of ids. */
export function patchedDesign(design: Design, changed: Changed): Design {
  const patched: Design = { ...design, revision: changed.revision }
  const lists = new Map<ListName, Map<string, Item>>()
  const listOf = (name: ListName): Map<string, Item> => {
    const known = lists.get(name) ?? new Map((design[name] as Item[]).map((item) => [item.id, item]))
    lists.set(name, known)
    return known
  }
  for (const operation of changed.operations) {
    if (operation.op === 'remove') listOf(`${operation.type}s` as ListName).delete(operation.id)
    else if (operation.op === 'put-settings') Object.assign(patched, operation.object)
    else listOf(`${operation.op.slice(4)}s` as ListName).set(operation.object.id, operation.object)
  }
  for (const [name, items] of lists) {
    const sorted = [...items.values()].sort((a, b) => (a.id < b.id ? -1 : 1))
    Object.assign(patched, { [name]: sorted })
  }
  return patched
}

/** The analysis after a change; null where it must be read anew. */
export function patchedAnalysis(analysis: Analysis, changed: Changed, tunnelIds: string[]): Analysis | null {
  const { analysis: step, revision } = changed
  if (!step || analysis.revision !== revision - 1) return null
  const forecasts = new Map([...analysis.forecasts, ...step.forecasts].map((one) => [one.tunnel_id, one]))
  const gone = new Set(step.removed)
  const findings = analysis.findings.filter((_, place) => !gone.has(place))
  for (const { place, finding } of step.added) findings.splice(place, 0, finding)
  return {
    ...analysis,
    revision,
    forecasts: tunnelIds.flatMap((id) => forecasts.get(id) ?? []),
    overlaps: step.overlaps ?? analysis.overlaps,
    findings,
  }
}
