/** Words for the values of the model. */
import type { ImportLine, Severity, StageState, Verdict } from '@/api/types'

/** Write a value such as "fixed-public" as words. */
export function words(value: string): string {
  return value
    .replaceAll('-', ' ')
    .replace(/\bnat\b/, 'NAT')
    .replace(/\beap\b/, 'EAP')
}

/** A moment as the server tells it, for a person. */
export function dateAndTime(text: string): string {
  return `${text.slice(0, 10)} ${text.slice(11, 16)} UTC`
}

export const SEVERITIES: readonly Severity[] = ['blocker', 'later', 'partial', 'exposure', 'advice']

export const SEVERITY_TITLES: Record<Severity, string> = {
  blocker: 'Will not work',
  later: 'Works, then stops',
  partial: 'Works in part',
  exposure: 'Exposed',
  advice: 'Worth knowing',
}

export const IMPORT_OUTCOMES: Record<ImportLine['outcome'], string> = {
  new: 'new',
  changes: 'changes',
  same: 'is there already',
  passed: 'passed over',
  unread: 'not read',
}

export const VERDICT_WORDS: Record<Verdict, string> = {
  agreed: 'agreed',
  negotiated: 'negotiated',
  narrowed: 'narrowed',
  differs: 'differs',
  'differs-later': 'differs later',
  unknown: 'not known yet',
}

export const STATE_WORDS: Record<StageState, string> = {
  holds: 'holds',
  partial: 'holds in part',
  'fails-later': 'fails later',
  fails: 'fails',
  unknown: 'not known yet',
  behind: 'waits behind',
}

/** A number of things: "1 site", "12 sites". */
export function counted(count: number, what: string): string {
  return count === 1 ? `1 ${what}` : `${count} ${what}s`
}

/** What a tunnel does, by the state of its forecast. */
export const OUTLOOK_WORDS: Record<StageState, string> = {
  holds: 'comes up',
  partial: 'comes up in part',
  'fails-later': 'comes up and fails later',
  fails: 'does not come up',
  unknown: 'not known yet',
  behind: 'waits',
}
