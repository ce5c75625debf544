/** Taking an object out of the design: what goes with it is shown before it goes. */
import { ref } from 'vue'
import type { FieldChange, ObjectType, Operation } from '@/api/types'
import { Refusal } from '@/api/client'
import { kindOf, membersOf } from './kinds'
import type { DesignSession } from './useDesignSession'

interface Removal {
  type: ObjectType
  id: string
  title: string
  goesToo: FieldChange[] // beside the object itself
}

export function useRemoval(session: DesignSession) {
  const { design, change, tryChange } = session
  const asked = ref<Removal | null>(null)
  const trouble = ref('')
  const operationsOf = (type: ObjectType, id: string): Operation[] => [
    { op: 'remove', type, id, cascade: true } as Operation,
  ]

  /** Remove an object at once where nothing hangs on it; otherwise ask first. */
  async function remove(type: ObjectType, id: string): Promise<boolean> {
    const found = design.value && membersOf(design.value, type).find((member) => member.id === id)
    const title = `${kindOf(type)?.label ?? type} ${found?.name || id}`
    trouble.value = ''
    try {
      const { fields } = await tryChange(operationsOf(type, id))
      const goesToo = fields.filter((field) => field.type !== type || field.id !== id)
      if (!goesToo.length) return carryOut({ type, id, title, goesToo })
      asked.value = { type, id, title, goesToo }
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      trouble.value = error.problem.detail
    }
    return false
  }
  async function carryOut(removal: Removal): Promise<boolean> {
    asked.value = null
    return Boolean(await change(operationsOf(removal.type, removal.id), `Remove ${removal.title}`))
  }
  const cancel = () => (asked.value = null)
  return { asked, trouble, remove, carryOut, cancel }
}

export type Removing = ReturnType<typeof useRemoval>
