import type { Pace, WholeValues } from '#core/evaluate/gather'

/** What is seen at a moment: values for one state of the mesh and one shape of the look fit no other. */
export interface Seen {
  tables: object
  shape: string
}

/** Where values come from, and where they go. */
export interface Finder<S extends Seen> {
  /** What is seen now; null while nothing is. */
  seen(): S | null
  /**
   * @param all whether those that came before are wanted again, too
   * @returns null where exact ones were given up for what was asked meanwhile
   */
  find(seen: S, pace: Pace, all: boolean): Promise<WholeValues | null>
  give(shape: string, values: WholeValues): void
  /** Waits until the picture that is awaited is there, or for so long. */
  rests(): Promise<void>
  /** Told when values have been due for a while, and when they have come. */
  lags(on: boolean): void
}

/** How long values may be due before that is said, in milliseconds. */
const SAY_AFTER = 150

/**
 * Brings the values of a look that take long to find out. Hasty ones come as soon as they can; exact ones when the
 * hands rest, and they are not waited for where hasty ones are wanted again. What is seen for the first time gets hasty
 * ones in any case.
 */
export class CostlyValues<S extends Seen> {
  private readonly due = { soon: false, exact: false }
  private sentFor?: Seen
  private forgotten = false
  private working = false
  private wake?: () => void

  constructor(private readonly finder: Finder<S>) {}

  /** Something has changed: hasty values are wanted. */
  soon(): void {
    this.due.soon = true
    this.wake?.()
    void this.work()
  }

  /** The hands rest: exact values are wanted. */
  exactly(): void {
    this.due.exact = true
    void this.work()
  }

  /** All values are sent again with the next ones. */
  forget(): void {
    this.forgotten = true
  }

  private isNew({ tables, shape }: Seen): boolean {
    return this.sentFor?.tables !== tables || this.sentFor.shape !== shape
  }

  private async work(): Promise<void> {
    if (this.working) return
    this.working = true
    const saying = setTimeout(() => this.finder.lags(true), SAY_AFTER)
    try {
      while (this.due.soon || this.due.exact) {
        const seen = this.finder.seen()
        if (!seen) break
        if (this.due.soon || this.isNew(seen)) await this.bring(seen, 'hasty')
        else if (await this.restsNow()) await this.bring(this.finder.seen(), 'exact')
      }
    } finally {
      clearTimeout(saying)
      this.working = false
      this.finder.lags(false)
    }
  }

  /** Waits for the hands to rest. @returns whether nothing else is wanted by then */
  private async restsNow(): Promise<boolean> {
    await this.unlessWoken(this.finder.rests())
    const seen = this.finder.seen()
    return !this.due.soon && seen !== null && !this.isNew(seen)
  }

  /** Waits for something, or until hasty values are wanted. */
  private async unlessWoken(what: Promise<void>): Promise<void> {
    const woken = new Promise<void>(resolve => {
      this.wake = resolve
    })
    await Promise.race([what, woken])
    this.wake = undefined
  }

  private async bring(seen: S | null, pace: 'hasty' | 'exact'): Promise<void> {
    if (!seen) return
    const all = this.isNew(seen) || this.forgotten
    this.forgotten = false
    this.due[pace === 'hasty' ? 'soon' : 'exact'] = false
    const found = this.finder.find(seen, pace, all).then(values => {
      if (values) this.take(seen, values)
      else {
        this.due.exact = true
        this.forgotten ||= all
      }
    })
    if (pace === 'hasty') await found
    else await this.unlessWoken(found)
  }

  private take(seen: S, values: WholeValues): void {
    const now = this.finder.seen()
    if (now?.tables === seen.tables) {
      this.sentFor = { tables: seen.tables, shape: seen.shape }
      this.finder.give(seen.shape, values)
      return
    }
    // Those for another mesh, or for the same with other maps, belong to another program.
    this.due.soon = true
  }
}
