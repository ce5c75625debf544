/** Findings as the worklist tells them: what has one cause is one decision. */
import type { Finding, Severity } from '@/api/types'
import { SEVERITIES, SEVERITY_TITLES } from '@/ui/words'

export interface FindingGroup {
  key: string
  severity: Severity
  title: string
  findings: Finding[]
}

export interface WorkFilter {
  severity: Severity | ''
  area: Finding['screen'] | ''
}

export const isAccepted = (finding: Finding) => finding.accepted?.holds ?? false

export function keyOf(finding: Finding): string {
  return finding.code + finding.where.map((place) => place.id + place.field).join()
}

/** What the server knows a finding by. */
export const nameOf = ({ code, where }: Finding) => ({
  code,
  where: where.map(({ type, id, field }) => ({ type, id, field })),
})

/** The findings that pass a filter, grouped by what is wrong, the worst and the most frequent first. */
export function grouped(findings: readonly Finding[], filter: WorkFilter): FindingGroup[] {
  const groups = new Map<string, FindingGroup>()
  for (const finding of findings) {
    if (filter.severity && finding.severity !== filter.severity) continue
    if (filter.area && finding.screen !== filter.area) continue
    const key = `${finding.severity} ${finding.code}`
    const { severity, title } = finding
    const group = groups.get(key) ?? { key, severity, title, findings: [] }
    group.findings.push(finding)
    groups.set(key, group)
  }
  const rank = (group: FindingGroup) => SEVERITIES.indexOf(group.severity)
  return [...groups.values()].sort((a, b) => rank(a) - rank(b) || b.findings.length - a.findings.length)
}

export const SEVERITY_CHOICES = [
  { value: '' as Severity | '', label: 'any severity' },
  ...SEVERITIES.map((value) => ({ value, label: SEVERITY_TITLES[value].toLowerCase() })),
]
