/** The grids: one for each kind of object that isn't compared end by end. */
import type { ColumnDescription } from '@/api/types'
import { KINDS } from '@/design/kinds'
import type { Grid } from './columns'

const WIDTHS_PX: Record<ColumnDescription['form'], number> = {
  text: 124,
  figures: 126,
  number: 54,
  'yes-no': 64,
  choice: 92,
  reference: 132,
  structure: 150,
}
const LIST_PX = 140
const LETTER_PX = 7

/** Wide enough for what usually stands in it, for the longest word of its title, and for the title in two lines. */
function widthPx(column: ColumnDescription): number {
  const longest = Math.max(...column.title.split(/\s/).map((word) => word.length))
  return Math.max(
    column.many ? LIST_PX : WIDTHS_PX[column.form],
    longest * LETTER_PX + 14,
    (column.title.length / 2) * LETTER_PX + 20,
  )
}

const NO_GRID: readonly Grid['group'][] = ['match', 'handover', 'worklist'] // they have a place of their own
const GRIDS: readonly Grid[] = KINDS.filter((kind) => !NO_GRID.includes(kind.group)).map((kind) => ({
  ...kind,
  columns: kind.columns.map((column) => ({
    ...column,
    widthPx: widthPx(column),
    figures: column.form === 'figures' || column.form === 'number',
  })),
}))

export type GridView = 'survey' | 'paths' | 'clouds'
const VIEWS: Partial<Record<Grid['group'], GridView>> = { paths: 'paths', clouds: 'clouds' }

/** The view in which the objects of a kind are thought about. */
export function viewOf(grid: Pick<Grid, 'group'>): GridView {
  return VIEWS[grid.group] ?? 'survey'
}

/** The grids of a view. */
export function gridsOf(view: GridView): readonly Grid[] {
  return GRIDS.filter((grid) => viewOf(grid) === view)
}

/** The grid of a list of the design. */
export function gridOf(members: string): Grid | undefined {
  return GRIDS.find((grid) => grid.members === members)
}
