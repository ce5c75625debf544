/** Where in the application an object or a field of it is shown. */
import type { RouteLocation, RouteLocationRaw } from 'vue-router'
import type { Place } from '@/api/types'
import { kindOf } from '@/design/kinds'
import { gridOf, viewOf } from '@/grids/grids'

/** The panel of People in which a field of a profile is edited; both ends stand in the first one. */
const PROFILE_PANELS: Record<string, string> = {
  device_end: '',
  gateway_end: '',
  networks: 'split',
  mode: 'split',
  resolvers: 'split',
  suffixes: 'split',
  own_resolvers: 'split',
  people: 'split',
  pool_id: 'split',
  dhcp_block: 'settings',
  servers: 'settings',
  families: 'settings',
  dial: 'settings',
  inside_tests: 'settings',
  rules: 'settings',
  lock_down: 'settings',
  idle_limit_s: 'settings',
  session_limit_s: 'settings',
  second_factor: 'settings',
  proxy: 'settings',
}
/** A field of an end, as the comparison names it: the device stands on the left. */
const sideOf = (field: string) => field.replace(/^device_end/, 'left').replace(/^gateway_end/, 'right')

/** The view, object and field that a place stands for; the URL alone is enough to get there. */
export function routeOf(
  designId: string,
  place: Pick<Place, 'type' | 'id'> & { field?: string },
): RouteLocationRaw {
  if (place.type === 'tunnel') {
    const query = place.field ? { at: place.field } : {}
    return { name: 'match', params: { designId, tunnelId: place.id }, query }
  }
  if (place.type === 'template')
    return { name: 'handover', params: { designId, panel: 'templates', objectId: place.id } }
  if (place.type === 'standard') return { name: 'standards', params: { designId } }
  if (place.type === 'profile') {
    const panel = PROFILE_PANELS[place.field?.split('/')[0] ?? ''] ?? ''
    const query = place.field?.includes('/') ? { at: sideOf(place.field) } : {}
    return { name: 'people', params: { designId, profileId: place.id, panel }, query }
  }
  const grid = gridOf(kindOf(place.type)?.members ?? '')
  if (!grid) return { name: 'survey', params: { designId, grid: 'design' } }
  const query = { at: `${place.id}/${place.field || 'name'}` }
  const view = viewOf(grid)
  if (view !== 'survey')
    return { name: view, params: { designId, panel: 'tables', objectId: grid.members }, query }
  return { name: 'survey', params: { designId, grid: grid.members }, query }
}

const TITLES: Record<string, string> = {
  survey: 'Survey',
  match: 'Match',
  'compare-keys': 'Compare keys',
  addresses: 'Addresses',
  paths: 'Paths',
  people: 'People',
  clouds: 'Clouds',
  rehearse: 'Rehearse',
  handover: 'Hand over',
  start: 'Add sites',
  connect: 'Connect sites',
  standards: 'Standards',
  history: 'History',
}

const STAGE_OF: Record<string, string> = {
  start: 'survey',
  connect: 'survey',
  standards: 'match',
  'compare-keys': 'match',
}

/** The stage of the work that a view belongs to. */
export function stageOf(route: { name?: unknown }): string {
  const name = String(route.name)
  return STAGE_OF[name] ?? name
}

const ABOUT_TUNNELS: ReadonlySet<string> = new Set(['match', 'compare-keys', 'rehearse'])

/** The id of the tunnel that a view is about; empty where it is about all of them, undefined about something else. */
export function tunnelOf({ name, params }: Pick<RouteLocation, 'name' | 'params'>): string | undefined {
  if (ABOUT_TUNNELS.has(String(name))) return String(params.tunnelId ?? '')
  return name === 'handover' && params.panel === 'sheets' ? String(params.objectId ?? '') : undefined
}

/** What a view is called. */
export function titleOf(route: { name?: unknown }): string {
  return TITLES[String(route.name)] ?? 'Pontifex'
}
