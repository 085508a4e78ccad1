import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { alphaOf, Bsdf, type Direction, type Surface } from '#core/trace/bsdf'
import { evenSurroundings, rigSurroundings, Sky } from '#core/trace/light'
import { SceneError, TraceScene } from '#core/trace/scene'
import { cameraFor, neutral, Tracer, type TraceSettings } from '#core/trace/trace'
import type { Compression } from '#core/exchange/compression'
import { writeGlb, type GlbSurface } from '#core/exchange/writeGlb'
import type { Mesh } from '#core/mesh/mesh'
import { ball, meshOf, notSo } from '../helpers'

const gray = (c: number, metalness: number, roughness: number): Surface => ({
  baseColor: [c, c, c],
  metalness,
  roughness,
})
const seen = (cos: number): Direction => [Math.sqrt(1 - cos * cos), 0, cos]
/** The integral of value over the hemisphere, on a fine grid of cosines and angles. */
function albedo(surface: Surface, cos: number, n = 400): number {
  const bsdf = new Bsdf(surface, seen(cos))
  let sum = 0
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) {
      // Finer toward the mirror direction, where a smooth surface has all of its light: two halves of the cosine,
      // squared.
      const z = (i + 0.5) / n
      const angle = ((j + 0.5) / n) ** 3 * Math.PI
      const r = Math.sqrt(1 - z * z)
      sum +=
        (bsdf.evaluate([-r * Math.cos(angle), r * Math.sin(angle), z]).value[0] *
          2 *
          3 *
          ((j + 0.5) / n) ** 2 *
          Math.PI) /
        n /
        n
    }
  }
  return sum
}
const sampled = (surface: Surface, cos: number, light: (d: Direction) => number, n = 200_000): number => {
  const bsdf = new Bsdf(surface, seen(cos))
  let sum = 0
  for (let i = 0; i < n; i++) {
    const wi = bsdf.sample((i + 0.5) / n, (i * 0.6180339887) % 1, (i * 0.7548776662) % 1)
    if (!wi) continue
    const { value, density } = bsdf.evaluate(wi)
    sum += (value[0] / density) * light(wi)
  }
  return sum / n
}

describe('the surface', () => {
  it('gives back exactly what falls on it when it is white, metal or not, at any roughness and angle', () => {
    for (const metalness of [0, 0.5, 1]) {
      for (const roughness of [0.3, 0.5, 0.8, 1]) {
        for (const cos of [0.2, 0.5, 0.95])
          expect(
            albedo(gray(1, metalness, roughness), cos, roughness < 0.5 ? 300 : 150),
            `${metalness} ${roughness} ${cos}`,
          ).toBeCloseTo(1, 2)
      }
    }
  })
  it('gives back less when it is darker, and never more than falls on it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.25, max: 1, noNaN: true }),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        (c, metalness, roughness, cos) => {
          const found = albedo(gray(c, metalness, roughness), cos, 120)
          expect(found).toBeLessThan(1.02)
          expect(found).toBeGreaterThan(c * 0.9 - 0.02)
        },
      ),
      { numRuns: 25 },
    )
  })
  it('looks the same from either end of a path', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 3, noNaN: true }),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        (a, b, angle, roughness) => {
          const surface = gray(0.6, 0.3, roughness)
          const wo = seen(a)
          const r = Math.sqrt(1 - b * b)
          const wi: Direction = [r * Math.cos(angle), r * Math.sin(angle), b]
          // Values carry the cosine of the end that the light comes from.
          const there = new Bsdf(surface, wo).evaluate(wi).value[0] / b
          const back = new Bsdf(surface, wi).evaluate(wo).value[0] / a
          expect(Math.abs(there - back)).toBeLessThan(1e-3 * (1 + there))
        },
      ),
    )
  })
  it('draws directions as densely as it says: samples and quadrature agree under an uneven light', () => {
    const light = (d: Direction) => 0.3 + d[2] ** 2 + (d[0] < 0 ? 1 : 0)
    for (const surface of [gray(0.5, 0, 0.6), gray(0.8, 1, 0.4), gray(0.2, 0, 1)]) {
      const cos = 0.6
      const bsdf = new Bsdf(surface, seen(cos))
      const n = 500
      let quadrature = 0
      for (let i = 0; i < n; i++) {
        for (let j = 0; j < n; j++) {
          const z = (i + 0.5) / n
          const angle = ((j + 0.5) / n) * 2 * Math.PI
          const r = Math.sqrt(1 - z * z)
          const wi: Direction = [r * Math.cos(angle), r * Math.sin(angle), z]
          quadrature += (bsdf.evaluate(wi).value[0] * light(wi) * 2 * Math.PI) / n / n
        }
      }
      expect(Math.abs(sampled(surface, cos, light) / quadrature - 1)).toBeLessThan(0.01)
    }
  })
  it('of a smooth metal is a mirror: it shows what lies in the mirrored direction', () => {
    // A light that is 1 within 5 degrees of the mirrored direction.
    const cos = 0.7
    const mirror: Direction = [-Math.sqrt(1 - cos * cos), 0, cos]
    const near = Math.cos((5 * Math.PI) / 180)
    expect(
      sampled(gray(0.9, 1, 0.05), cos, d => Number(d[0] * mirror[0] + d[1] * mirror[1] + d[2] * mirror[2] > near)),
    ).toBeGreaterThan(0.88)
    expect(alphaOf(0.5)).toBe(0.25)
  })
})

