import { mount } from '@vue/test-utils'
import { ref } from 'vue'
import { describe, expect, it } from 'vitest'
import type { Analysis, Design, StageState } from '@/api/types'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import { overviewOf } from './overview'
import { useNeighbourhood } from './useNeighbourhood'
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
      useSpanChart(
        ref(DESIGN),
        ref(analysis(...states)),
        ref(800),
        ref(new Set(['a', 'b', 'c'])),
      ).arcs.value.map((arc) => arc.look)
    expect(looks('holds', 'fails')).toEqual(['whole', 'broken'])
    expect(looks('fails-later', 'unknown')).toEqual(['hatched', 'dashed'])
    expect(looks('partial')).toEqual(['hatched', 'dashed'])
  })
  it('ties what collides below every network, and marks it', () => {
    const chart = useSpanChart(
      ref(DESIGN),
      ref(analysis('holds', 'holds')),
      ref(800),
      ref(new Set(['a', 'b', 'c'])),
    )
    const [only] = chart.ties.value
    expect(only?.text).toBe('10.64.0.0/24 is at both')
    const lowest = Math.max(...chart.piers.value.flatMap((pier) => pier.networks.map((block) => block.y)))
    expect(only?.y).toBeGreaterThan(lowest)
    expect(chart.heightPx.value).toBeGreaterThan(only?.y ?? 0)
    expect(chart.piers.value.flatMap((pier) => pier.networks).every((candidate) => candidate.collides)).toBe(
      true,
    )
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

describe('an estate of three hundred sites', () => {
  const ids = Array.from({ length: 300 }, (_, at) => `s${at}`)
  const estate = {
    sites: ids.map((id, at) => ({ ...site(id, `Site ${at}`), region: at % 2 ? 'north' : '' })),
    gateways: ids.map((id) => ({ id: `g${id}`, site_id: id, name: id, kind: 'router' })),
    networks: [],
    tunnels: ids.slice(1).map((id) => tunnel(`t${id}`, 'gs0', `g${id}`)),
  } as unknown as Design
  const forecasts = ids.slice(1).map((id, at) => ({
    tunnel_id: `t${id}`,
    state: (at === 250 ? 'fails' : 'holds') as StageState,
    sentence: '',
    stages: [{ stage: 'auth' as const, state: (at === 250 ? 'fails' : 'holds') as StageState, reasons: [] }],
  }))
  const told = { ...analysis(), forecasts, overlaps: [] } as Analysis

  it('shows the hub with as many as there is room for, what has troubles first, and pages through the rest', () => {
    const asked = ref('')
    const near = useNeighbourhood(ref(estate), ref(told), asked, ref(870))
    expect(near.focus.value).toBe('s0')
    expect([...near.shown.value].slice(0, 2)).toEqual(['s0', 's251'])
    expect(near.shown.value.size + near.hidden.value).toBe(300)
    const seen = new Set(near.shown.value)
    for (let page = 1; page < near.pages.value; page += 1) {
      near.next()
      for (const id of near.shown.value) seen.add(id)
    }
    expect(seen.size).toBe(300)
    asked.value = 's7'
    expect([...near.shown.value].slice(0, 2)).toEqual(['s7', 's0'])
  })
  it('lists each tunnel once in every grouping, the groups with troubles first', () => {
    for (const grouping of ['hub', 'region', 'stage'] as const) {
      const groups = overviewOf(estate, told, grouping, '')
      expect(groups.flatMap((group) => group.tunnels.map((strip) => strip.tunnel.id)).sort()).toEqual(
        estate.tunnels.map((tunnel) => tunnel.id).sort(),
      )
    }
    const [worst, rest] = overviewOf(estate, told, 'stage', '')
    expect([worst?.title, worst?.tunnels.length, rest?.sound]).toEqual([
      'stop or are in doubt at auth',
      1,
      298,
    ])
    expect(overviewOf(estate, told, 'hub', 'site 17')[0]?.tunnels).toHaveLength(11)
  })
})
