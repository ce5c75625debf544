/** The rules of a gateway while one of them is being moved: where it is held, and what putting it there would change. */
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import type { Operation, Rule } from '@/api/types'
import type { DesignSession } from '@/design/useDesignSession'

export interface MovePreview {
  changes: { traffic: string; before: string; after: string; when: string }[]
  operations: Operation[]
}

export function useRuleOrder(session: DesignSession, gatewayId: Ref<string>) {
  const { design, designId, change } = session
  const held = ref<string | null>(null) // the rule that is being moved
  const place = ref(0) // where it is held, from 0
  const preview = ref<MovePreview | null>(null)
  const trouble = ref('')

  const standing = computed<Rule[]>(() =>
    (design.value?.rules ?? [])
      .filter((rule) => rule.gateway_id === gatewayId.value)
      .sort((a, b) => a.position - b.position || (a.id < b.id ? -1 : 1)),
  )
  /** The rules as they are shown: the held one where it is held. */
  const shown = computed<Rule[]>(() => {
    const rule = standing.value.find((candidate) => candidate.id === held.value)
    if (!rule) return standing.value
    const others = standing.value.filter((candidate) => candidate !== rule)
    return [...others.slice(0, place.value), rule, ...others.slice(place.value)]
  })

  const ask = useDebounceFn(async () => {
    const id = held.value
    const wanted = place.value
    if (!id) return
    try {
      const answer = await bodyOf(
        api.GET('/api/designs/{design_id}/paths/rules/{rule_id}/move', {
          params: { path: { design_id: designId.value, rule_id: id }, query: { place: wanted } },
        }),
      )
      if (held.value === id && place.value === wanted) preview.value = answer as MovePreview
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      trouble.value = error.problem.detail
    }
  }, 30)
  watch([held, place], () => {
    preview.value = null
    trouble.value = ''
    void ask()
  })
  watch(gatewayId, release)

  function hold(id: string): void {
    place.value = standing.value.findIndex((rule) => rule.id === id)
    held.value = id
  }
  function carry(to: number): void {
    place.value = Math.min(Math.max(to, 0), standing.value.length - 1)
  }
  function release(): void {
    held.value = null
    preview.value = null
  }
  async function drop(): Promise<void> {
    const rule = standing.value.find((candidate) => candidate.id === held.value)
    const operations = preview.value?.operations ?? []
    if (rule && operations.length) await change(operations, `Move the rule ${rule.name}`)
    release()
  }
  return { standing, shown, held, place, preview, trouble, hold, carry, release, drop }
}
