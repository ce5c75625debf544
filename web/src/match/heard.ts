/** What somebody heard on the telephone against a fingerprint. */

const DIGITS: Record<string, string> = { TWO: '2', THREE: '3', FOUR: '4', FIVE: '5', SIX: '6', SEVEN: '7' }

export interface Compared {
  state: 'open' | 'same' | 'different'
  sentence: string
}

/** The letters that words or letters stand for: "Kilo Four Victor" and "k4v" are both K4V. */
export function lettersOf(heard: string): string {
  return heard
    .toUpperCase()
    .split(/[^A-Z0-9]+/)
    .map((word) => DIGITS[word] ?? (/^[A-Z]{4,}$/.test(word) ? word.charAt(0) : word))
    .join('')
}

/** Compare letter by letter, while it is typed. */
export function compareHeard(fingerprint: string, heard: string): Compared {
  const letters = lettersOf(heard)
  if (!letters) return { state: 'open', sentence: '' }
  for (let at = 0; at < letters.length; at += 1) {
    if (letters[at] !== fingerprint[at])
      return {
        state: 'different',
        sentence: `The keys differ: word ${at + 1} is ${fingerprint[at] ?? 'none'} here and ${letters[at]} there.`,
      }
  }
  const left = fingerprint.length - letters.length
  if (left) return { state: 'open', sentence: `So far the same; ${left} more.` }
  return { state: 'same', sentence: 'Both ends have the same key.' }
}
