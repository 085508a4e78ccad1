/** What a command says: the answer on standard output, notes and progress on standard error. */
export interface Voice {
  /** The answer, as JSON where that was asked for. */
  answer(data: unknown, text: () => string): void
  /** A line that whoever is asked for quiet does without. */
  note(line: string): void
  /** The same, said with the answer: where there comes none, nobody needs it. */
  remark(line: string): void
  progress: Progress
}

/** Tells how far work has come. @param share 0 to 1 */
export type Progress = (share: number, what: string) => void

/** Longest time between two lines of progress where nobody watches, in milliseconds. */
const LINE_EVERY = 10_000
/** Shortest time between two pictures of the bar, in milliseconds. */
const BAR_EVERY = 100
/** Before so much is done, nothing is said of the time that is left. */
const KNOWN_FROM = 0.03
const BAR_WIDTH = 24

/** A time in words: "40 s", "3 min", "2 h 10 min". @param ms milliseconds */
export function inWords(ms: number): string {
  const seconds = Math.round(ms / 1000)
  if (seconds < 90) return `${seconds} s`
  const minutes = Math.round(seconds / 60)
  if (minutes < 90) return `${minutes} min`
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`
}

/** A line of progress: share, what is done, and the time that is left by what was needed so far. */
export function progressLine(share: number, what: string, elapsed: number): string {
  const percent = `${Math.floor(share * 100)} %`.padStart(5)
  const left = share >= KNOWN_FROM && share < 1 ? `, about ${inWords((elapsed / share) * (1 - share))} left` : ''
  return `${percent}  ${what}${left}`
}

export function voiceOf(options: { json?: true; quiet?: true }): Voice {
  const { stdout, stderr } = process
  const began = Date.now()
  let last = 0
  let barShown = false
  const endBar = (): void => {
    if (barShown) stderr.write('\r\x1b[K')
    barShown = false
  }
  const progress: Progress = (share, what) => {
    if (options.quiet) return
    const now = Date.now()
    if (stderr.isTTY) {
      if (share >= 1) return endBar()
      if (now - last < BAR_EVERY) return
      const full = Math.round(share * BAR_WIDTH)
      const bar = `${'█'.repeat(full)}${'░'.repeat(BAR_WIDTH - full)}`
      const line = `${bar} ${progressLine(share, what, now - began)}`
      stderr.write(`\r\x1b[K${line.slice(0, Math.max(20, (stderr.columns ?? 80) - 1))}`)
      barShown = true
    } else {
      // The first line would come at once, and say nothing yet.
      if (now - Math.max(last, began) < LINE_EVERY || share >= 1) return
      stderr.write(`${progressLine(share, what, now - began)}\n`)
    }
    last = now
  }
  const remarks: string[] = []
  const note = (line: string): void => {
    endBar()
    if (!options.quiet) stderr.write(`${line}\n`)
  }
  return {
    answer(data, text) {
      endBar()
      remarks.forEach(note)
      stdout.write(options.json ? `${JSON.stringify(data, null, 1)}\n` : text())
    },
    note,
    remark: line => remarks.push(line),
    progress,
  }
}
