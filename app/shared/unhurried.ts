import { turn } from './turn'

/** Work that is done piece by piece, and given up for whatever is asked for at once. */
export class Unhurried {
  private round = 0

  /** Something is asked for at once: what is being done without haste is out of date. */
  hurry(): void {
    this.round++
  }

  /** Does work so that whatever is asked meanwhile goes first. @returns null where it was given up */
  async take<T>(work: Generator<void, T>): Promise<T | null> {
    const mine = this.round
    let step = work.next()
    while (!step.done) {
      await turn()
      if (this.round !== mine) return null
      step = work.next()
    }
    return step.value
  }
}
