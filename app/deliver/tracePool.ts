import * as Comlink from 'comlink'
import type { Surroundings } from '#core/trace/light'
import type { ProofApi, TraceRequest } from './proof.worker'

const start = (): { worker: Worker; api: Comlink.Remote<ProofApi> } => {
  const worker = new Worker(new URL('./proof.worker.ts', import.meta.url), { type: 'module' })
  return { worker, api: Comlink.wrap<ProofApi>(worker) }
}

/** Asks one thing on a thread of its own. */
async function aside<T>(ask: (api: Comlink.Remote<ProofApi>) => Promise<T>): Promise<T> {
  const { worker, api } = start()
  try {
    return await ask(api)
  } finally {
    worker.terminate()
  }
}

/** Compares two pictures. */
export const compareAside = (
  a: Uint8ClampedArray,
  b: Uint8ClampedArray,
  background: number[],
): ReturnType<Comlink.Remote<ProofApi>['compare']> => aside(api => api.compare(a, b, background))

/** Reads a picture of light. @throws Error with a sentence */
export const readLightAside = (name: string, bytes: ArrayBuffer): Promise<Surroundings> =>
  aside(api => api.readLight(name, Comlink.transfer(bytes, [bytes])))

/** Traces a delivered GLB on as many threads as the machine has to spare, sample by sample, until it is stopped. */
export class TracePool {
  private readonly threads: ReturnType<typeof start>[] = []
  private stopped = false
  /** Sums of light, three numbers a pixel, and how many samples are in them. */
  readonly sums: Float32Array
  samples = 0

  constructor(
    private readonly request: TraceRequest,
    private readonly most: number,
    private readonly changed: () => void,
  ) {
    this.sums = new Float32Array(request.width * request.height * 3)
  }

  /** Runs until all samples are there or it is stopped. @returns a sentence where the GLB cannot be traced */
  async run(): Promise<string | null> {
    // One core is left for the stage.
    const count = Math.max(1, Math.min(8, (navigator.hardwareConcurrency || 2) - 1))
    let next = 0
    let problem: string | null = null
    await Promise.all(
      Array.from({ length: count }, async () => {
        const thread = start()
        this.threads.push(thread)
        const failed = await thread.api.open({ ...this.request, glb: this.request.glb.slice(0) })
        if (failed) {
          problem = failed
          return this.stop()
        }
        while (!this.stopped && next < this.most) {
          const light = await thread.api.sample(next++)
          if (this.stopped) return
          for (let i = 0; i < light.length; i++) this.sums[i]! += light[i]!
          this.samples++
          this.changed()
        }
      }).map(p => Promise.race([p, this.ended])),
    )
    this.stop()
    return problem
  }

  private end!: () => void
  private readonly ended = new Promise<void>(resolve => {
    this.end = resolve
  })
  stop(): void {
    this.stopped = true
    for (const { worker } of this.threads) worker.terminate()
    this.end()
  }
}
