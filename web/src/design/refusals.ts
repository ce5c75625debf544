/** What a refusal says of single fields: the one reader of the server's pointers. */
import type { Problem } from '@/api/types'

export interface RefusedField {
  operation: number // which of the change's operations; 0 where the request is no change
  field: string // of the object, or of the request's body; empty where it is about the whole
  reason: string
}

/** The fields that a problem names, in its order: "/operations/2/object/prefix", "/networks/0" or "/prefix". */
export function refusedFields(problem: Problem | null): RefusedField[] {
  return (problem?.errors ?? []).map(({ pointer, detail }) => {
    const parts = pointer.split('/').slice(1)
    if (parts[0] !== 'operations') return { operation: 0, field: parts[0] ?? '', reason: detail }
    const field = parts[2] === 'object' ? parts[3] : parts[2]
    return { operation: Number(parts[1]), field: field ?? '', reason: detail }
  })
}

/** The first reason for each field of an object. */
export function reasonsByField(problem: Problem | null): Record<string, string> {
  return Object.fromEntries(
    refusedFields(problem)
      .reverse()
      .map((field) => [field.field, field.reason]),
  )
}

/** All that a problem says, in one line. */
export function reasonOf(problem: Problem | null): string {
  return (
    refusedFields(problem)
      .map((field) => field.reason)
      .join('; ') ||
    (problem?.detail ?? '')
  )
}
