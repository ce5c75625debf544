/**
 * Texts that were typed and are not in the design: not complete yet, refused, or sent while nobody answered. They stay
 * in the browser's tab, over a reload too, until they are written or given up. Never secrets.
 */
import { useSessionStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'

export interface Typed {
  text: string
  reason: string // why it isn't written; empty while it waits for the rest of its row
  again: boolean // nothing is wrong with it: nobody answered, or somebody else was faster
}

const NONE: readonly [field: string, typed: Typed][] = []

/** The typed texts of one place, such as "routes"; a key names the object and the field. */
export function useTyped(designId: Ref<string>, place: string) {
  const kept = useSessionStorage<Record<string, Typed>>(
    `pontifex-typed-${designId.value}-${place}`,
    {},
    { writeDefaults: false },
  )
  const keyOf = (id: string, field: string) => `${id}/${field}`
  const at = (id: string, field: string): Typed | undefined => kept.value[keyOf(id, field)]
  function keep(id: string, field: string, text: string, reason = '', again = false): void {
    kept.value = { ...kept.value, [keyOf(id, field)]: { text, reason, again } }
  }
  function drop(id: string, fields?: readonly string[]): void {
    const gone = (key: string) =>
      fields ? fields.some((field) => key === keyOf(id, field)) : key.startsWith(keyOf(id, ''))
    kept.value = Object.fromEntries(Object.entries(kept.value).filter(([key]) => !gone(key)))
  }
  const byId = computed(() => {
    const found = new Map<string, [field: string, typed: Typed][]>()
    for (const [key, typed] of Object.entries(kept.value)) {
      const cut = key.lastIndexOf('/')
      const id = key.slice(0, cut)
      found.set(id, [...(found.get(id) ?? []), [key.slice(cut + 1), typed]])
    }
    return found
  })
  const of = (id: string): readonly [field: string, typed: Typed][] => byId.value.get(id) ?? NONE
  return { at, keep, drop, of, byId }
}
