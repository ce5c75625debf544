/** Reading and writing of times, and of what is let happen. */
import type { LocationQueryValue } from 'vue-router'

/** The values of a query that may stand several times. */
export function severalOf(value: LocationQueryValue | LocationQueryValue[] | undefined): string[] {
  return [value ?? []].flat().filter((candidate) => candidate !== null)
}

/** A time of the rehearsal for a person: "0.048 s", "12.5 s", "0:12:05", "1:02:00". */
export function timeText(seconds: number): string {
  if (seconds < 60) return `${seconds.toFixed(seconds < 10 ? 3 : 1)} s`
  const whole = Math.floor(seconds)
  const two = (part: number): string => String(part).padStart(2, '0')
  return `${Math.floor(whole / 3600)}:${two(Math.floor((whole % 3600) / 60))}:${two(whole % 60)}`
}

/** The place among ascending times that a time has: that of the last one that isn't later. */
export function placeOf(times: readonly number[], at: number): number {
  let place = 0
  while (place + 1 < times.length && (times[place + 1] ?? Infinity) <= at) place += 1
  return place
}
