import { describe, expect, it } from 'vitest'
import type { ChangePlan, PlanStep } from '@/api/types'
import { rehearsedTunnels, statesOf } from './states'

function step(number: number, fields: Partial<PlanStep>): PlanStep {
  return {
    number,
    device: { type: 'gateway', id: 'near', name: 'Near', organisation: '' },
    action: 'change',
    about: 'tunnel/t',
    side: 'left',
    does: '',
    values: [],
    settings: [],
    expected: [],
    checks: [],
    undo: '',
    down: [],
    worked_over: '',
    touches_old: false,
    ...fields,
  }
}
const far = { type: 'gateway', id: 'far', name: 'Far', organisation: '' } as const
const plan: ChangePlan = {
  steps: [
    step(1, { action: 'enter' }),
    step(2, {
      action: 'switch-on',
      expected: [{ tunnel_id: 't', name: 'T', state: 'fails', sentence: 'x' }],
    }),
    step(3, { action: null, side: null, about: 'gateway/near' }),
    step(4, {
      action: 'switch-on',
      device: far,
      side: 'right',
      expected: [{ tunnel_id: 't', name: 'T', state: 'holds', sentence: 'y' }],
    }),
    step(5, { action: null, side: null, device: far, about: 'gateway/far' }),
  ],
  at_first: [],
  outages: [],
  pairs: [],
  is_least: true,
  no_return: null,
  kept_tunnels: 0,
  kept_pairs: 0,
}

describe('a plan', () => {
  it('is rehearsed for each tunnel that its steps are about', () => {
    expect(rehearsedTunnels(plan)).toEqual([{ id: 't', name: 'T' }])
  })
  it('shows what every tunnel does after each step', () => {
    expect(statesOf(plan).map((row) => row.map((cell) => [cell.state, cell.isNew]))).toEqual([
      [['absent', false]],
      [['absent', false]],
      [['fails', true]],
      [['fails', false]],
      [['holds', true]],
      [['holds', false]],
    ])
  })
})
