import * as Comlink from 'comlink'
import { isCast } from '#core/geometry/compute'
import { CHUNK, FIRST_RAYS, rounds } from '#core/geometry/round'
import { declarationOf, type MapSettings } from '#core/geometry/maps'
import type { Mesh, VertexMap } from '#core/mesh/mesh'
import type { Parts } from '#core/mesh/parts'
import { handsRest } from '../stage/turns'
import type { GeometryApi } from './geometry.worker'

export interface JobHooks {
  progress(share: number): void
  preview(values: Float32Array): void
}

interface Thread {
  worker: Worker
  api: Comlink.Remote<GeometryApi>
}

/**
 * Computes geometry maps on as many threads as the machine has to spare. Maps that cast rays are split over all threads
 * and shown rough after their first rays; the others run on one thread each.
 */
export class GeometryPool {
  private threads: Thread[] = []
  private loaded?: { mesh: Mesh; parts: Parts }
  private readonly size = Math.max(1, Math.min(8, navigator.hardwareConcurrency || 2))
  /** Counts up when everything under way is to stop. */
  private round = 0
  private next = 0

  load(mesh: Mesh, parts: Parts): void {
    this.stop()
    this.loaded = { mesh, parts }
  }

  /** Ends every job under way; their promises come back as undefined. */
  stop(): void {
    this.round++
    for (const { worker, api } of this.threads) {
      api[Comlink.releaseProxy]()
      worker.terminate()
    }
    this.threads = []
  }

  private async thread(n: number): Promise<Thread> {
    const known = this.threads[n]
    if (known) return known
    const worker = new Worker(new URL('./geometry.worker.ts', import.meta.url), { type: 'module' })
    const thread = (this.threads[n] = { worker, api: Comlink.wrap<GeometryApi>(worker) })
    // Textures, materials and other maps stay here.
    const { positions, normals, indices, objects } = this.loaded!.mesh
    await thread.api.load(
      { positions, normals, indices, objects, materials: [], maps: [], warnings: [] },
      this.loaded!.parts,
    )
    return thread
  }

  /** @returns undefined where it was stopped */
  async compute(settings: MapSettings, hooks: JobHooks): Promise<VertexMap | undefined> {
    const mine = this.round
    const stopped = () => this.round !== mine
    const { components } = declarationOf(settings)
    const made = (values: Float32Array): VertexMap => ({ name: settings.name, components, values })
    // A terminated worker never answers, so its promise is raced with the stop.
    const ended = new Promise<undefined>(resolve => {
      const watch = setInterval(() => {
        if (!stopped() && !done) return
        clearInterval(watch)
        resolve(undefined)
      }, 50)
    })
    let done = false
    const work = async (): Promise<VertexMap | undefined> => {
      if (!isCast(settings)) {
        const { api } = await this.thread(this.next++ % this.size)
        if (stopped()) return undefined
        return made(
          await api.compute(
            settings,
            Comlink.proxy((share: number) => {
              if (!stopped()) hooks.progress(share)
            }),
          ),
        )
      }
      const first = await this.thread(0)
      const { count, of } = await first.api.points()
      if (stopped()) return undefined
      const declared = declarationOf(settings)
      const all = 'meetsAll' in declared && declared.meetsAll(settings)
      const threads = await Promise.all(Array.from({ length: this.size }, (_, n) => this.thread(n)))
      await Promise.all(threads.map(t => t.api.warm(all)))
      const sums = new Float32Array(count)
      const spread = (rays: number) => Float32Array.from(of, v => sums[v]! / rays)
      for (const { first: before, last } of rounds(settings.rays)) {
        let at = 0
        await Promise.all(
          threads.map(async ({ api }) => {
            while (at < count && !stopped()) {
              await handsRest()
              const begin = at
              const end = (at = Math.min(count, at + CHUNK))
              const part = await api.cast({ settings, round: { from: begin, to: end, first: before, last } })
              for (let i = 0; i < part.length; i++) sums[begin + i]! += part[i]!
              hooks.progress((before + (last - before) * Math.min(1, end / count)) / settings.rays)
            }
          }),
        )
        if (stopped()) return undefined
        if (last < settings.rays || last <= FIRST_RAYS) hooks.preview(spread(last))
      }
      return made(spread(settings.rays))
    }
    try {
      return await Promise.race([work(), ended])
    } finally {
      done = true
    }
  }
}
