import * as Comlink from 'comlink'
import * as z from 'zod'
import { comparePictures, type Comparison } from '#core/color/compare'
import { lightSchema, plateFor, Sky, surroundingsOf, type Surroundings } from '#core/trace/light'
import { readLight } from '#core/trace/lightPicture'
import { TraceScene } from '#core/trace/scene'
import { TRACE_DEFAULTS, Tracer } from '#core/trace/trace'
import { readWebp } from './webp'

const pixels = z.instanceof(Float32Array)
const triple = z.tuple([z.number(), z.number(), z.number()])
const traceSchema = z.object({
  glb: z.instanceof(ArrayBuffer),
  width: z.number().int().min(1).max(4096),
  height: z.number().int().min(1).max(4096),
  camera: z.object({ from: triple, to: triple, angle: z.number() }),
  turn: z.number(),
  /** A rig by its name, or a picture of surroundings. */
  light: lightSchema,
  brightness: z.number(),
  plate: z.number().min(0),
})
export type TraceRequest = z.infer<typeof traceSchema>

let tracer: Tracer | undefined
let size = 0

const proofApi = {
  compare(a: unknown, b: unknown, background: unknown): Comparison {
    const found = comparePictures(pixels.parse(a), pixels.parse(b), z.array(z.number()).length(3).parse(background))
    return Comlink.transfer(found, [found.picture.buffer])
  },
  /** Reads a picture of light. @throws Error with a sentence */
  readLight(name: unknown, bytes: unknown): Surroundings {
    const picture = readLight(z.string().parse(name), z.instanceof(ArrayBuffer).parse(bytes))
    return Comlink.transfer(picture, [picture.data.buffer])
  },
  /** Reads a delivered GLB for tracing. Answers with a sentence where that cannot be done. */
  async open(request: unknown): Promise<string | null> {
    const { glb, width, height, camera, light, turn, brightness, plate } = traceSchema.parse(request)
    try {
      const scene = await TraceScene.read(new Uint8Array(glb), readWebp)
      tracer = new Tracer(scene, {
        ...TRACE_DEFAULTS,
        width,
        height,
        camera,
        sky: new Sky(surroundingsOf(light), turn, brightness),
        ...(plate > 0 && { plate: plateFor(scene.bounds, plate) }),
      })
      size = width * height * 3
      return null
    } catch (error) {
      return (error as Error).message
    }
  },
  /** One more path for each pixel. */
  sample(n: unknown): Float32Array {
    const sums = new Float32Array(size)
    tracer?.add(sums, z.number().int().parse(n))
    return Comlink.transfer(sums, [sums.buffer])
  },
}
export type ProofApi = typeof proofApi
Comlink.expose(proofApi)
