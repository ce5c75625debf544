/** The grids: which columns each type of object has. */
import type { Design } from '@/api/types'
import { words } from '@/ui/words'
import type { Choice, Column, Grid, GridName } from './columns'

type Row = Record<string, unknown>
const fixed = (...values: string[]) => {
  const choices = values.map((value) => ({ value, label: words(value) }))
  return () => choices
}
const named = (items: readonly { id: string; name: string }[]) =>
  items.map((item) => ({ value: item.id, label: item.name }))
const sites = (design: Design) => named(design.sites)
const gateways = (design: Design) => named(design.gateways)

/** Networks with their sites, since names repeat from site to site. */
function networks(design: Design): Choice[] {
  const siteNames = new Map(design.sites.map((site) => [site.id, site.name]))
  return design.networks.map((one) => ({
    value: one.id,
    label: `${siteNames.get(one.site_id) ?? one.site_id}: ${one.name}`,
  }))
}
/** The tunnels that end at the row's gateway. */
function tunnels(design: Design, row?: Row): Choice[] {
  const here = design.tunnels.filter(
    (tunnel) =>
      !row?.gateway_id || [tunnel.left.gateway_id, tunnel.right.gateway_id].includes(String(row.gateway_id)),
  )
  return named(here)
}
/** The uplinks of the row's gateway. */
function uplinks(design: Design, row?: Row): Choice[] {
  return named(design.uplinks.filter((uplink) => !row?.gateway_id || uplink.gateway_id === row.gateway_id))
}
/** What a rule may send traffic into; the type stands before the id. */
function paths(design: Design, row?: Row): Choice[] {
  const typed = (type: string) => (choice: Choice) => ({ ...choice, value: `${type} ${choice.value}` })
  return [...tunnels(design, row).map(typed('tunnel')), ...uplinks(design, row).map(typed('uplink'))]
}

/** What rules and intents may name instead of a prefix; the type stands before the id. */
function members(design: Design): Choice[] {
  const typed = (type: string) => (choice: Choice) => ({ ...choice, value: `${type} ${choice.value}` })
  return [
    ...named(design.sites).map(typed('site')),
    ...networks(design).map(typed('network')),
    ...named(design.hosts).map(typed('host')),
  ]
}

const text = (field: string, title: string, widthPx: number, more: Partial<Column> = {}): Column => ({
  field,
  title,
  widthPx,
  kind: 'text',
  ...more,
})
const figures = (field: string, title: string, widthPx: number, more: Partial<Column> = {}) =>
  text(field, title, widthPx, { figures: true, ...more })
const number = (field: string, title: string, widthPx: number, blank: number | null = null) =>
  figures(field, title, widthPx, { kind: 'number', blank })
const list = (field: string, title: string, widthPx: number) =>
  figures(field, title, widthPx, { kind: 'list', blank: [] })
const yesNo = (field: string, title: string, widthPx: number, blank: boolean) =>
  text(field, title, widthPx, { kind: 'yesno', blank })
const choice = (
  field: string,
  title: string,
  widthPx: number,
  choices: Column['choices'],
  more: Partial<Column> = {},
): Column => ({ field, title, widthPx, kind: 'choice', choices, ...more })

const SITE_KINDS = fixed('office', 'data-centre', 'cloud', 'vehicle', 'home', 'partner')
const ROLES = fixed('user', 'server', 'management', 'guest', 'transit', 'pool', 'container')
const GATEWAY_KINDS = fixed('router', 'firewall', 'server', 'cloud-gateway', 'container-host')
const ADDRESS_KINDS = fixed('fixed-public', 'changing-public', 'behind-nat', 'carrier-nat')
const HOST_CLASSES = fixed('device', 'server', 'workload', 'container')
const ASSIGNMENTS = fixed('static', 'reserved')

