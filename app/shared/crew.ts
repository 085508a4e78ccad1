import * as Comlink from 'comlink'

/** How many workers the machine has to spare, at most eight, with some of its cores left for others. */
export const workersToSpare = (left = 0): number =>
  Math.max(1, Math.min(8, (navigator.hardwareConcurrency || 2) - left))

/** Workers of one kind, which are ended together. */
export class Crew<Api> {
  private workers: Worker[] = []
  private members: Comlink.Remote<Api>[] = []
  private end: () => void = () => {}
  private ended = this.untilEnd()

  constructor(private readonly make: () => Worker) {}

  /** Those that are there, in the order in which they were added. */
  get all(): readonly Comlink.Remote<Api>[] {
    return this.members
  }

  add(): Comlink.Remote<Api> {
    const worker = this.make()
    const member = Comlink.wrap<Api>(worker)
    this.workers.push(worker)
    this.members.push(member)
    return member
  }

  /** Ends all of them, and whatever they are at; others may be added afterwards. */
  dismiss(): void {
    for (const member of this.members) member[Comlink.releaseProxy]()
    for (const worker of this.workers) worker.terminate()
    this.workers = []
    this.members = []
    this.end()
    this.ended = this.untilEnd()
  }

  /** What becomes of some work; undefined where the workers are ended before, for then they never answer. */
  unlessDismissed<T>(work: Promise<T>): Promise<T | undefined> {
    return Promise.race([work, this.ended])
  }

  private untilEnd(): Promise<undefined> {
    return new Promise(resolve => {
      this.end = () => resolve(undefined)
    })
  }
}

/** Asks one thing of a worker of its own. */
export async function aside<Api, T>(make: () => Worker, ask: (api: Comlink.Remote<Api>) => Promise<T>): Promise<T> {
  const crew = new Crew<Api>(make)
  try {
    return await ask(crew.add())
  } finally {
    crew.dismiss()
  }
}
