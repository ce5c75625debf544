import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { Refusal } from '@/api/client'
import type { Problem } from '@/api/types'
import { useDoing } from './useDoing'

const refusal = new Refusal({
  title: 'No',
  status: 422,
  detail: 'too late',
  errors: [],
} as unknown as Problem)

describe('what is sent while somebody types on', () => {
  it('frees the field at once, and keeps what is typed meanwhile', async () => {
    const { sending, isBusy } = useDoing()
    const field = ref(' the disk is full ')
    let answer = (): void => undefined
    const sent: string[] = []
    const done = sending(field, (said) => {
      sent.push(said)
      return new Promise<void>((resolve) => (answer = resolve))
    })
    expect([field.value, isBusy.value]).toEqual(['', true])
    field.value = 'and again'
    answer()
    expect(await done).toBe(true)
    expect([field.value, isBusy.value, sent]).toEqual(['and again', false, ['the disk is full']])
  })
  it('brings back what was refused, but never over what was typed since', async () => {
    const { sending, trouble } = useDoing()
    const field = ref('a remark')
    expect(await sending(field, () => Promise.reject(refusal))).toBe(false)
    expect([field.value, trouble.value]).toEqual(['a remark', 'too late'])
    const other = ref('a remark')
    const refused = sending(other, () => Promise.reject(refusal))
    other.value = 'another'
    await refused
    expect(other.value).toBe('another')
  })
  it('lets an error of ours through', async () => {
    const { doing, isBusy } = useDoing()
    await expect(doing(() => Promise.reject(new Error('ours')))).rejects.toThrow('ours')
    expect(isBusy.value).toBe(false)
  })
})