const COLUMNS: Record<GridName, [type: Grid['type'], title: string, columns: Column[]]> = {
  sites: [
    'site',
    'Sites',
    [
      text('name', 'Site', 190),
      choice('kind', 'Kind', 120, SITE_KINDS, { blank: 'office' }),
      text('organisation', 'Organisation', 180, { blank: '' }),
      text('place', 'Place', 200, { blank: '' }),
      text('region', 'Region', 100, { blank: '' }),
    ],
  ],
  networks: [
    'network',
    'Networks',
    [
      choice('site_id', 'Site', 126, sites),
      text('name', 'Network', 112),
      figures('prefix', 'Prefix', 112),
      choice('role', 'Role', 72, ROLES, { blank: 'user' }),
      number('vlan', 'VLAN', 46),
      figures('gateway_address', 'Gateway address', 92, { blank: null }),
      text('zone', 'Isolated zone', 96, { blank: '' }),
      list('dhcp_ranges', 'DHCP ranges', 128),
      number('lease_time_s', 'Lease s', 56),
      number('hosts_expected', 'Hosts expected', 66),
      list('reserved_ranges', 'Platform keeps', 128),
      list('dhcp_routes', 'Routes by DHCP', 150),
      list('resolvers', 'Resolvers', 92),
      yesNo('own_table', 'Own route table', 64, false),
      figures('interface', 'Interface', 76, { blank: null }),
    ],
  ],
  hosts: [
    'host',
    'Hosts',
    [
      choice('network_id', 'Network', 180, networks),
      text('name', 'Host', 130),
      figures('address', 'Address', 116),
      choice('host_class', 'Class', 80, HOST_CLASSES, { blank: 'device' }),
      choice('assignment', 'Assignment', 80, ASSIGNMENTS, { blank: 'static' }),
      figures('hardware_address', 'Hardware address', 124, { blank: null }),
      figures('dns_name', 'DNS name', 150, { blank: null }),
      list('ports', 'Published ports', 90),
    ],
  ],
  gateways: [
    'gateway',
    'Gateways',
    [
      choice('site_id', 'Site', 180, sites),
      text('name', 'Gateway', 190),
      choice('kind', 'Kind', 140, GATEWAY_KINDS, { blank: 'router' }),
      yesNo('service_on', 'Tunnels on', 76, true),
      yesNo('keeps_state', 'Keeps state', 76, true),
      yesNo('folds_case', 'Folds case', 76, false),
      number('most_selectors', 'Most networks', 96),
      yesNo('forwarding', 'Forwards', 76, true),
      yesNo('default_router', 'Hosts use it', 84, true),
      figures('inside_address', 'Inside address', 108, { blank: null }),
      list('resolvers', 'Resolvers', 100),
      choice('outranking', 'Outranks rules', 100, fixed('nothing', 'connected', 'specific'), {
        blank: 'nothing',
      }),
    ],
  ],
  uplinks: [
    'uplink',
    'Uplinks',
    [
      choice('gateway_id', 'Gateway', 122, gateways),
      text('name', 'Uplink', 76),
      choice('address_kind', 'Address kind', 112, ADDRESS_KINDS, { blank: 'fixed-public' }),
      figures('address', 'Address', 112, { blank: null }),
      figures('dns_name', 'DNS name', 142, { blank: null }),
      yesNo('inbound_ike', 'Can be called', 58, true),
      number('rate_down_mbit_s', 'Down Mbit/s', 54),
      number('rate_up_mbit_s', 'Up Mbit/s', 54),
      number('delay_ms', 'Delay ms', 48),
      number('jitter_ms', 'Jitter ms', 48),
      number('loss_percent', 'Loss %', 48),
      number('preference', 'Order', 46, 1),
      yesNo('inbound_tcp', 'TCP arrives', 58, true),
      yesNo('only_tcp_out', 'Only TCP out', 58, false),
      number('mtu', 'MTU', 48),
      number('nat_timeout_s', 'NAT timeout s', 60),
      figures('interface', 'Interface', 76, { blank: null }),
    ],
  ],
  claims: [
    'claim',
    'Claims',
    [
      choice('site_id', 'Site', 150, sites),
      text('name', 'Claim', 160),
      figures('prefix', 'Prefix', 150),
      text('remark', 'Remark', 260, { blank: '' }),
    ],
  ],
  translations: [
    'translation',
    'Translations',
    [
      choice('gateway_id', 'Gateway', 150, gateways),
      text('name', 'Translation', 170),
      choice('tunnel_id', 'Tunnel', 120, tunnels, { blank: null }),
      choice('side', 'Whose addresses', 80, fixed('own', 'far'), { blank: 'own' }),
      choice('kind', 'Kind', 90, fixed('one-to-one', 'behind-one'), { blank: 'one-to-one' }),
      figures('inside', 'Real', 126),
      figures('outside', 'Seen as', 126),
    ],
  ],
  routes: [
    'route',
    'Routes',
    [
      choice('gateway_id', 'Gateway', 170, gateways),
      figures('prefix', 'Prefix', 140),
      figures('via', 'By address', 120, { blank: null }),
      choice('tunnel_id', 'By tunnel', 130, tunnels, { blank: null }),
      choice('uplink_id', 'By uplink', 110, uplinks, { blank: null }),
      choice('network_id', 'Of subnet', 130, networks, { blank: null }),
      choice('origin', 'Origin', 64, fixed('static', 'learnt'), { blank: 'static' }),
      number('metric', 'Metric', 56, 0),
      text('name', 'Remark', 140, { blank: '' }),
    ],
  ],
  rules: [
    'rule',
    'Rules',
    [
      choice('gateway_id', 'Gateway', 150, gateways),
      number('position', 'Order', 50, 10),
      text('name', 'Rule', 130),
      list('sources', 'From', 130),
      list('destinations', 'To', 160),
      text('paths', 'Paths', 150, { kind: 'list', choices: paths, blank: [] }),
      choice('on_failure', 'On failure', 90, fixed('fall-through', 'hold'), { blank: 'fall-through' }),
      text('source_members', 'From hosts, networks', 160, { kind: 'list', choices: members, blank: [] }),
      text('destination_members', 'To hosts, networks', 160, { kind: 'list', choices: members, blank: [] }),
      list('destination_names', 'To names', 130),
      choice('name_resolution', 'Names resolved', 90, fixed('at-start', 'by-answers'), { blank: 'at-start' }),
      text('region', 'To region', 80, { blank: '' }),
      list('dscp', 'Classes', 70),
      figures('marks', 'Marks as', 60, { blank: null }),
      number('back_margin_percent', 'Back margin %', 64, 20),
      number('back_after_s', 'Back after s', 64, 60),
    ],
  ],
  filters: [
    'filter',
    'Filters',
    [
      choice('gateway_id', 'Gateway', 160, gateways),
      text('name', 'Filter', 150),
      choice('direction', 'Direction', 80, fixed('in', 'out', 'through'), { blank: 'in' }),
      list('sources', 'From', 180),
      list('destinations', 'To', 220),
    ],
  ],
  intents: [
    'intent',
    'Intents',
    [
      text('name', 'Intent', 120),
      text('sources', 'From', 220, { kind: 'list', choices: members }),
      text('destinations', 'To', 220, { kind: 'list', choices: members }),
      list('services', 'Services', 90),
      yesNo('both_ways', 'Both ways', 60, false),
      figures('dscp', 'Class', 60, { blank: null }),
      number('rate_mbit_s', 'Mbit/s', 60),
    ],
  ],
  profiles: [
    'profile',
    'Profiles',
    [
      text('name', 'Profile', 130),
      choice('gateway_id', 'Gateway', 140, gateways),
      choice('pool_id', 'Pool', 150, networks, { blank: null }),
      number('people', 'People', 56),
      choice('mode', 'Goes through', 80, fixed('all', 'only', 'all-but'), { blank: 'all' }),
      list('networks', 'These networks', 180),
      list('resolvers', 'Resolvers', 110),
      list('suffixes', 'Names asked there', 130),
      number('most_routes', 'Most routes', 64),
      list('own_resolvers', 'Suffixes with resolvers', 160),
    ],
  ],
}

export const GRIDS = Object.fromEntries(
  Object.entries(COLUMNS).map(([name, [type, title, columns]]) => [name, { name, type, title, columns }]),
) as Record<GridName, Grid>
