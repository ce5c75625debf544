import { computed, nextTick, ref } from 'vue'
import { describe, expect, it } from 'vitest'
import type { Analysis, Design, Usage } from '@/api/types'
import { addressText, addressValue, around, extentIn, prefixText, rootOf, snapped } from './blocks'
import { columnsOf, gapsOf, inWindow, lanesOf } from './lanes'
import { ticksOf, unitAt, xOf } from './painting'
import { useRulerWindow } from './useRulerWindow'

const V4 = rootOf('10.64.0.0/11')
const V6 = rootOf('fd5c:9a1e:40::/48')

describe('blocks', () => {
  it('reads and writes addresses of both families', () => {
    for (const text of [
      '0.0.0.0',
      '10.64.0.1',
      '255.255.255.255',
      '::',
      '::1',
      'fd5c:9a1e:40::',
      '1:0:0:2::3',
    ]) {
      expect(addressText(addressValue(text), text.includes(':') ? 6 : 4)).toBe(text)
    }
    expect(addressText(addressValue('1:0:2:0:0:3:0:4'), 6)).toBe('1:0:2::3:0:4')
    expect(addressText(addressValue('1:2:3:4:5:6:0:8'), 6)).toBe('1:2:3:4:5:6:0:8')
  })
  it('finds where a prefix or a range lies, and what does not', () => {
    expect(extentIn(V4, '10.64.0.0/22')).toEqual({ first: 0, size: 1024 })
    expect(extentIn(V4, '10.65.0.0-10.65.0.9')).toEqual({ first: 65536, size: 10 })
    expect(extentIn(V4, '10.64.0.7')).toEqual({ first: 7, size: 1 })
    expect(extentIn(V4, '10.0.0.0/8')?.size).toBe(2 ** 24)
    expect(extentIn(V4, '192.168.0.0/16')).toBeNull()
    expect(extentIn(V4, 'fd5c:9a1e:40::/64')).toBeNull()
    expect(extentIn(V6, 'fd5c:9a1e:40:80::/57')).toEqual({ first: 128, size: 128 })
    expect(prefixText(V6, { first: 128, size: 128 })).toBe('fd5c:9a1e:40:80::/57')
    expect(prefixText(V4, { first: 65536, size: 256 })).toBe('10.65.0.0/24')
  })
  it('makes an aligned block of a stroke, within what is free', () => {
    const gap = { first: 3328, size: 4352 } // 10.64.13.0-10.64.29.255
    expect(snapped(4096, 4990, gap)).toEqual({ first: 4096, size: 512 })
    expect(snapped(4990, 4096, gap)).toEqual({ first: 4096, size: 512 })
    expect(snapped(0, 99999, gap)).toEqual({ first: 4096, size: 2048 })
    expect(snapped(3329.2, 3329.9, gap)).toEqual({ first: 3329, size: 1 })
    expect(snapped(10, 20, gap)).toBeNull()
  })
  it('draws the smallest aligned block around others', () => {
    expect(
      around([
        { first: 0, size: 1024 },
        { first: 7680, size: 128 },
      ]),
    ).toEqual({ first: 0, size: 8192 })
    expect(around([])).toBeNull()
  })
})

const network = (id: string, site_id: string, prefix: string, zone = '') => ({
  id,
  site_id,
  name: id,
  prefix,
  zone,
})
const DESIGN = {
  sites: [
    { id: 'b', name: 'Birch' },
    { id: 'a', name: 'Alder' },
    { id: 'c', name: 'Cedar' },
  ],
  gateways: [{ id: 'ga', site_id: 'a', name: 'ga' }],
  networks: [
    network('inner', 'a', '10.64.0.128/25'),
    network('outer', 'a', '10.64.0.0/24'),
    network('twin', 'b', '10.64.0.128/25'),
    network('apart', 'b', '10.65.0.0/24', 'guests'),
  ],
  prefix_reservations: [{ id: 'held', site_id: 'b', name: 'held', prefix: '10.66.0.0/24' }],
  translations: [{ id: 'shown', gateway_id: 'ga', name: 'shown', outside: '10.67.0.0/24' }],
} as unknown as Design
const pair = (joined: boolean) => ({
  outer_id: 'outer',
  inner_id: 'twin',
  overlap: 'contains' as const,
  joined,
  chain: [],
})
const analysis = (joined = true) => ({ overlaps: [pair(joined)] }) as unknown as Analysis

