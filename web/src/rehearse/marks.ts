/** The marks of the time axis: what happened when, in words that don't overlap. */
import type { Rehearsal } from '@/api/types'
import { placeOf, timeText } from './asked'

type Mark = Rehearsal['marks'][number]

export interface PlacedMark {
  place: number // of the first packet that it stands for
  word: string
  title: string // all that happened there, with its times
  isTrouble: boolean
  lane: number // 0 is next to the axis
  x: number // in pixels from the beginning of the axis
}

const WORDS: Record<Mark['kind'], string> = {
  dial: 'dial',
  up: 'up',
  rekey: 'rekey',
  down: 'down',
  fault: 'fault',
  restart: 'restart',
  probe: 'ping',
  step: 'step',
}
const LANES = 2
const LETTER_PX = 7
const GAP_PX = 8
const LEAST_PX = 24 // marks that are nearer than that stand as one

/** Return the marks on an axis of a width: near ones as one, the more so the less room there is for their words. */
export function placedMarks(marks: readonly Mark[], times: readonly number[], width: number): PlacedMark[] {
  for (let near = LEAST_PX; ; near *= 1.5) {
    const found = grouped(marks, times, width, near)
    if (inLanes(found)) return found // at the latest as one, which always has room
  }
}

function grouped(
  marks: readonly Mark[],
  times: readonly number[],
  width: number,
  near: number,
): PlacedMark[] {
  const groups: { place: number; x: number; marks: Mark[] }[] = []
  for (const mark of marks) {
    const place = placeOf(times, mark.at_s)
    const x = (place / Math.max(times.length - 1, 1)) * width
    const last = groups.at(-1)
    if (last && x - last.x < near) last.marks.push(mark)
    else groups.push({ place, x, marks: [mark] })
  }
  return groups.map(({ place, x, marks: some }) => {
    const kinds = new Set(some.map((mark) => mark.kind))
    return {
      place,
      x,
      lane: 0,
      word: [...kinds].map((kind) => WORDS[kind]).join(', '),
      title: some.map((mark) => `${timeText(mark.at_s)}: ${mark.text}`).join('\n'),
      isTrouble: kinds.has('down') || kinds.has('fault'),
    }
  })
}

/** Put each word into the first lane that has room for it; tell whether all had. */
function inLanes(marks: PlacedMark[]): boolean {
  const ends = Array<number>(LANES).fill(-Infinity)
  return marks.every((mark) => {
    const half = (mark.word.length * LETTER_PX) / 2
    mark.lane = ends.findIndex((end) => end + GAP_PX <= mark.x - half)
    if (mark.lane < 0) return false
    ends[mark.lane] = mark.x + half
    return true
  })
}