describe('the sky', () => {
  it('is drawn by how much light comes from where: the mean of radiance over density is the whole of it', () => {
    const picture = rigSurroundings('overcast', 128)
    const sky = new Sky(picture, 40)
    const n = 60_000
    let whole = 0
    let found = 0
    for (let y = 0; y < picture.height; y++)
      for (let x = 0; x < picture.width; x++)
        whole +=
          picture.data[(y * picture.width + x) * 3]! *
          Math.sin(((y + 0.5) / picture.height) * Math.PI) *
          ((2 * Math.PI) / picture.width) *
          (Math.PI / picture.height)
    const lengths = Float64Array.from({ length: n }, (_, i) => {
      const d = sky.sample((i + 0.5) / n, (i * 0.6180339887) % 1)
      found += sky.radiance(d)[0] / sky.density(d) / n
      return Math.hypot(...d)
    })
    expect(notSo(lengths, length => Math.abs(length - 1) < 5e-7)).toEqual([])
    expect(found / whole).toBeCloseTo(1, 2)
  })
  it('turns with the light of the stage: a quarter turn carries +Z to +X', () => {
    const picture = evenSurroundings(0)
    const wide = { width: 360, height: 180, data: new Float32Array(360 * 180 * 3) }
    expect(picture.data.every(x => x === 0)).toBe(true)
    // Bright straight along +Z.
    const u = Math.atan2(1, 0) / (2 * Math.PI) + 0.5
    wide.data.fill(5, (90 * 360 + Math.floor(u * 360) - 3) * 3, (90 * 360 + Math.floor(u * 360) + 3) * 3)
    expect(new Sky(wide).radiance([0, -0.005, 1])[0]).toBe(5)
    expect(new Sky(wide, 90).radiance([1, -0.005, 0])[0]).toBe(5)
  })
})

async function sphere(surface: GlbSurface, mesh: Mesh = meshOf(ball(1, 96, 64))): Promise<TraceScene> {
  return TraceScene.read(
    await writeGlb(mesh, 'ball', { variants: [{ name: 'ball', tiles: new Map([[1001, surface]]) }] }),
  )
}
const white = (metalness: number, roughness: number, c = 1): GlbSurface => ({
  factors: { baseColor: [c, c, c], metalness, roughness },
})
function mean(
  scene: TraceScene,
  settings: Partial<TraceSettings>,
  samples: number,
  disc = 0.9,
): [number, number, number] {
  const size = 24
  const camera = cameraFor(scene.bounds, 1)
  const tracer = new Tracer(scene, {
    width: size,
    height: size,
    camera,
    sky: new Sky(evenSurroundings(1)),
    bounces: 8,
    ...settings,
  })
  const sums = new Float32Array(size * size * 3)
  for (let s = 0; s < samples; s++) tracer.add(sums, s)
  const out: [number, number, number] = [0, 0, 0]
  const half = Math.tan((camera.angle * Math.PI) / 360)
  const reach = (size / 2) * (1 / Math.hypot(...camera.from) / half)
  let n = 0
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      if (Math.hypot(x + 0.5 - size / 2, y + 0.5 - size / 2) > reach * disc) continue
      n++
      for (let k = 0; k < 3; k++) out[k]! += sums[(y * size + x) * 3 + k]! / samples
    }
  }
  return out.map(x => x / n) as [number, number, number]
}

