import { describe, expect, it } from 'vitest'
import type { Rehearsal } from '@/api/types'
import { placeOf, severalOf, timeText } from './asked'
import { placedMarks } from './marks'
import { countedProbes } from './probes'

describe('times of a rehearsal', () => {
  it('are short while they are short, and told to the second after a minute', () => {
    expect([0, 0.0484, 12.34, 60, 725, 3720.9].map(timeText)).toEqual([
      '0.000 s',
      '0.048 s',
      '12.3 s',
      '0:01:00',
      '0:12:05',
      '1:02:00',
    ])
  })
  it('stand at the last packet that is not later', () => {
    expect([-1, 0, 0.5, 2, 9].map((at) => placeOf([0, 1, 2, 2], at))).toEqual([0, 0, 0, 3, 3])
    expect(placeOf([], 5)).toBe(0)
  })
})

describe('marks of the time axis', () => {
  const times = Array.from({ length: 61 }, (_, second) => second)
  const at = (...seconds: number[]): Rehearsal['marks'] =>
    seconds.map((second) => ({ at_s: second, kind: 'rekey', text: `rekey ${second}`, side: null }))
  const spans = (marks: ReturnType<typeof placedMarks>, lane: number) =>
    marks
      .filter((mark) => mark.lane === lane)
      .map(({ x, word }) => [x - word.length * 3.5, x + word.length * 3.5] as const)

  it.each([[at(0, 1, 30)], [at(0, 4, 8, 12, 16, 20)], [at(...times)]])('never overlap', (marks) => {
    for (const width of [200, 600, 1200]) {
      const placed = placedMarks(marks, times, width)
      for (const lane of [0, 1])
        for (const [place, [begin]] of spans(placed, lane).entries())
          expect(begin).toBeGreaterThan(spans(placed, lane)[place - 1]?.[1] ?? -Infinity)
      expect(placed.flatMap((mark) => mark.title.split('\n'))).toHaveLength(marks.length)
    }
  })
  it('stand at their times, the one that has no room above the other', () => {
    const placed = placedMarks(at(0, 4, 30), times, 600)
    expect(placed.map(({ x, lane }) => [x, lane])).toEqual([
      [0, 0],
      [40, 1],
      [300, 0],
    ])
  })
})

describe('probes', () => {
  const probe = (kind: 'across' | 'largest', passes: boolean, octets = 0) =>
    ({ expected: true, foreseen: [], after: { kind, passes, octets, answers: [] } }) as unknown
  const counted = (isJudged: boolean, ...probes: unknown[]) =>
    countedProbes({ outcome: { is_judged: isJudged }, probes } as unknown as Rehearsal)

  it('are counted where they tell anything, with those that ended otherwise where that is judged', () => {
    expect(counted(true, probe('across', true), probe('largest', true))).toBe('Probes 1')
    expect(counted(true, probe('across', false), probe('largest', true, 1400))).toBe(
      'Probes 2, 1 not as foreseen',
    )
    expect(counted(false, probe('across', false))).toBe('Probes 1')
  })
})

describe('what stands in the address', () => {
  it('is a list, whether once or several times', () => {
    expect([undefined, null, 'a', ['a', null, 'b']].map(severalOf)).toEqual([[], [], ['a'], ['a', 'b']])
  })
})
