/** What a change's answer does to the design and the analysis that are shown: nothing is read anew. */
import type { Analysis, Changed, Design, ObjectType } from '@/api/types'
import { kindOf, membersOf } from './kinds'

type Item = { id: string }

/** The design after the operations of a change; lists stay in the order of ids. */
export function patchedDesign(design: Design, changed: Changed): Design {
  const patched: Design = { ...design, revision: changed.revision }
  const lists = new Map<ObjectType, Map<string, Item>>()
  const listOf = (type: ObjectType): Map<string, Item> => {
    const known = lists.get(type) ?? new Map(membersOf(design, type).map((item) => [item.id, item]))
    lists.set(type, known)
    return known
  }
  for (const operation of changed.operations) {
    if (operation.op === 'remove') listOf(operation.type).delete(operation.id)
    else if (operation.op === 'put-settings') Object.assign(patched, operation.object)
    else listOf(operation.op.slice('put-'.length) as ObjectType).set(operation.object.id, operation.object)
  }
  for (const [type, items] of lists) {
    const sorted = [...items.values()].sort((a, b) => (a.id < b.id ? -1 : 1))
    Object.assign(patched, { [kindOf(type)?.members ?? '']: sorted })
  }
  return patched
}

/** The analysis after a change; null where it must be read anew. */
export function patchedAnalysis(analysis: Analysis, changed: Changed, tunnelIds: string[]): Analysis | null {
  const { analysis: step, revision } = changed
  if (!step || analysis.revision !== revision - 1) return null
  const forecasts = new Map(
    [...analysis.forecasts, ...step.forecasts].map((forecast) => [forecast.tunnel_id, forecast]),
  )
  const gone = new Set(step.removed)
  const findings = analysis.findings.filter((_, place) => !gone.has(place))
  for (const { place, finding } of step.added) findings.splice(place, 0, finding)
  return {
    ...analysis,
    revision,
    forecasts: tunnelIds.flatMap((id) => forecasts.get(id) ?? []),
    overlaps: step.overlaps ?? analysis.overlaps,
    findings,
    overlaps_count: step.overlaps_count,
    findings_count: step.findings_count,
  }
}
