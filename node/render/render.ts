import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import * as z from 'zod'
import { exrOfLight } from '../../core/bake/exr'
import { pngOf } from '../../core/bake/png'
import { encodeSrgb } from '../../core/color/convert'
import { loadKernels } from '../../core/kernels/kernels'
import type { TraceLight } from '../../core/trace/light'
import { neutral } from '../../core/trace/trace'
import type { Direction } from '../../core/trace/bsdf'
import { compressor } from '../bake/compress'
import { startThread } from '../thread'

export interface RenderSettings {
  width: number
  height: number
  samples: number
  light: TraceLight
  turn: number
  brightness: number
  plate: number
  threads?: number
}
const doneSchema = z.union([
  z.object({ sums: z.custom<Float32Array>(x => x instanceof Float32Array) }),
  z.object({ error: z.string() }),
])

/** Traces a delivered GLB on threads that share the samples. @returns linear light, three numbers a pixel */
export async function render(glb: Uint8Array, settings: RenderSettings): Promise<Float32Array> {
  const threads = Math.min(settings.samples, settings.threads ?? availableParallelism())
  const total = new Float32Array(settings.width * settings.height * 3)
  const script = fileURLToPath(new URL('trace-thread.mjs', import.meta.url))
  /** Traces every `threads`-th sample, from the one of this number on. */
  const trace = (first: number): Promise<void> =>
    new Promise((resolve, reject) => {
      const hear = (done: z.infer<typeof doneSchema>): void => {
        if ('error' in done) return reject(new Error(done.error))
        for (let k = 0; k < total.length; k++) total[k]! += done.sums[k]! / settings.samples
        resolve()
      }
      const data = { role: 'trace', glb, settings, first, step: threads }
      startThread(script, data, { answers: doneSchema, hear, fail: reject })
    })
  await Promise.all(Array.from({ length: threads }, (_, i) => trace(i)))
  return total
}

/** As PNG, tone mapped as on the stage. */
export function toPng(light: Float32Array, width: number, height: number): Uint8Array {
  const data = new Uint8Array(width * height * 3)
  for (let i = 0; i < data.length; i += 3) {
    const color: Direction = [light[i]!, light[i + 1]!, light[i + 2]!]
    neutral(color)
    for (let k = 0; k < 3; k++)
      data[i + k] = Math.round(255 * Math.min(1, Math.max(0, encodeSrgb(Math.max(0, color[k]!)))))
  }
  return pngOf({ width, height, data, channels: 3 }, compressor)
}
/** As EXR: the light itself, linear. */
export const toExr = async (light: Float32Array, width: number, height: number): Promise<Uint8Array> =>
  exrOfLight((await loadKernels()).texels, light, width, height, compressor)
