import { mount } from '@vue/test-utils'
import { nextTick, ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import type { Analysis, Design, StageState } from '@/api/types'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import ObjectGrid, { type CellError } from './ObjectGrid.vue'
import { gridOf } from './grids'
import { useSpanChart } from './useSpanChart'

const site = (id: string, name: string) => ({ id, name, kind: 'office', organisation: '', place: '' })
const network = (id: string, site_id: string, prefix: string) => ({
  id,
  site_id,
  name: id,
  prefix,
  role: 'user',
  vlan: null,
  gateway_address: null,
  zone: '',
})
const tunnel = (id: string, left: string, right: string) => ({
  id,
  name: id,
  left: { gateway_id: left },
  right: { gateway_id: right },
})
const DESIGN = {
  sites: [site('a', 'Alder'), site('b', 'Birch'), site('c', 'Cedar')],
  gateways: ['a', 'b', 'c'].map((id) => ({ id: `g${id}`, site_id: id, name: id, kind: 'router' })),
  uplinks: [],
  networks: [network('n1', 'a', '10.64.0.0/24'), network('n2', 'c', '10.64.0.0/24')],
  tunnels: [tunnel('t1', 'ga', 'gb'), tunnel('t2', 'gb', 'gc')],
} as unknown as Design

function analysis(...states: StageState[]): Analysis {
  const forecasts = states.map((state, at) => ({
    tunnel_id: `t${at + 1}`,
    state,
    sentence: state,
    stages: [],
  }))
  const overlaps = [
    { outer_id: 'n1', inner_id: 'n2', overlap: 'identical' as const, joined: true, chain: ['t1', 't2'] },
  ]
  return {
    revision: 0,
    today: '2026-11-23',
    forecasts,
    overlaps,
    findings: [],
    overlaps_count: 1,
    findings_count: 0,
  }
}

describe('the span chart', () => {
  it('draws each state in a shape of its own', () => {
    const looks = (...states: StageState[]) =>
      useSpanChart(ref(DESIGN), ref(analysis(...states)), ref(800)).arcs.value.map((arc) => arc.look)
    expect(looks('holds', 'fails')).toEqual(['whole', 'broken'])
    expect(looks('fails-later', 'unknown')).toEqual(['hatched', 'dashed'])
    expect(looks('partial')).toEqual(['hatched', 'dashed'])
  })
  it('ties what collides below every network, and marks it', () => {
    const chart = useSpanChart(ref(DESIGN), ref(analysis('holds', 'holds')), ref(800))
    const [only] = chart.ties.value
    expect(only?.text).toBe('10.64.0.0/24 is at both')
    const lowest = Math.max(...chart.piers.value.flatMap((pier) => pier.networks.map((one) => one.y)))
    expect(only?.y).toBeGreaterThan(lowest)
    expect(chart.heightPx.value).toBeGreaterThan(only?.y ?? 0)
    expect(chart.piers.value.flatMap((pier) => pier.networks).every((one) => one.collides)).toBe(true)
  })
})

describe('the forecast strip', () => {
  it('says each stage in words as well as in shape', () => {
    const stages = (['reach', 'init', 'auth', 'child', 'traffic', 'rekey', 'restart'] as const).map(
      (stage, at) => ({
        stage,
        state: (['holds', 'fails', 'behind', 'behind', 'unknown', 'unknown', 'unknown'] as const)[at]!,
        reasons: at === 1 ? ['no proposal is common'] : [],
      }),
    )
    const strip = mount(ForecastStrip, {
      props: { forecast: { tunnel_id: 't', state: 'fails', sentence: '', stages } },
    })
    const items = strip.findAll('li')
    expect(items.map((item) => item.classes()[0])).toEqual(stages.map((stage) => stage.state))
    expect(items[1]?.attributes('title')).toBe('Init: fails\nno proposal is common')
    expect(items[4]?.text()).toContain('not known yet')
  })
})

describe('the grid', () => {
  function grid(save: (row: Record<string, unknown>) => Promise<CellError[]>) {
    const props = { grid: gridOf('networks')!, design: DESIGN, at: '', save, remove: vi.fn() }
    return mount(ObjectGrid, { props, attachTo: document.body })
  }
  const cell = (view: ReturnType<typeof grid>, row: number, column: number) =>
    view.find(`[data-cell="${row}-${column}"]`)

  it('keeps what was refused, with the reason below its row, until it is mended', async () => {
    const save = vi.fn<(row: Record<string, unknown>) => Promise<CellError[]>>()
    save.mockResolvedValueOnce([{ field: 'prefix', reason: 'host bits are set' }]).mockResolvedValue([])
    const view = grid(save)
    for (const typed of ['10.64.0.1/24', '10.64.1.0/24']) {
      await cell(view, 0, 2).trigger('click')
      await view.find('input').setValue(typed)
      await view.find('input').trigger('keydown', { key: 'Enter' })
      await vi.waitFor(() =>
        expect(save).toHaveBeenLastCalledWith(expect.objectContaining({ prefix: typed })),
      )
      await nextTick()
      if (typed === '10.64.0.1/24') {
        await vi.waitFor(() => expect(view.text()).toContain('Prefix: host bits are set'))
        expect(cell(view, 0, 2).text()).toBe('10.64.0.1/24')
      }
    }
    await vi.waitFor(() => expect(view.text()).not.toContain('host bits are set'))
    view.unmount()
  })
  it('does not write a new row before it is whole, nor an entry that was left with Esc', async () => {
    const save = vi.fn().mockResolvedValue([])
    const view = grid(save)
    await cell(view, 2, 1).trigger('click')
    await view.find('input').setValue('yard')
    await view.find('input').trigger('keydown', { key: 'Enter' })
    await vi.waitFor(() => expect(view.text()).toContain('Still needs: Site, Prefix'))
    await cell(view, 0, 2).trigger('click')
    await view.find('input').setValue('nonsense')
    await view.find('input').trigger('keydown', { key: 'Escape' })
    await nextTick()
    expect(cell(view, 0, 2).text()).toBe('10.64.0.0/24')
    expect(save).not.toHaveBeenCalled()
    view.unmount()
  })
  it('moves with the arrow keys within its bounds', async () => {
    const view = grid(vi.fn())
    const table = view.find('table')
    const at = () => document.activeElement?.getAttribute('data-cell')
    for (const [key, expected] of [
      ['ArrowDown', '1-0'],
      ['ArrowRight', '1-1'],
      ['End', '1-15'],
      ['ArrowUp', '0-15'],
      ['ArrowUp', '0-15'],
      ['Home', '0-0'],
    ] as const) {
      await table.trigger('keydown', { key })
      await vi.waitFor(() => expect(at()).toBe(expected))
    }
    view.unmount()
  })
})
