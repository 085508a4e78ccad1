import { fileURLToPath } from 'node:url'
import type { Worker } from 'node:worker_threads'
import type { PictureBand } from '../../core/bake/band'
import { OutOfMemory, startThread } from '../thread'
import { answerSchema, type BakeTask } from './bakeThread'
import type { BakeWork } from './workSchema'

/** Time of all threads together, in milliseconds: in kernels, in compressing, and in all. */
export interface Effort {
  kernels: number
  compressing: number
  all: number
  texels: number
}
export const noEffort = (): Effort => ({ kernels: 0, compressing: 0, all: 0, texels: 0 })
const plus = (a: Effort, b: Effort): Effort => ({
  kernels: a.kernels + b.kernels,
  compressing: a.compressing + b.compressing,
  all: a.all + b.all,
  texels: a.texels + b.texels,
})

/** Threads that bake bands of one delivery. */
export class BakePool {
  private readonly workers: { worker: Worker; busy: boolean; spent: Effort }[] = []
  private readonly waiting: { task: BakeTask; done: (bands: PictureBand[]) => void }[] = []
  private readonly running = new Map<number, (bands: PictureBand[]) => void>()
  private fail!: (error: Error) => void
  /** Rejected when a thread fails. */
  readonly failed = new Promise<never>((_, reject) => {
    this.fail = reject
  })
  private ids = 0

  private constructor() {
    this.failed.catch(() => {})
  }

  /** @param threads how many; each opens the mesh for itself */
  static async open(work: BakeWork, threads: number): Promise<BakePool> {
    const pool = new BakePool()
    const ready: Promise<void>[] = []
    for (let i = 0; i < threads; i++) {
      ready.push(new Promise(resolve => pool.start(work, resolve)))
    }
    await Promise.race([Promise.all(ready), pool.failed])
    return pool
  }

  private start(work: BakeWork, ready: () => void): void {
    // Beside this file once it is bundled.
    const script = fileURLToPath(new URL('bake-thread.mjs', import.meta.url))
    const worker = startThread(
      script,
      { role: 'bake', of: work },
      {
        answers: answerSchema,
        hear: answer => {
          if ('error' in answer) return this.fail(new Error(answer.error))
          if ('ready' in answer) return ready()
          entry.busy = false
          entry.spent = answer.spent
          this.running.get(answer.id)!(answer.bands)
          this.running.delete(answer.id)
          this.next()
        },
        fail: error =>
          this.fail(error instanceof OutOfMemory ? new Error('The bake does not fit into memory.') : error),
      },
    )
    const entry = { worker, busy: false, spent: noEffort() }
    this.workers.push(entry)
  }

  bake(task: Omit<BakeTask, 'id'>): Promise<PictureBand[]> {
    return Promise.race([
      this.failed,
      new Promise<PictureBand[]>(done => {
        this.waiting.push({ task: { ...task, id: this.ids++ }, done })
        this.next()
      }),
    ])
  }

  private next(): void {
    for (const entry of this.workers) {
      if (entry.busy) continue
      const job = this.waiting.shift()
      if (!job) return
      entry.busy = true
      this.running.set(job.task.id, job.done)
      entry.worker.postMessage(job.task)
    }
  }

  get effort(): Effort {
    return this.workers.reduce((sum, { spent }) => plus(sum, spent), noEffort())
  }

  async close(): Promise<void> {
    await Promise.all(this.workers.map(w => w.worker.terminate()))
  }
}
