import { describe, expect, it } from 'vitest'
import type { Verdict } from '@/api/types'
import { halfDiscs } from './halfDiscs'
import { pierOrder, placePiers, rise, span, tie } from './spans'

const VERDICTS: Verdict[] = ['agreed', 'negotiated', 'narrowed', 'differs', 'differs-later', 'unknown']

/** The x of the flat side of a half: where its closing line runs. */
function flatSide(path: string): number {
  return Number(/^M([\d.]+),/.exec(path)?.[1])
}

describe('half-discs', () => {
  it('has a shape of its own for every verdict, colour aside', () => {
    const shapes = VERDICTS.map((verdict) => JSON.stringify(halfDiscs(verdict)))
    expect(new Set(shapes).size).toBe(VERDICTS.length)
  })
  it('touches when the ends agree and stands apart when they differ', () => {
    const agreed = halfDiscs('agreed')
    const differs = halfDiscs('differs')
    expect(flatSide(agreed.left)).toBe(flatSide(agreed.right))
    expect(flatSide(differs.right) - flatSide(differs.left)).toBeGreaterThan(10)
  })
})

describe('spans', () => {
  it('lets a second tunnel between the same sites rise above the first', () => {
    expect(rise(0, 124, 124, 1)).toBeGreaterThan(rise(0, 124, 124))
  })
  it('puts the hub between its partners and sites without tunnels last', () => {
    const order = pierOrder(
      ['a', 'alone', 'b', 'c', 'hub'],
      [
        ['hub', 'a'],
        ['b', 'hub'],
        ['hub', 'c'],
      ],
    )
    expect(order.at(-1)).toBe('alone')
    expect(order.indexOf('hub')).toBeGreaterThan(0)
    expect(order.indexOf('hub')).toBeLessThan(3)
    expect([...order].sort()).toEqual(['a', 'alone', 'b', 'c', 'hub'])
  })
  it('keeps piers apart, asking for more width when there are many', () => {
    const sites = Array.from({ length: 20 }, (_, at) => `s${at}`)
    const { piers, widthPx } = placePiers(sites, 856)
    const gaps = piers.slice(1).map((pier, at) => pier.x - (piers[at]?.x ?? 0))
    expect(Math.min(...gaps)).toBeGreaterThan(120)
    expect(widthPx).toBeGreaterThan(856)
  })
  it('joins a whole span at the crown and parts a broken one', () => {
    const end = (path: string) => path.split(',').slice(-2).join()
    const start = (path: string) => path.slice(1).split('C')[0]
    const whole = span(100, 300, 200, 80, false)
    expect(end(whole.leftHalf)).toBe(start(whole.rightHalf))
    const broken = span(300, 100, 200, 80, true)
    expect(Number(start(broken.rightHalf)?.split(',')[0]) - Number(end(broken.leftHalf).split(',')[0])).toBe(
      26,
    )
    expect(whole.crown).toEqual({ x: 200, y: 120 })
  })
  it('rises higher over more piers', () => {
    expect(rise(0, 342, 171)).toBeGreaterThan(rise(0, 171, 171))
  })
  it('ties two texts from side to side, whichever is on the left', () => {
    expect(tie(100, 50, 500, 60, 120, 54)).toMatch(/^M154,50/)
    expect(tie(500, 60, 100, 50, 120, 54)).toMatch(/^M446,60.*H154$/)
  })
})
