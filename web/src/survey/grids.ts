/** The grids: one for each kind of object that has no screen of its own. */
import type { ColumnDescription } from '@/api/types'
import { KINDS } from '@/design/kinds'
import type { Grid } from './columns'

const WIDTHS_PX: Record<ColumnDescription['form'], number> = {
  text: 124,
  figures: 112,
  number: 54,
  'yes-no': 64,
  choice: 92,
  reference: 132,
  structure: 150,
}
const LIST_PX = 140
const LETTER_PX = 7

/** Wide enough for what usually stands in it, and for the longest word of its title. */
function widthPx(column: ColumnDescription): number {
  const longest = Math.max(...column.title.split(/\s/).map((word) => word.length))
  return Math.max(column.many ? LIST_PX : WIDTHS_PX[column.form], longest * LETTER_PX + 14)
}

export const GRIDS: readonly Grid[] = KINDS.filter((kind) => kind.group !== 'match').map((kind) => ({
  ...kind,
  columns: kind.columns.map((column) => ({ ...column, widthPx: widthPx(column) })),
}))

/** The grid of a list of the design. */
export function gridOf(members: string): Grid | undefined {
  return GRIDS.find((grid) => grid.members === members)
}
