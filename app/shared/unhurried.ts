import { turn } from './turn'

/** Work on one state that is done piece by piece, and given up for whatever is asked for at once. */
export class Unhurried {
  private round = 0
  private underWay = 0

  /** Something is asked for at once: what is being done without haste is out of date. */
  hurry(): void {
    this.round++
  }

  /** Does work so that whatever is asked meanwhile goes first. @returns null where it was given up */
  async take<T>(work: Generator<void, T>): Promise<T | null> {
    const mine = this.round
    this.underWay++
    try {
      let step = work.next()
      while (!step.done) {
        await turn()
        if (this.round !== mine) return null
        step = work.next()
      }
      return step.value
    } finally {
      this.underWay--
    }
  }

  /** Waits until nothing is under way any more. */
  async done(): Promise<void> {
    while (this.underWay) await turn()
  }
}
