import {
  DataTexture,
  FloatType,
  NearestFilter,
  NodeMaterial,
  QuadMesh,
  RenderTarget,
  RGBAFormat,
  WebGPURenderer,
} from 'three/webgpu'
import {
  float,
  mx_cell_noise_float,
  mx_fractal_noise_float,
  mx_noise_float,
  mx_worley_noise_float,
  mx_worley_noise_vec2,
  texture,
  uv,
  vec3,
  vec4,
} from 'three/tsl'
import { loadKernels } from '#core/kernels/kernels'
import type { OpName } from '#core/program/ops'

const COUNT = 1000
const kernels = await loadKernels()
/** Points over some cells on both sides of 0, the same every time. */
const place = (i: number, k: number): number => (((i * [0.618034, 0.754878, 0.56984][k]! + k * 0.31) % 1) - 0.5) * 24
const positions = new Float32Array(COUNT * 4).map((_, i) => (i % 4 < 3 ? place(i >> 2, i % 4) : 0))

/** A kernel at the points; what else it takes is the same everywhere. */
function kernel(op: OpName, ...rest: number[]): Float32Array {
  const block = COUNT * 4 + 16
  const columns = 4 + rest.length
  const { floats } = kernels.reserve(block * columns)
  const at = (c: number) => kernels.arena + c * block
  for (let k = 0; k < 3; k++) for (let i = 0; i < COUNT; i++) floats[at(k + 1) / 4 + i] = positions[i * 4 + k]!
  rest.forEach((x, i) => floats.fill(x, at(4 + i) / 4, at(4 + i) / 4 + 4))
  kernels.run[op](at(0), at(1), -1, at(2), -1, at(3), -1, ...rest.flatMap((_, i) => [at(4 + i), 0]), COUNT)
  return floats.slice(at(0) / 4, at(0) / 4 + COUNT)
}

export interface Difference {
  name: string
  largest: number
  distinct: number
}

async function compare(): Promise<Difference[]> {
  const renderer = new WebGPURenderer({ forceWebGL: true })
  await renderer.init()
  const source = new DataTexture(positions, COUNT, 1, RGBAFormat, FloatType)
  source.minFilter = source.magFilter = NearestFilter
  source.needsUpdate = true
  const p = vec3(texture(source, uv()).xyz)
  const target = new RenderTarget(COUNT, 1, { type: FloatType, depthBuffer: false })
  const draw = async (node: ReturnType<typeof vec4>): Promise<Float32Array> => {
    const material = new NodeMaterial()
    material.fragmentNode = node
    renderer.setRenderTarget(target)
    await new QuadMesh(material).renderAsync(renderer)
    return (await renderer.readRenderTargetPixelsAsync(target, 0, 0, COUNT, 1)) as Float32Array
  }
  const first = await draw(
    vec4(
      mx_noise_float(p, 1, 0),
      mx_fractal_noise_float(p, float(5), float(2), float(0.5), 1),
      mx_cell_noise_float(p),
      float(1),
    ),
  )
  const second = await draw(vec4(mx_worley_noise_float(p, float(1)), mx_worley_noise_vec2(p, float(0.7)), float(1)))
  const lane = (pixels: Float32Array, k: number) => Float32Array.from({ length: COUNT }, (_, i) => pixels[i * 4 + k]!)
  // Their two-valued noise gives squares.
  const cases: [string, Float32Array, Float32Array][] = [
    ['noise3d', lane(first, 0), kernel('noise3')],
    ['fractal3d', lane(first, 1), kernel('fractal3', 5, 2, 0.5)],
    ['cellnoise3d', lane(first, 2), kernel('cell3')],
    ['worleynoise3d', lane(second, 0), kernel('worley3', 1)],
    ['worleynoise3d, first of two', lane(second, 1).map(Math.sqrt), kernel('worley3', 0.7)],
    ['worleynoise3d, second of two', lane(second, 2).map(Math.sqrt), kernel('worley3second', 0.7)],
  ]
  return cases.map(([name, theirs, ours]) => ({
    name,
    largest: theirs.reduce((m, x, i) => Math.max(m, Math.abs(x - ours[i]!)), 0),
    distinct: new Set(theirs).size,
  }))
}
Object.assign(window, { compare })
