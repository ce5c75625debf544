import { afterEach, describe, expect, it, vi } from 'vitest'
import { api, bodyOf, Refusal } from '@/api/client'
import { words } from '@/ui/words'
import { routeOf, tunnelOf } from './places'

describe('places', () => {
  it('leads to the view, the object and the field', () => {
    expect(routeOf('d', { type: 'tunnel', id: 't', field: 'right/key' })).toMatchObject({
      name: 'match',
      params: { designId: 'd', tunnelId: 't' },
      query: { at: 'right/key' },
    })
    expect(routeOf('d', { type: 'network', id: 'n', field: 'prefix' })).toMatchObject({
      name: 'survey',
      params: { grid: 'networks' },
      query: { at: 'n/prefix' },
    })
    expect(routeOf('d', { type: 'uplink', id: 'u' })).toMatchObject({ query: { at: 'u/name' } })
    expect(routeOf('d', { type: 'settings', id: 'settings' })).toMatchObject({ params: { grid: 'design' } })
  })
})

describe('the tunnel that a view is about', () => {
  it.each([
    ['match', { tunnelId: 't' }, 't'],
    ['rehearse', { tunnelId: '' }, ''],
    ['handover', { panel: 'sheets', objectId: 't' }, 't'],
    ['handover', { panel: 'devices', objectId: 'g' }, undefined],
    ['paths', {}, undefined],
  ])('is told by its address: %s', (name, params, tunnel) => {
    expect(tunnelOf({ name, params })).toBe(tunnel)
  })
})

describe('words', () => {
  it('writes values as people say them', () => {
    expect(words('carrier-nat')).toBe('carrier NAT')
    expect(words('cloud-gateway')).toBe('cloud gateway')
  })
})

describe('answers of the server', () => {
  afterEach(() => vi.unstubAllGlobals())
  const answerWith = (body: unknown, status: number, type = 'application/problem+json') =>
    vi.stubGlobal('fetch', () =>
      Promise.resolve(new Response(JSON.stringify(body), { status, headers: { 'Content-Type': type } })),
    )

  it('gives the body of what was answered', async () => {
    answerWith({ person: 'ann' }, 200, 'application/json')
    expect(await bodyOf(api.GET('/api/session'))).toEqual({ person: 'ann' })
  })
  it('throws a refusal with its problem details', async () => {
    const problem = {
      type: 'about:blank',
      title: 'No',
      status: 422,
      detail: 'Not so.',
      errors: [],
      meanwhile: [],
      meanwhile_count: 0,
    }
    answerWith(problem, 422)
    const refusal = await bodyOf(api.GET('/api/session')).catch((error: unknown) => error)
    expect(refusal).toBeInstanceOf(Refusal)
    expect((refusal as Refusal).problem).toEqual(problem)
  })
  it('says that nothing is lost when the server does not answer', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('refused')))
    const refusal = await bodyOf(api.GET('/api/session')).catch((error: unknown) => error)
    expect((refusal as Refusal).problem.detail).toContain('What you typed is still here')
  })
  it('does not take an answer of something else for problem details', async () => {
    answerWith({ oops: true }, 502, 'application/json')
    const refusal = await bodyOf(api.GET('/api/session')).catch((error: unknown) => error)
    expect((refusal as Refusal).problem.title).toBe('The server does not answer')
  })
})