describe('lanes', () => {
  it('are one a site, by their lowest address, with blocks nested in order', () => {
    const lanes = lanesOf(DESIGN, analysis(), V4)
    expect(lanes.map((lane) => lane.name)).toEqual(['Alder', 'Birch', 'Cedar'])
    expect(lanes[0]?.blocks.map((block) => [block.id, block.depth])).toEqual([
      ['outer', 0],
      ['inner', 1],
      ['shown', 0],
    ])
    expect(lanes[1]?.blocks.map((block) => [block.id, block.kind, block.collides])).toEqual([
      ['twin', 'network', true],
      ['apart', 'network', false],
      ['held', 'reserved', false],
    ])
  })
  it('collide in columns through both sites, where their networks meet', () => {
    const [column] = columnsOf(DESIGN, analysis(), V4)
    expect(column?.words).toBe('Alder: outer 10.64.0.0/24 contains Birch: twin 10.64.0.128/25')
    expect(column?.lanes).toEqual(['a', 'b'])
    expect(columnsOf(DESIGN, analysis(false), V4)).toEqual([])
    expect(lanesOf(DESIGN, analysis(false), V4)[1]?.blocks[0]?.collides).toBe(false)
  })
  it('show what is free, and only what is in sight', () => {
    const usage = {
      free: ['10.64.1.0-10.64.255.255', 'fd5c:9a1e:40::-fd5c:9a1e:40:ffff:ffff:ffff:ffff:ffff'],
    }
    const gaps = gapsOf(usage as unknown as Usage, V4)
    expect(gaps).toHaveLength(1)
    expect(inWindow(gaps, { first: 0, size: 256 })).toEqual([])
    expect(inWindow(gaps, { first: 200, size: 100 })).toEqual(gaps)
  })
})

describe('the window of a ruler', () => {
  const root = ref(V4)
  const opened = () => useRulerWindow(root, () => ({ first: 0, size: 1024 }))
  it('keeps the place under the pointer while it zooms', () => {
    const view = opened()
    const scene = computed(() => ({ window: view.window.value, width: 800 }))
    const before = unitAt(scene.value, 200)
    view.zoom(0.5, 200 / 800)
    expect(unitAt(scene.value, 200)).toBeCloseTo(before)
    expect(xOf(scene.value, before)).toBeCloseTo(200)
  })
  it('never leaves its root, from all of it down to one address', () => {
    const view = opened()
    view.move(-5)
    expect(view.window.value.first).toBe(0)
    for (let turn = 0; turn < 60; turn += 1) view.zoom(2)
    expect(view.window.value).toEqual({ first: 0, size: V4.units })
    expect(view.whole.value).toBe(true)
    for (let turn = 0; turn < 80; turn += 1) view.zoom(0.5)
    expect(view.window.value.size).toBe(1)
  })
  it('begins anew with another root', async () => {
    const view = opened()
    view.reset()
    root.value = V6
    await nextTick()
    expect(view.window.value).toEqual({ first: 0, size: 1024 })
    root.value = V4
  })
  it('has ticks at the bounds of aligned blocks, a few', () => {
    const ticks = ticksOf({ first: 100, size: 1000 }, V4)
    expect(ticks.map((tick) => tick.first)).toEqual([128, 256, 384, 512, 640, 768, 896, 1024])
    expect(ticksOf({ first: 0, size: V4.units }, V4).length).toBeLessThanOrEqual(12)
  })
})
