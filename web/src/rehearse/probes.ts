/** What was tried before the call and after it, against what forecast and trace expect. */
import type { ProbePair, Rehearsal } from '@/api/types'

export type ProbeKind = ProbePair['after']['kind']

/** Sizes are told where there is a Child SA to be measured. */
const SIZED: readonly ProbeKind[] = ['largest', 'too-large']

/** Return the probes that tell anything. */
export function toldProbes(rehearsal: Rehearsal): ProbePair[] {
  return rehearsal.probes.filter((pair) => !SIZED.includes(pair.after.kind) || pair.after.octets > 0)
}

/** Whether a probe ended as foreseen. Where faults were let happen, nothing is held against the forecast. */
export function isForeseen(rehearsal: Rehearsal, pair: ProbePair): boolean {
  if (!rehearsal.outcome?.is_judged) return true
  const { passes, answers } = pair.after
  return passes === pair.expected && (!pair.foreseen.length || `${answers}` === `${pair.foreseen}`)
}

/** Return how many there are, and how many of them ended otherwise than foreseen. */
export function countedProbes(rehearsal: Rehearsal): string {
  const told = toldProbes(rehearsal)
  const otherwise = told.filter((pair) => !isForeseen(rehearsal, pair)).length
  return otherwise ? `Probes ${told.length}, ${otherwise} not as foreseen` : `Probes ${told.length}`
}
