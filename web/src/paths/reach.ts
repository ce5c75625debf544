/** What the letters of the matrix mean, and how networks stand in it. */
import type { Design, PathsMatrix } from '@/api/types'

export type Reach = 'reaches' | 'asymmetric' | 'unknown' | 'one-way' | 'held' | 'blocked' | 'unprotected'

const LETTERS: Record<string, Reach> = {
  r: 'reaches',
  a: 'asymmetric',
  n: 'unknown',
  o: 'one-way',
  h: 'held',
  b: 'blocked',
  u: 'unprotected',
}
export const REACH_WORDS: Record<Reach, string> = {
  reaches: 'arrives and returns',
  asymmetric: 'returns another way',
  unknown: 'not known yet',
  'one-way': 'arrives, no answer',
  held: 'held back',
  blocked: 'lost',
  unprotected: 'leaves unprotected',
}

export interface MatrixCell {
  reach: Reach
  whole: boolean // so for all addresses of both networks
  wanted: boolean // an intent asks for it
}
export interface MatrixNetwork {
  id: string
  name: string
  site: string
  prefix: string
  place: number // in the answer of the server
}

/** The pairs that an intent wants, as "row column". */
export function wantedOf(matrix: PathsMatrix): ReadonlySet<string> {
  return new Set(matrix.wanted.map((pair) => `${pair.row} ${pair.column}`))
}

export function cellAt(
  matrix: PathsMatrix,
  wanted: ReadonlySet<string>,
  row: number,
  column: number,
): MatrixCell | null {
  const letter = matrix.rows[row]?.[column] ?? '.'
  const reach = LETTERS[letter.toLowerCase()]
  if (!reach) return null
  return { reach, whole: letter === letter.toLowerCase(), wanted: wanted.has(`${row} ${column}`) }
}

/** The networks of a matrix, site by site, those whose site, name or prefix holds a text. */
export function networksOf(matrix: PathsMatrix, design: Design, filter: string): MatrixNetwork[] {
  const sites = new Map(design.sites.map((site) => [site.id, site.name]))
  const networks = new Map(design.networks.map((network) => [network.id, network]))
  const wanted = filter.trim().toLowerCase()
  return matrix.network_ids
    .flatMap((id, place) => {
      const network = networks.get(id)
      if (!network) return []
      const site = sites.get(network.site_id) ?? network.site_id
      return [{ id, name: network.name, site, prefix: network.prefix, place }]
    })
    .filter(
      (candidate) =>
        !wanted || `${candidate.site} ${candidate.name} ${candidate.prefix}`.toLowerCase().includes(wanted),
    )
    .sort((a, b) => a.site.localeCompare(b.site) || a.place - b.place)
}

/** How many cells there are of each kind, and how many that are wanted don't arrive and return. */
export function summaryOf(matrix: PathsMatrix): { counts: Map<Reach, number>; unmet: number } {
  const counts = new Map<Reach, number>()
  for (const row of matrix.rows)
    for (const letter of row) {
      const reach = LETTERS[letter.toLowerCase()]
      if (reach) counts.set(reach, (counts.get(reach) ?? 0) + 1)
    }
  const unmet = matrix.wanted.filter(
    ({ row, column }) => !'ra'.includes((matrix.rows[row]?.[column] ?? '.').toLowerCase()),
  ).length
  return { counts, unmet }
}