describe('a traced ball', () => {
  it('is the same out of a packed file, quantized or not', async () => {
    const read = async (compression: Compression): Promise<TraceScene> => {
      const variants = [{ name: 'ball', tiles: new Map([[1001, white(1, 0.2)]]) }]
      return TraceScene.read(await writeGlb(meshOf(ball(3, 48, 32)), 'ball', { variants, compression }))
    }
    const plain = await read('none')
    expect((await read('exact')).positions).toEqual(plain.positions)
    const quantized = await read('quantized')
    expect(notSo(plain.positions, (x, i) => Math.abs(quantized.positions[i]! - x) < 6 / 131_000)).toEqual([])
    // Scaled places leave directions as long as they were.
    expect(notSo(plain.normals, (x, i) => Math.abs(quantized.normals[i]! - x) < 1 / 1000)).toEqual([])
  })
  it('in a white furnace cannot be told from it, to one percent', async () => {
    for (const [metalness, roughness] of [
      [0, 0.5],
      [1, 0.3],
      [1, 1],
      [0.5, 0.8],
    ] as const)
      expect(mean(await sphere(white(metalness, roughness)), {}, 24)[0], `${metalness} ${roughness}`).toBeCloseTo(1, 2)
  })
  it('that is gray and rough gives back what its quadrature says', async () => {
    const scene = await sphere(white(0, 1, 0.5))
    const found = mean(scene, {}, 40, 0.35)[0]
    // In the middle of the disc it is seen nearly straight on.
    expect(Math.abs(found - albedo(gray(0.5, 0, 1), 0.97))).toBeLessThan(0.01)
  })
  it('of smooth metal shows the surroundings mirrored, colored by its own color', async () => {
    // Light only from the half with positive y, seen by a camera that looks along −Z: the upper half of the ball
    // mirrors it.
    const half = { width: 2, height: 64, data: Float32Array.from({ length: 384 }, (_, i) => Number(i < 192)) }
    const scene = await sphere({ factors: { baseColor: [1, 0.5, 0.25], metalness: 1, roughness: 0.02 } })
    const size = 48
    const tracer = new Tracer(scene, {
      width: size,
      height: size,
      camera: { from: [0, 0, 8], to: [0, 0, 0], angle: 16 },
      sky: new Sky(half),
      bounces: 3,
    })
    const sums = new Float32Array(size * size * 3)
    for (let s = 0; s < 8; s++) tracer.add(sums, s)
    const block = (y: number) =>
      [0, 1, 2].map(k => {
        let sum = 0
        for (let i = 0; i < 64; i++) sum += sums[((y + (i >> 3)) * size + 20 + (i % 8)) * 3 + k]! / 8 / 64
        return sum
      })
    const above = block(10)
    const color = [1, 0.5, 0.25]
    // Straight on, a mirror reflects its own color; toward the rim a little more.
    above.forEach((x, k) => expect(Math.abs(x - color[k]!)).toBeLessThan(0.02))
    expect(Math.max(...block(30))).toBeLessThan(0.02)
  })
  it('is lit by a plate as the form factor says, and lies in its own shadow behind', async () => {
    // A small plate far above: irradiance is radiance times area over distance squared, and a matte surface gives back
    // albedo / pi of it.
    const scene = await sphere(white(0, 1, 0.5))
    const plate = {
      at: [0, 50, 0] as Direction,
      right: [0.5, 0, 0] as Direction,
      up: [0, 0, 0.5] as Direction,
      radiance: [1000, 1000, 1000] as Direction,
    }
    const from = (y: number) => ({ from: [0.001, y, 0] as Direction, to: [0, 0, 0] as Direction, angle: 1 })
    const size = 4
    const look = (y: number) => {
      const sums = new Float32Array(size * size * 3)
      const tracer = new Tracer(scene, {
        width: size,
        height: size,
        camera: from(y),
        sky: new Sky(evenSurroundings(0)),
        plate,
        bounces: 1,
      })
      for (let s = 0; s < 16; s++) tracer.add(sums, s)
      return sums.reduce((a, b) => a + b, 0) / sums.length / 16
    }
    const straight = new Bsdf(gray(0.5, 0, 1), [0, 0, 1]).evaluate([0, 0, 1]).value[0]
    expect(look(8) / ((straight * 1000 * 1) / 49 ** 2)).toBeCloseTo(1, 2)
    expect(look(-8)).toBe(0)
  })
  it('with emission glows, and comes out the same however the rows are shared out', async () => {
    const scene = await sphere(white(0, 1, 0.5))
    const settings = {
      width: 16,
      height: 16,
      camera: cameraFor(scene.bounds, 1),
      sky: new Sky(rigSurroundings('lamp', 64)),
      bounces: 3,
    }
    const one = new Float32Array(768)
    const two = new Float32Array(768)
    new Tracer(scene, settings).add(one, 3)
    new Tracer(scene, settings).add(two, 3, 8, 16)
    new Tracer(scene, settings).add(two, 3, 0, 8)
    expect([...two]).toEqual([...one])
    expect(one.some(x => x > 0)).toBe(true)
  })
})

it('tells in a sentence what it cannot trace', async () => {
  await expect(TraceScene.read(new Uint8Array(12))).rejects.toThrow(SceneError)
})

it('maps tones as the stage does: dark stays, bright is squeezed below 1 and loses its hue slowly', () => {
  const dark: Direction = [0.3, 0.2, 0.1]
  const bright: Direction = [20, 10, 5]
  neutral(dark)
  neutral(bright)
  expect(dark.map(x => Number(x.toFixed(4)))).toEqual([0.26, 0.16, 0.06])
  expect(Math.max(...bright)).toBeLessThan(1)
  expect(bright[0]).toBeGreaterThan(bright[2])
})
