/** The editors that stand open in the table of a tunnel: what was typed stays open until it is saved or given up. */
import { ref } from 'vue'
import type { Row, Side, Tunnel } from '@/api/types'
import { useChangeHere } from '@/design/useChangeHere'
import type { DesignSession } from '@/design/useDesignSession'
import { useTyped } from '@/design/useTyped'
import { otherSide, withValue } from './copying'
import type { EndsKeeper } from './keeper'

export function useEditors(
  session: DesignSession,
  tunnel: () => Tunnel,
  names: () => Record<Side, string>,
  keeper: () => EndsKeeper,
) {
  const { changeHere, trouble } = useChangeHere(session)
  const typed = useTyped(session.designId, `match-${tunnel().id}`)
  const keyOf = (row: string, side: Side) => `${row}/${side}`
  const before = [...typed.byId.value].flatMap(([row, all]) => all.map(([side]) => keyOf(row, side as Side)))
  const open = ref(new Set(before)) // what was typed before a reload opens again
  const touched = new Set(open.value)
  const errors = ref<Record<string, string>>({})

  const isOpen = (row: string, side: Side) => open.value.has(keyOf(row, side))
  const errorOf = (row: string, side: Side) => errors.value[keyOf(row, side)] ?? ''
  const startOf = (row: string, side: Side) => typed.at(row, side)?.text ?? null

  /** Open one; others in which nothing was typed close. */
  function edit(row: string, side: Side): void {
    open.value = new Set([...open.value].filter((key) => touched.has(key)).concat(keyOf(row, side)))
  }
  /** Something was typed; what is no secret is kept over a reload, too. */
  function touch(row: string, side: Side, text: string | null): void {
    touched.add(keyOf(row, side))
    if (text !== null) typed.keep(row, side, text)
  }
  function close(row: string, side: Side): void {
    typed.drop(row, [side])
    touched.delete(keyOf(row, side))
    open.value = new Set([...open.value].filter((key) => key !== keyOf(row, side)))
    delete errors.value[keyOf(row, side)]
  }
  /** Write a value: into the tunnel as it is now, whatever has become of the screen meanwhile. */
  async function save(row: Row, side: Side, value: unknown, both: boolean): Promise<boolean> {
    const now = keeper().now(tunnel())
    const own = withValue(now, row, side, value)
    const object = both ? withValue(own, row, otherSide(side), value) : own
    const where = both ? 'both ends' : names()[side]
    if (await changeHere([keeper().put(object)], `${row.title} at ${where}`)) {
      close(row.key, side)
      return true
    }
    errors.value = { ...errors.value, [keyOf(row.key, side)]: trouble.value || 'The change was refused.' }
    return false
  }
  return { isOpen, errorOf, startOf, edit, touch, close, save }
}

export type Editors = ReturnType<typeof useEditors>
