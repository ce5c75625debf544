import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import type { Problem } from '@/api/types'
import { useChangeHere } from './useChangeHere'

/** A form whose changes are refused, and what stands in the notice above. */
function refusedWith(errors: Problem['errors'], detail: string) {
  const refusal = ref<Problem | null>(null)
  const session = {
    refusal,
    dismissRefusal: () => (refusal.value = null),
    change: () => {
      refusal.value = { title: '', status: 422, detail, errors, meanwhile: [], meanwhile_count: 0, type: '' }
      return Promise.resolve(null)
    },
  }
  return { notice: refusal, form: useChangeHere(session) }
}

describe('a change that a form sends', () => {
  it('tells what is about its fields there alone, until it is forgotten', async () => {
    const { notice, form } = refusedWith([{ pointer: '/operations/1/object/name', detail: 'is taken' }], '')
    expect(await form.changeHere([], 'Rename')).toBe(false)
    expect(form.troubles.value).toEqual({ name: 'is taken' })
    expect(form.refusedFields.value[0]?.operation).toBe(1)
    expect(notice.value).toBeNull()
    form.forget()
    expect(form.trouble.value).toBe('')
  })
  it('tells what is about no field there and in the notice', async () => {
    const { notice, form } = refusedWith([], 'The server does not answer.')
    expect(await form.changeHere([], 'Rename')).toBe(false)
    expect(form.trouble.value).toBe('The server does not answer.')
    expect(notice.value?.detail).toBe('The server does not answer.')
  })
})
