/** Where in the application an object or a field of it is shown. */
import type { RouteLocationRaw } from 'vue-router'
import type { ObjectType, Place } from '@/api/types'
import { kindOf } from '@/design/kinds'

/** The view, object and field that a place stands for; the URL alone is enough to get there. */
export function routeOf(
  designId: string,
  place: Pick<Place, 'type' | 'id'> & { field?: string },
): RouteLocationRaw {
  if (place.type === 'tunnel') {
    const query = place.field ? { at: place.field } : {}
    return { name: 'match', params: { designId, tunnelId: place.id }, query }
  }
  const query = place.type === 'settings' ? {} : { at: `${place.id}/${place.field || 'name'}` }
  return { name: 'survey', params: { designId, grid: gridOf(place.type) }, query }
}

function gridOf(type: ObjectType): string {
  return kindOf(type)?.members ?? 'design'
}
