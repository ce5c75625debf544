/** The grids of the survey: which columns each type of object has, and how a typed text becomes a value. */
import type { Design, Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { words } from '@/ui/words'

export type GridName = 'sites' | 'networks' | 'gateways' | 'uplinks'
export type GridRow = { id: string } & Record<string, unknown>

export interface Choice {
  value: string
  label: string
}

export interface Column {
  field: string
  title: string
  widthPx: number
  kind: 'text' | 'number' | 'choice' | 'yesno'
  figures?: boolean // set in the typeface of addresses and numbers
  choices?: (design: Design) => Choice[]
  blank?: unknown // what an empty cell stands for; a column without it must be filled
}

export interface Grid {
  name: GridName
  type: 'site' | 'network' | 'gateway' | 'uplink'
  title: string
  columns: Column[]
}

const fixed = (...values: string[]) => values.map((value) => ({ value, label: words(value) }))
const sites = (design: Design) => design.sites.map((site) => ({ value: site.id, label: site.name }))
const gateways = (design: Design) =>
  design.gateways.map((gateway) => ({ value: gateway.id, label: gateway.name }))

const SITE_KINDS = fixed('office', 'data-centre', 'cloud', 'vehicle', 'home', 'partner')
const ROLES = fixed('user', 'server', 'management', 'guest', 'transit', 'pool', 'container')
const GATEWAY_KINDS = fixed('router', 'firewall', 'server', 'cloud-gateway', 'container-host')
const ADDRESS_KINDS = fixed('fixed-public', 'changing-public', 'behind-nat', 'carrier-nat')

export const GRIDS: Record<GridName, Grid> = {
  sites: {
    name: 'sites',
    type: 'site',
    title: 'Sites',
    columns: [
      { field: 'name', title: 'Site', widthPx: 190, kind: 'text' },
      {
        field: 'kind',
        title: 'Kind',
        widthPx: 120,
        kind: 'choice',
        choices: () => SITE_KINDS,
        blank: 'office',
      },
      { field: 'organisation', title: 'Organisation', widthPx: 180, kind: 'text', blank: '' },
      { field: 'place', title: 'Place', widthPx: 200, kind: 'text', blank: '' },
    ],
  },
  networks: {
    name: 'networks',
    type: 'network',
    title: 'Networks',
    columns: [
      { field: 'site_id', title: 'Site', widthPx: 140, kind: 'choice', choices: sites },
      { field: 'name', title: 'Network', widthPx: 130, kind: 'text' },
      { field: 'prefix', title: 'Prefix', widthPx: 140, kind: 'text', figures: true },
      { field: 'role', title: 'Role', widthPx: 90, kind: 'choice', choices: () => ROLES, blank: 'user' },
      { field: 'vlan', title: 'VLAN', widthPx: 56, kind: 'number', figures: true, blank: null },
      {
        field: 'gateway_address',
        title: 'Gateway address',
        widthPx: 120,
        kind: 'text',
        figures: true,
        blank: null,
      },
      { field: 'zone', title: 'Isolated zone', widthPx: 130, kind: 'text', blank: '' },
    ],
  },
  gateways: {
    name: 'gateways',
    type: 'gateway',
    title: 'Gateways',
    columns: [
      { field: 'site_id', title: 'Site', widthPx: 180, kind: 'choice', choices: sites },
      { field: 'name', title: 'Gateway', widthPx: 190, kind: 'text' },
      {
        field: 'kind',
        title: 'Kind',
        widthPx: 140,
        kind: 'choice',
        choices: () => GATEWAY_KINDS,
        blank: 'router',
      },
      { field: 'service_on', title: 'Tunnels on', widthPx: 76, kind: 'yesno', blank: true },
      { field: 'folds_case', title: 'Folds case', widthPx: 76, kind: 'yesno', blank: false },
      {
        field: 'most_selectors',
        title: 'Most networks',
        widthPx: 96,
        kind: 'number',
        figures: true,
        blank: null,
      },
    ],
  },
  uplinks: {
    name: 'uplinks',
    type: 'uplink',
    title: 'Uplinks',
    columns: [
      { field: 'gateway_id', title: 'Gateway', widthPx: 122, kind: 'choice', choices: gateways },
      { field: 'name', title: 'Uplink', widthPx: 76, kind: 'text' },
      {
        field: 'address_kind',
        title: 'Address kind',
        widthPx: 112,
        kind: 'choice',
        choices: () => ADDRESS_KINDS,
        blank: 'fixed-public',
      },
      { field: 'address', title: 'Address', widthPx: 112, kind: 'text', figures: true, blank: null },
      { field: 'dns_name', title: 'DNS name', widthPx: 142, kind: 'text', figures: true, blank: null },
      { field: 'inbound_ike', title: 'Can be called', widthPx: 58, kind: 'yesno', blank: true },
      {
        field: 'rate_down_mbit_s',
        title: 'Down Mbit/s',
        widthPx: 54,
        kind: 'number',
        figures: true,
        blank: null,
      },
      {
        field: 'rate_up_mbit_s',
        title: 'Up Mbit/s',
        widthPx: 54,
        kind: 'number',
        figures: true,
        blank: null,
      },
      { field: 'delay_ms', title: 'Delay ms', widthPx: 48, kind: 'number', figures: true, blank: null },
      { field: 'preference', title: 'Order', widthPx: 46, kind: 'number', figures: true, blank: 1 },
      { field: 'inbound_tcp', title: 'TCP arrives', widthPx: 58, kind: 'yesno', blank: false },
      { field: 'only_tcp_out', title: 'Only TCP out', widthPx: 58, kind: 'yesno', blank: false },
      { field: 'mtu', title: 'MTU', widthPx: 48, kind: 'number', figures: true, blank: null },
      {
        field: 'nat_timeout_s',
        title: 'NAT timeout s',
        widthPx: 60,
        kind: 'number',
        figures: true,
        blank: null,
      },
    ],
  },
}

/** What a cell shows. */
export function cellText(column: Column, value: unknown, design: Design): string {
  if (value === null || value === undefined || value === '') return ''
  if (column.kind === 'yesno') return value ? 'yes' : 'no'
  if (column.choices)
    return column.choices(design).find((choice) => choice.value === value)?.label ?? String(value)
  return String(value)
}

/**
 * The value that a typed or pasted text stands for. What can't be a value is passed on as text: the server says what
 * is wrong with it.
 */
export function cellValue(column: Column, text: string, design: Design): unknown {
  const typed = text.trim()
  if (!typed) return column.blank
  if (column.kind === 'number') return Number.isNaN(Number(typed)) ? typed : Number(typed)
  if (column.kind === 'yesno')
    return { yes: true, no: false, true: true, false: false }[typed.toLowerCase()] ?? typed
  if (!column.choices) return typed
  const wanted = typed.toLowerCase()
  const found = column
    .choices(design)
    .find((choice) => choice.value === typed || choice.label.toLowerCase() === wanted)
  return found?.value ?? typed
}

/** The columns of a row that must still be filled before it can be written. */
export function unfilled(grid: Grid, row: Record<string, unknown>): Column[] {
  return grid.columns.filter((column) => !('blank' in column) && (row[column.field] ?? '') === '')
}

/** A row without values. */
export function blankRow(grid: Grid): Record<string, unknown> {
  return Object.fromEntries(grid.columns.map((column) => [column.field, column.blank]))
}

/** An id for a new row, made of the names that tell it from others. */
export function rowId(grid: Grid, row: Record<string, unknown>, taken: ReadonlySet<string>): string {
  const parent = row.site_id ?? String(row.gateway_id ?? '').replace(/-gateway$/, '')
  return freshId(grid.type === 'site' ? String(row.name) : `${String(parent)} ${String(row.name)}`, taken)
}

/** The operation that writes a row. */
export function putRow(grid: Grid, row: GridRow): Operation {
  return { op: `put-${grid.type}`, object: row } as unknown as Operation
}
