import * as Comlink from 'comlink'
import type { Comparison } from '#core/color/compare'
import type { Surroundings } from '#core/trace/light'
import { aside, Crew, workersToSpare } from '../shared/crew'
import type { ProofApi, TraceRequest } from './proof.worker'

const make = (): Worker => new Worker(new URL('./proof.worker.ts', import.meta.url), { type: 'module' })

/** Compares two pictures. */
export const compareAside = (a: Float32Array, b: Float32Array, background: number[]): Promise<Comparison> =>
  aside<ProofApi, Comparison>(make, api => api.compare(a, b, background))

/** Reads a picture of light. @throws Error with a sentence */
export const readLightAside = (name: string, bytes: ArrayBuffer): Promise<Surroundings> =>
  aside<ProofApi, Surroundings>(make, api => api.readLight(name, Comlink.transfer(bytes, [bytes])))

/** Traces a delivered GLB on as many threads as the machine has to spare, sample by sample, until it is stopped. */
export class TracePool {
  private readonly crew = new Crew<ProofApi>(make)
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
    const count = workersToSpare(1)
    let next = 0
    let problem: string | null = null
    const trace = async (): Promise<void> => {
      const api = this.crew.add()
      const failed = await api.open({ ...this.request, glb: this.request.glb.slice(0) })
      if (failed) {
        problem = failed
        return this.stop()
      }
      while (!this.stopped && next < this.most) {
        const light = await api.sample(next++)
        if (this.stopped) return
        for (let i = 0; i < light.length; i++) this.sums[i]! += light[i]!
        this.samples++
        this.changed()
      }
    }
    await this.crew.unlessDismissed(Promise.all(Array.from({ length: count }, trace)))
    this.stop()
    return problem
  }

  stop(): void {
    this.stopped = true
    this.crew.dismiss()
  }
}
