/** The steps of a plan as a rehearsal takes them: who is started, saved and stopped, in which order. */
import type { ChangePlan } from '@/api/types'

export interface RehearsedTunnel {
  id: string
  name: string
  steps: string[]
}

/** The tunnels that a plan switches on, each with the steps that are about its two ends. */
export function rehearsedTunnels(plan: ChangePlan): RehearsedTunnel[] {
  const named = new Map(plan.steps.flatMap((step) => step.expected.map((one) => [one.tunnel_id, one.name])))
  const started = plan.steps.filter((step) => step.action === 'switch-on')
  const ids = new Set(started.map((step) => step.about.replace('tunnel/', '')))
  return [...ids].map((id) => {
    const own = started.filter((step) => step.about === `tunnel/${id}`)
    const sideOf = new Map(own.map((step) => [step.device.id, step.side]))
    const steps = plan.steps.flatMap((step) => {
      const side = sideOf.get(step.device.id)
      if (!side) return []
      if (step.action === null) return [`save ${side}`]
      return own.includes(step) ? [`start ${side}`] : []
    })
    return { id, name: named.get(id) ?? id, steps }
  })
}
