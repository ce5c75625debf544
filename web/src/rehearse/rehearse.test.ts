import { describe, expect, it } from 'vitest'
import { placeOf, severalOf, timeText } from './asked'

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

describe('what stands in the address', () => {
  it('is a list, whether once or several times', () => {
    expect([undefined, null, 'a', ['a', null, 'b']].map(severalOf)).toEqual([[], [], ['a'], ['a', 'b']])
  })
})
