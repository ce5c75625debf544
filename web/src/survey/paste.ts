/** Rows pasted from a spreadsheet, as operations. */
import Papa from 'papaparse'
import type { Design, Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { blankRow, cellValue, putRow, rowId, unfilled, type Grid, type GridRow } from './columns'

export const MOST_ROWS = 2000
export const MOST_CHARACTERS = 1_000_000

export interface PastedRow {
  line: number // from 1, in the pasted text
  cells: string[]
  outcome: 'new' | 'changes' | 'same' | 'wrong'
  detail: string
  operationAt: number | null // position among the operations
}

export interface Paste {
  rows: PastedRow[]
  operations: Operation[]
  newSites: string[]
  trouble: string // why nothing of it can be read; empty otherwise
}

const HEADINGS = new Set(['site', 'gateway', 'name', 'network', 'prefix', 'uplink', 'host', 'address'])

/** Turn pasted text into operations: cells stand in the order of the grid's columns; unknown sites are made. */
export function readPaste(text: string, grid: Grid, design: Design): Paste {
  const nothing = (trouble: string): Paste => ({ rows: [], operations: [], newSites: [], trouble })
  if (text.length > MOST_CHARACTERS) {
    const size = (text.length / 1_000_000).toFixed(1)
    return nothing(
      `The paste holds ${size} million characters; 1 million at most at once. Nothing was taken over.`,
    )
  }
  const lines = Papa.parse<string[]>(text, { skipEmptyLines: 'greedy' }).data
  if (lines.length > MOST_ROWS) {
    return nothing(
      `The paste holds ${lines.length} rows; ${MOST_ROWS} at most at once. Nothing was taken over.`,
    )
  }
  const first = lines[0] ?? []
  const headed =
    first.length > 0 && first.every((cell) => HEADINGS.has(cell.trim().toLowerCase()) || !cell.trim())
  return new PasteReader(grid, design).read(lines, headed ? 1 : 0)
}

class PasteReader {
  private readonly taken: Set<string>
  private readonly siteIds: Set<string>
  private design: Design
  private readonly operations: Operation[] = []
  private readonly newSites: string[] = []

  constructor(
    private readonly grid: Grid,
    design: Design,
  ) {
    this.design = design
    this.taken = new Set(design[grid.name].map((item) => item.id))
    this.siteIds = new Set(design.sites.map((site) => site.id))
  }

  read(lines: string[][], skip: number): Paste {
    const rows = lines.slice(skip).map((cells, at) => this.row(cells, at + skip + 1))
    return { rows, operations: this.operations, newSites: this.newSites, trouble: '' }
  }

  private row(cells: string[], line: number): PastedRow {
    const made = { line, cells, operationAt: null }
    if (cells.length > this.grid.columns.length) {
      return {
        ...made,
        outcome: 'wrong',
        detail: `has ${cells.length} cells; ${this.grid.columns.length} at most`,
      }
    }
    this.makeSite(cells[0] ?? '')
    const values = blankRow(this.grid)
    this.grid.columns.forEach((column, at) => {
      if (cells[at] !== undefined) values[column.field] = cellValue(column, cells[at], this.design, values)
    })
    const missing = unfilled(this.grid, values)
    if (missing.length) {
      return {
        ...made,
        outcome: 'wrong',
        detail: `still needs: ${missing.map((column) => column.title).join(', ')}`,
      }
    }
    const known = this.known(values)
    const given = this.grid.columns.slice(0, cells.length).map((column) => column.field)
    if (
      known &&
      given.every((field) => JSON.stringify(known[field] ?? '') === JSON.stringify(values[field] ?? ''))
    ) {
      return { ...made, outcome: 'same', detail: 'is there already' }
    }
    const row = known
      ? { ...known, ...Object.fromEntries(given.map((field) => [field, values[field]])) }
      : { ...values, id: rowId(this.grid, values, this.taken) }
    this.taken.add(row.id)
    this.operations.push(putRow(this.grid, row))
    const outcome = known ? 'changes' : 'new'
    return { ...made, outcome, detail: outcome, operationAt: this.operations.length - 1 }
  }

  /** A network or gateway may name a site that isn't there yet. */
  private makeSite(name: string): void {
    const isSite = this.grid.columns[0]?.field === 'site_id'
    const typed = name.trim()
    const same = (site: { id: string; name: string }) =>
      site.id === typed || site.name.toLowerCase() === typed.toLowerCase()
    if (!isSite || !typed || this.design.sites.some(same)) return
    const site = {
      id: freshId(typed, this.siteIds),
      name: typed,
      kind: 'office' as const,
      organisation: '',
      place: '',
      region: '',
    }
    this.siteIds.add(site.id)
    this.design = { ...this.design, sites: [...this.design.sites, site] }
    this.newSites.push(typed)
    this.operations.push({ op: 'put-site', object: site })
  }

  /** The object that a row is about: the one of its name, at its site or gateway. */
  private known(values: Record<string, unknown>): GridRow | undefined {
    const rows = this.design[this.grid.name] as unknown as GridRow[]
    const wanted = String(values.name || values.prefix).toLowerCase()
    return rows.find(
      (row) =>
        String(row.name || row.prefix).toLowerCase() === wanted &&
        (['site_id', 'gateway_id', 'network_id'] as const).every(
          (parent) => this.grid.type === 'profile' || row[parent] === values[parent],
        ),
    )
  }
}
