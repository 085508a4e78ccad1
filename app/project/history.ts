interface Entry<T> {
  state: T
  label: string
  merge?: string
}

/** Undo and redo over whole documents, which share what did not change. At most 500 steps are kept. */
export class History<T> {
  private entries: Entry<T>[]
  private at = 0

  constructor(start: T) {
    this.entries = [{ state: start, label: 'Open' }]
  }

  /** What the document is at the step that it is at. */
  get state(): T {
    return this.entries[this.at]!.state
  }

  get undoLabel(): string | undefined {
    return this.at > 0 ? this.entries[this.at]!.label : undefined
  }
  get redoLabel(): string | undefined {
    return this.entries[this.at + 1]?.label
  }

  /** What each step did, the oldest first, and which of them the document is at. */
  get labels(): string[] {
    return this.entries.map(e => e.label)
  }
  get step(): number {
    return this.at
  }
  /** What the document was before a step, and after it; undefined where there is no such step. */
  around(step: number): { before: T; after: T } | undefined {
    const [before, after] = [this.entries[step - 1], this.entries[step]]
    return before && after && { before: before.state, after: after.state }
  }
  /** Goes to a step; undefined where there is none, or it is there already. */
  jump(step: number): T | undefined {
    if (step === this.at || !this.entries[step]) return undefined
    this.at = step
    return this.entries[step].state
  }

  push(state: T, label: string, merge?: string): void {
    const current = this.entries[this.at]!
    const step = { state, label, ...(merge && { merge }) }
    if (merge && current.merge === merge && this.at > 0) this.entries.splice(this.at, Infinity, step)
    else {
      this.entries.splice(this.at + 1, Infinity, step)
      if (this.entries.length > 500) this.entries.shift()
      this.at = this.entries.length - 1
    }
  }

  /** Ends the gesture: the next edit is a step of its own. */
  settle(): void {
    delete this.entries[this.at]!.merge
  }

  undo(): T | undefined {
    return this.at > 0 ? this.entries[--this.at]!.state : undefined
  }
  redo(): T | undefined {
    return this.at < this.entries.length - 1 ? this.entries[++this.at]!.state : undefined
  }
}
