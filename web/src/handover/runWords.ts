import type { RunSummary } from '@/api/types'

/** How a run stands, in words. */
export const RUN_WORDS: Record<RunSummary['progress']['state'], string> = {
  open: 'under way',
  stopped: 'stopped by a check',
  'going-back': 'going back',
  done: 'done',
  'taken-back': 'taken back',
}
