import { turn } from './turn'

/** How long pieces are done one after the other before others have a turn, in milliseconds. */
const AT_A_TIME = 8

/** Work on one state that is done piece by piece, and given up for whatever is asked for at once. */
export class Unhurried {
  private round = 0
  private of = ''
  private underWay = 0

  constructor(private readonly atATime = AT_A_TIME) {}

  /** Something is asked for at once: what is being done without haste is out of date. */
  hurry(): void {
    this.round++
  }

  /**
   * Does work so that whatever is asked meanwhile goes first.
   * @param of the state that it is done on; with another one, what is under way is out of date
   * @returns null where it was given up
   */
  async take<T>(work: Generator<void, T>, of = this.of): Promise<T | null> {
    if (of !== this.of) this.hurry()
    this.of = of
    const mine = this.round
    this.underWay++
    try {
      for (;;) {
        const until = performance.now() + this.atATime
        let step = work.next()
        while (!step.done && performance.now() < until) step = work.next()
        if (step.done) return step.value
        await turn()
        if (this.round !== mine) return null
      }
    } finally {
      this.underWay--
    }
  }

  /** Waits until nothing is under way any more. */
  async done(): Promise<void> {
    while (this.underWay) await turn()
  }
}
