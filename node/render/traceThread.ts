import { parentPort, workerData } from 'node:worker_threads'
import * as z from 'zod'
import { readWebp } from '../bake/webp'
import { lightSchema, plateFor, Sky, surroundingsOf } from '../../core/trace/light'
import { TraceScene } from '../../core/trace/scene'
import { cameraFor, TRACE_DEFAULTS, Tracer } from '../../core/trace/trace'

const jobSchema = z.object({
  role: z.literal('trace'),
  glb: z.custom<Uint8Array>(x => x instanceof Uint8Array),
  first: z.number().int(),
  step: z.number().int().positive(),
  settings: z.object({
    width: z.number().int(),
    height: z.number().int(),
    samples: z.number().int(),
    light: lightSchema,
    turn: z.number(),
    brightness: z.number(),
    plate: z.number(),
  }),
})

/** Traces every so-many-th sample of a picture. */
if (parentPort && (workerData as { role?: string } | null)?.role === 'trace') {
  try {
    const { glb, first, step, settings } = jobSchema.parse(workerData)
    const scene = await TraceScene.read(glb, readWebp)
    const { width, height, samples, light, turn, brightness, plate } = settings
    const surroundings = surroundingsOf(light)
    const tracer = new Tracer(scene, {
      ...TRACE_DEFAULTS,
      width,
      height,
      camera: cameraFor(scene.bounds, width / height),
      sky: new Sky(surroundings, turn, brightness),
      ...(plate > 0 && { plate: plateFor(scene.bounds, plate) }),
    })
    const sums = new Float32Array(width * height * 3)
    for (let s = first; s < samples; s += step) tracer.add(sums, s)
    parentPort.postMessage({ sums }, [sums.buffer])
  } catch (error) {
    parentPort.postMessage({ error: (error as Error).message })
  }
}
