import { parentPort, workerData } from 'node:worker_threads'
import { z } from 'zod'
import { plateFor, rigSurroundings, Sky } from '../core/trace/light'
import { RIGS, type RigName } from '../core/trace/rigs'
import { TraceScene } from '../core/trace/scene'
import { cameraFor, TRACE_DEFAULTS, Tracer } from '../core/trace/trace'

const jobSchema = z.object({
  role: z.literal('trace'), glb: z.custom<Uint8Array>(x => x instanceof Uint8Array), first: z.number().int(), step: z.number().int().positive(),
  settings: z.object({ width: z.number().int(), height: z.number().int(), samples: z.number().int(), rig: z.enum(Object.keys(RIGS) as [RigName]), turn: z.number(), brightness: z.number(), plate: z.number() }),
})

/** Traces every so-many-th sample of a picture. */
if (parentPort && (workerData as { role?: string } | null)?.role === 'trace') {
  try {
    const { glb, first, step, settings } = jobSchema.parse(workerData), scene = await TraceScene.read(glb), { width, height, samples, rig, turn, brightness, plate } = settings
    const tracer = new Tracer(scene, { ...TRACE_DEFAULTS, width, height, camera: cameraFor(scene.bounds, width / height), sky: new Sky(rigSurroundings(rig), turn, brightness), ...(plate > 0 && { plate: plateFor(scene.bounds, plate) }) }), sums = new Float32Array(width * height * 3)
    for (let s = first; s < samples; s += step) tracer.add(sums, s)
    parentPort.postMessage({ sums }, [sums.buffer])
  }
  catch (error) {
    parentPort.postMessage({ error: (error as Error).message })
  }
}
