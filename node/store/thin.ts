const HOUR = 3_600_000
const DAY = 24 * HOUR
/**
 * For how long every revision stays, and for how long the last one of every hour does. After that it is the last one of
 * a day.
 */
export const EVERY_FOR = DAY
export const HOURLY_FOR = 7 * DAY

export interface Saved {
  number: number
  /** Milliseconds since 1970. */
  saved: number
  /** Stays whatever its age: it has a name, or something was delivered from it. */
  stays: boolean
}

/**
 * Which revisions of a project may go: all but those of the last day, the last one of each hour for a week, the last
 * one of each day (UTC) before that, those that stay, and the newest.
 * @returns their numbers
 */
export function thinned(revisions: readonly Saved[], now: number): number[] {
  const newestFirst = [...revisions].sort((a, b) => b.number - a.number)
  const seen = new Set<string>()
  return newestFirst
    .filter((revision, i) => {
      const age = now - revision.saved
      if (age < EVERY_FOR) return false
      const span = age < HOURLY_FOR ? HOUR : DAY
      const slot = `${span} ${Math.floor(revision.saved / span)}`
      const last = !seen.has(slot)
      seen.add(slot)
      return !last && !revision.stays && i > 0
    })
    .map(r => r.number)
}
