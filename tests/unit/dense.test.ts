import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { LaidLook } from '#core/evaluate/laidLook'
import { lanesOf } from '#core/bake/lanes'
import { tilingOf } from '#core/bake/raster'
import { cageSurfaces } from '#core/dense/cage'
import { findPartners, type Given } from '#core/dense/partners'
import { takeDetail, type TakeSettings } from '#core/dense/take'
import { reachOf, Transfer, type Hits } from '#core/dense/transfer'
import { apart, otherUnits } from '#core/dense/units'
import { picturesIn } from '#core/exchange/lookFile'
import { exrPicture } from '#core/exchange/readExr'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { readPicture, type Picture } from '#core/evaluate/pictures'
import { withNormal } from '#core/evaluate/visible'
import { setParam } from '#core/graph/edit'
import type { Look } from '#core/graph/look'
import type { Box, Mesh } from '#core/mesh/mesh'
import { findParts, type Part } from '#core/mesh/parts'
import { pointSet, type SurfacePoints } from '#core/mesh/sample'
import { lower, reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { compressor } from '../../node/bake/compress'
import { grid } from '../../demo/shapes'
import { ball, boxes, kernels, lookOf, meshOf, square, tablesOf, type BoxSpec } from '../helpers'

const { texels } = kernels
const parted = (mesh: Mesh) => ({ mesh, parts: findParts(mesh) })
const PLAIN = { linear: true, across: 'edge', down: 'edge', nearest: true } as const
const settings = (more: Partial<TakeSettings>): TakeSettings => ({
  match: 'part',
  outward: 0.05,
  inward: 0.05,
  size: 64,
  kinds: ['height'],
  vertexMaps: [],
  dilation: 0,
  ...more,
})
const cast = (light: Mesh, dense: Mesh, more: Partial<TakeSettings> = {}, tile = 1001): Hits & { of: Transfer } => {
  const asked = settings(more)
  const of = new Transfer(parted(light), parted(dense), asked)
  return { ...of.rows(texels, tilingOf(light), tile, asked.size, 0, asked.size), of }
}
const vector = (columns: Float32Array, i: number) => [...columns.subarray(i * 3, i * 3 + 3)] as [number, number, number]
const dot = (a: readonly number[], b: readonly number[]) => a.reduce((sum, x, k) => sum + x * b[k]!, 0)
const withMap = (mesh: Mesh, name: string, at: (vertex: number) => number): Mesh => ({
  ...mesh,
  maps: [{ name, components: 1, values: Float32Array.from({ length: mesh.positions.length / 3 }, (_, i) => at(i)) }],
})

describe('From a dense mesh to a light one', () => {
  it('finds normals to one degree and heights to one percent on a coarse ball under a fine one', () => {
    const fine = 1.03
    const hits = cast(meshOf(ball(1, 16, 10)), meshOf(ball(fine, 160, 100)), { outward: 0.2, inward: 0.2, size: 96 })
    expect(hits.texel.length).toBeGreaterThan(2000)
    expect(hits.met.every(Boolean)).toBe(true)
    const dense = meshOf(ball(fine, 160, 100))
    let off = 0
    let turned = 1
    hits.texel.forEach((_, i) => {
      const p = vector(hits.places, i)
      const n = vector(hits.normals, i)
      // The line p + s n meets the sphere where |p|² + 2 s p·n + s² is its radius squared.
      const along = dot(p, n)
      const s = -along + Math.sqrt(along ** 2 - dot(p, p) + fine ** 2)
      off = Math.max(off, Math.abs(hits.height[i]! - s) / s)
      const truth = p.map((x, k) => (x + n[k]! * s) / fine)
      const [a, b, c] = hits.corners.subarray(i * 3, i * 3 + 3)
      const normal = [0, 1, 2].map(k => {
        const at = (v: number) => dense.normals[v * 3 + k]!
        return at(a!) + (at(b!) - at(a!)) * hits.u[i]! + (at(c!) - at(a!)) * hits.v[i]!
      })
      turned = Math.min(turned, dot(normal, truth) / Math.hypot(...normal))
    })
    expect(off).toBeLessThan(0.01)
    expect((Math.acos(turned) * 180) / Math.PI).toBeLessThan(1)
  })

  it('finds how far a box with rounded edges lies under one with sharp ones', () => {
    const light = boxes([{ object: 'box', at: [0, 0, 0], size: [2, 2, 2] }])
    const radius = 0.2
    const inner = 1 - radius
    // A fine cube, each place moved to a ball around the nearest place of an inner cube.
    const steps = 80
    const sides = [0, 1, 2].flatMap(axis => [1, -1].map(way => ({ axis, way })))
    const at = (i: number) => Math.sin(((i / steps) * 2 - 1) * (Math.PI / 2))
    const shapes = sides.map(({ axis, way }) =>
      grid(steps, steps, (u, v) => {
        const p: [number, number, number] = [0, 0, 0]
        p[axis] = way
        p[(axis + 1) % 3] = at(u * steps) * way
        p[(axis + 2) % 3] = at(v * steps)
        const near = p.map(x => Math.max(-inner, Math.min(inner, x)))
        const d = p.map((x, k) => x - near[k]!)
        const length = Math.hypot(...d)
        return near.map((x, k) => x + (d[k]! / length) * radius) as [number, number, number]
      }),
    )
    const dense = { ...meshOf(...shapes) }
    dense.objects = [
      { ...dense.objects[0]!, triangles: dense.indices.length / 3, vertices: dense.positions.length / 3 },
    ]
    const hits = cast(light, dense, { match: 'object', outward: 0.05, inward: 0.3, size: 64 })
    let off = 0
    let rounded = 0
    let besides = 0
    hits.texel.forEach((_, i) => {
      const p = vector(hits.places, i)
      const n = vector(hits.normals, i)
      // How far beyond the inner cube the place lies, along the face.
      const beyond = p.map((x, k) => (Math.abs(n[k]!) > 0.5 ? 0 : Math.max(0, Math.abs(x) - inner)))
      const away = Math.hypot(...beyond)
      // At the corners rays pass beside the ball.
      if (!hits.met[i]) besides = Math.max(besides, radius - away)
      if (!hits.met[i] || away > radius * 0.95) return
      if (away > 0) rounded++
      off = Math.max(off, Math.abs(hits.height[i]! - (Math.sqrt(radius ** 2 - away ** 2) - radius)))
    })
    expect(rounded).toBeGreaterThan(300)
    expect(off).toBeLessThan(radius * 0.01)
    expect(besides).toBeLessThan(radius * 0.01)
  })

  it('never mixes two close plates', () => {
    const plates: BoxSpec[] = [
      { object: 'lower', at: [0, 0, 0], size: [1, 0.002, 1] },
      { object: 'upper', at: [0, 0.004, 0], size: [1, 0.002, 1] },
    ]
    // Both dense plates bulge into the gap of two millimeters, and have lost their names.
    const bulged = boxes([
      { object: 'a', at: [0, 0.0002, 0], size: [1, 0.0032, 1] },
      { object: 'b', at: [0, 0.0038, 0], size: [1, 0.0032, 1] },
    ])
    const marked = withMap(bulged, 'which', v => Number(bulged.positions[v * 3 + 1]! > 0.002))
    const light = boxes(plates)
    const hits = cast(light, marked, { outward: 0.01, inward: 0.001 })
    const { values } = marked.maps[0]!
    const parts = findParts(light)
    hits.texel.forEach((_, i) => {
      expect(hits.met[i]).toBe(1)
      const upper = light.objects[parts.parts[hits.part[i]!]!.object]!.name === 'upper'
      expect(values[hits.corners[i * 3]!]).toBe(Number(upper))
    })
    expect([...hits.of.found.wrong]).toEqual([0, 0])
    // By nearness alone the rays meet the other plate first, and that is counted.
    expect(
      [...cast(light, marked, { outward: 0.01, inward: 0.001, match: 'near' }).of.found.wrong].every(n => n > 0),
    ).toBe(true)
  })

  it('matches by name where places do not tell, and says who has no partner', () => {
    const light = parted(
      boxes([
        { object: 'Bolt', at: [0, 0, 0], size: [0.1, 0.1, 0.1] },
        { object: 'Plate', at: [0, 0.1, 0], size: [1, 0.1, 1] },
        { object: 'Far', at: [5, 0, 0] },
      ]),
    )
    const dense = parted(
      boxes([
        { object: 'Plate high', at: [0, 0.1, 0], size: [1.02, 0.12, 1.02] },
        { object: 'BOLT_hp', at: [0, 0.03, 0], size: [0.1, 0.1, 0.1] },
        { object: 'Stray', at: [0, 40, 0] },
      ]),
    )
    const { partOf, alone } = findPartners(light, dense, 0.5)
    const named = [...partOf].map((p, i) => [
      dense.mesh.objects[dense.parts.parts[i]!.object]!.name,
      p < 0 ? 'nobody' : light.mesh.objects[light.parts.parts[p]!.object]!.name,
    ])
    expect(Object.fromEntries(named)).toEqual({ 'Plate high': 'Plate', BOLT_hp: 'Bolt', Stray: 'nobody' })
    expect(alone.map(i => light.mesh.objects[light.parts.parts[i]!.object]!.name)).toEqual(['Far'])
  })

  it('meets what a plain search over all triangles meets, a quarter of a million times', () => {
    const light = boxes([{ object: 'one', at: [0, 0, 0] }])
    const COUNT = 8
    let seed = 7
    const next = () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
      return seed / 2 ** 32
    }
    let rays = 0
    let different = 0
    // Other triangles after some ten thousand rays each.
    while (rays < 250_000) {
      const positions = Float32Array.from({ length: COUNT * 9 }, () => next() * 1.8 - 0.9)
      const dense: Mesh = {
        ...light,
        positions,
        normals: positions.map((_, i) => Number(i % 3 === 1)),
        uvs: undefined,
        indices: Uint32Array.from({ length: COUNT * 3 }, (_, i) => i),
        objects: [{ name: 'one', firstTriangle: 0, triangles: COUNT, firstVertex: 0, vertices: COUNT * 3 }],
        materials: [{ name: '', firstTriangle: 0, triangles: COUNT }],
        maps: [],
      }
      const hits = cast(light, dense, { match: 'near', outward: 0.4, inward: 0.3, size: 128 })
      const { places, normals } = hits
      for (let i = 0; i < hits.texel.length; i++) {
        const [nx, ny, nz] = [normals[i * 3]!, normals[i * 3 + 1]!, normals[i * 3 + 2]!]
        const from = [places[i * 3]! + nx * 0.4, places[i * 3 + 1]! + ny * 0.4, places[i * 3 + 2]! + nz * 0.4] as const
        const { nearest, grazing } = plainSearch(positions, COUNT, from, [-nx, -ny, -nz], 0.7)
        // Rays along an edge, or that end on a surface, may go either way.
        if (grazing) continue
        const found = hits.met[i] ? 0.4 - hits.height[i]! : Infinity
        if (found !== nearest && !(Math.abs(found - nearest) < 1e-5)) different++
      }
      rays += hits.texel.length
    }
    expect(different).toBe(0)
  }, 120_000)

  it('meets what another search over all triangles meets', () => {
    const light = boxes([{ object: 'one', at: [0, 0, 0] }])
    fc.assert(
      fc.property(
        fc.array(fc.tuple(...Array.from({ length: 9 }, () => fc.double({ min: -0.9, max: 0.9, noNaN: true }))), {
          minLength: 1,
          maxLength: 12,
        }),
        triangles => {
          const positions = Float32Array.from(triangles.flat())
          const dense: Mesh = {
            ...light,
            positions,
            normals: positions.map((_, i) => Number(i % 3 === 1)),
            uvs: undefined,
            indices: Uint32Array.from({ length: triangles.length * 3 }, (_, i) => i),
            objects: [
              {
                name: 'one',
                firstTriangle: 0,
                triangles: triangles.length,
                firstVertex: 0,
                vertices: triangles.length * 3,
              },
            ],
            materials: [{ name: '', firstTriangle: 0, triangles: triangles.length }],
            maps: [],
          }
          const hits = cast(light, dense, { match: 'near', outward: 0.4, inward: 0.3, size: 24 })
          hits.texel.forEach((_, i) => {
            const n = vector(hits.normals, i)
            const p = vector(hits.places, i)
            const from = p.map((x, k) => x + n[k]! * 0.4)
            let nearest = Infinity
            for (let t = 0; t < triangles.length; t++) {
              const distance = meets(
                positions,
                t,
                from,
                n.map(x => -x),
              )
              if (distance !== null && distance <= 0.7) nearest = Math.min(nearest, distance)
            }
            // Rays along an edge may go either way.
            if (hits.met[i]) expect(Math.abs(0.4 - hits.height[i]! - nearest)).toBeLessThan(1e-4)
            else if (nearest < 0.6999) expect(grazes(positions, triangles.length, from, n)).toBe(true)
          })
        },
      ),
      { numRuns: 40 },
    )
  })
})

/**
 * The nearest front that a ray meets, by a look at every triangle; and whether it passes very near to an edge or to
 * the end.
 */
function plainSearch(
  p: Float32Array,
  count: number,
  [x, y, z]: readonly [number, number, number],
  [dx, dy, dz]: readonly [number, number, number],
  far: number,
): { nearest: number; grazing: boolean } {
  const SLACK = 2e-5
  let nearest = Infinity
  let grazing = false
  for (let a = 0; a < count * 9; a += 9) {
    const ux = p[a + 3]! - p[a]!
    const uy = p[a + 4]! - p[a + 1]!
    const uz = p[a + 5]! - p[a + 2]!
    const vx = p[a + 6]! - p[a]!
    const vy = p[a + 7]! - p[a + 1]!
    const vz = p[a + 8]! - p[a + 2]!
    const hx = dy * vz - dz * vy
    const hy = dz * vx - dx * vz
    const hz = dx * vy - dy * vx
    const det = ux * hx + uy * hy + uz * hz
    if (Math.abs(det) < 1e-4) grazing = true
    if (det <= 0) continue
    const sx = x - p[a]!
    const sy = y - p[a + 1]!
    const sz = z - p[a + 2]!
    const u = (sx * hx + sy * hy + sz * hz) / det
    const qx = sy * uz - sz * uy
    const qy = sz * ux - sx * uz
    const qz = sx * uy - sy * ux
    const v = (dx * qx + dy * qy + dz * qz) / det
    const distance = (vx * qx + vy * qy + vz * qz) / det
    const inside = Math.min(u, v, 1 - u - v)
    if (inside < -SLACK || distance < -SLACK || distance > far + SLACK) continue
    if (inside < SLACK || Math.abs(distance) < SLACK || Math.abs(distance - far) < SLACK) grazing = true
    else nearest = Math.min(nearest, distance)
  }
  return { nearest, grazing }
}

/** Where a ray meets the front of a triangle (Möller and Trumbore 1997); null where it does not. */
function meets(positions: Float32Array, t: number, from: number[], direction: number[], slack = 0): number | null {
  const corner = (k: number) => [...positions.subarray(t * 9 + k * 3, t * 9 + k * 3 + 3)]
  const minus = (a: number[], b: number[]) => a.map((x, k) => x - b[k]!)
  const cross = (a: number[], b: number[]) => [
    a[1]! * b[2]! - a[2]! * b[1]!,
    a[2]! * b[0]! - a[0]! * b[2]!,
    a[0]! * b[1]! - a[1]! * b[0]!,
  ]
  const [a, b, c] = [corner(0), corner(1), corner(2)]
  const e1 = minus(b!, a!)
  const e2 = minus(c!, a!)
  const h = cross(direction, e2)
  const det = dot(e1, h)
  if (det <= 0) return null
  const s = minus(from, a!)
  const u = dot(s, h) / det
  const q = cross(s, e1)
  const v = dot(direction, q) / det
  const distance = dot(e2, q) / det
  return u >= -slack && v >= -slack && u + v <= 1 + slack && distance >= 0 ? distance : null
}
const grazes = (positions: Float32Array, count: number, from: number[], n: number[]): boolean =>
  Array.from({ length: count }, (_, t) => t).some(
    t =>
      meets(
        positions,
        t,
        from,
        n.map(x => -x),
        1e-3,
      ) !== null &&
      meets(
        positions,
        t,
        from,
        n.map(x => -x),
        -1e-3,
      ) === null,
  )

describe('Pictures of what was taken', () => {
  /** Two boxes on tiles 1002 and 1011. */
  const light = (() => {
    const mesh = boxes([
      { object: 'one', at: [0, 0, 0] },
      { object: 'two', at: [3, 0, 0] },
    ])
    const uvs = mesh.uvs!.slice()
    // Each box fills its half of the square; box one goes a tile to the right, box two one up.
    for (let v = 0; v < uvs.length / 2; v++) {
      const second = v >= 24
      const u = second ? uvs[v * 2]! - 0.5 : uvs[v * 2]!
      uvs[v * 2] = u * 1.9 + (second ? 0.02 : 1.02)
      uvs[v * 2 + 1] = uvs[v * 2 + 1]! * 1.9 + (second ? -0.98 : 0.02)
    }
    return { ...mesh, uvs }
  })()
  const dense = withMap(
    boxes([
      { object: 'one', at: [0, 0, 0], size: [1.02, 1.02, 1.02] },
      { object: 'two', at: [3, 0, 0], size: [1.04, 1.04, 1.04] },
    ]),
    'wet',
    v => (v < 24 ? 0.25 : 0.75),
  )
  const take = (more: Partial<TakeSettings>) =>
    takeDetail(texels, parted(light), parted(dense), settings({ size: 48, vertexMaps: ['wet'], ...more }), compressor)
  const pictureOf = (taken: ReturnType<typeof take>, of: string): Picture =>
    exrPicture(`${of}.exr`, taken.pictures.find(p => p.of === of)!.bytes)
  /** A channel in the middle of face 0 of a box. */
  const atFace = (picture: Picture, box: number, channel = 0) => {
    const at = [0, 1].map(k => [0, 1, 2, 3].reduce((sum, v) => sum + light.uvs[(box * 24 + v) * 2 + k]! / 4, 0))
    return readPicture(picture, channel, PLAIN, at[0]!, at[1]!)
  }

  it('lie on their tiles, in millimeters, by the names of the vertex maps', () => {
    const taken = take({ kinds: ['height', 'normal', 'found'] })
    expect(taken.pictures.map(p => p.of)).toEqual(['height', 'normal', 'found', 'wet'])
    const height = pictureOf(taken, 'height')
    // Tile 1002 is at 1, 0 and tile 1011 at 0, −1 (v downward): two by two tiles from 0, −1 on.
    expect(height.covers).toEqual([0, -1, 2, 2])
    expect(atFace(height, 0)).toBeCloseTo(10, 3)
    expect(atFace(height, 1)).toBeCloseTo(20, 3)
    expect(atFace(pictureOf(taken, 'wet'), 0)).toBe(0.25)
    expect(atFace(pictureOf(taken, 'wet'), 1)).toBe(0.75)
    expect(atFace(pictureOf(taken, 'found'), 1)).toBe(1)
    // Face 0 looks along −X.
    expect([0, 1, 2].map(k => atFace(pictureOf(taken, 'normal'), 0, k))).toEqual([-1, 0, 0])
    expect([...taken.found.missed]).toEqual([0, 0])
  })

  it('tell parts apart, and grow beyond the islands', () => {
    const taken = take({ kinds: ['parts'], dilation: 3 })
    const parts = pictureOf(taken, 'parts')
    expect(atFace(parts, 0)).not.toBeCloseTo(atFace(parts, 1), 3)
    const wet = pictureOf(taken, 'wet')
    const filled = (picture: Picture) => Array.from(picture.data).filter(x => x > 0).length
    expect(filled(wet)).toBeGreaterThan(filled(pictureOf(take({ kinds: ['parts'] }), 'wet')) * 1.1)
  })

  it('name parts exactly, and never by a number between two', () => {
    const parts = pictureOf(take({ kinds: ['parts'], dilation: 6 }), 'parts')
    const keys = findParts(dense).parts.map(p => p.key)
    const names = new Set(Array.from(parts.data).filter(x => x !== 0))
    // All 24 bits of a number between 0 and 1, and the bare texels' 0.
    expect(names.size).toBe(keys.length)
    for (const x of names) expect((x * 2 ** 24) % 1).toBe(0)
  })

  it('are where the dense surface is, and tell its groups apart', () => {
    const taken = take({ kinds: ['position', 'groups'] })
    const position = pictureOf(taken, 'position')
    // Face 0 of each box looks along −X: its middle lies half the dense box's side to the left.
    const middles = [0, 1].map(box => [0, 1, 2].map(k => atFace(position, box, k)))
    expect([middles[0]![0], middles[1]![0]].map(x => Number(x!.toFixed(4)))).toEqual([-0.51, 2.48])
    // The nearest texel is not the middle itself.
    for (const [, y, z] of middles) expect(Math.hypot(y!, z!)).toBeLessThan(0.03)
    const groups = pictureOf(taken, 'groups')
    expect(atFace(groups, 0)).not.toBeCloseTo(atFace(groups, 1), 3)
  })

  it('are looked for as far as a vertex map of the light mesh says', () => {
    const narrow = withMap(light, 'reach', v => (v < 24 ? 1 : 0.1))
    const found = (cageMap?: string) =>
      takeDetail(
        texels,
        parted(narrow),
        parted(dense),
        settings({ size: 48, kinds: ['found'], ...(cageMap && { cageMap }) }),
        compressor,
      ).found
    // 5 cm reach 2 cm farther out; a tenth of it does not.
    expect([...found().missed]).toEqual([0, 0])
    const { missed, texels: all } = found('reach')
    const byBox = [0, 1].map(part => missed[part]! / all[part]!)
    expect(byBox).toEqual([0, 1])
    expect(() => found('nothing')).toThrow('The mesh has no vertex map "nothing" of one number for the cage.')
  })

  it('are looked for as far as a part says for itself', () => {
    const [first, second] = findParts(light).parts as [Part, Part]
    const reaches = (cages: TakeSettings['cages']) =>
      [...take({ kinds: ['found'], ...(cages && { cages }) }).found.missed].map(Boolean)
    // The dense boxes stand out by 1 and 2 cm.
    expect(reaches(undefined)).toEqual([false, false])
    expect(reaches({ [first.key]: { outward: 0.004, inward: 0.05 } })).toEqual([true, false])
    expect(reaches({ [second.key]: { outward: 0.015, inward: 0.05 } })).toEqual([false, true])
    const cages = { [second.key]: { outward: 0.5, inward: 0.2 } }
    expect(reachOf(parted(light), settings({ cages }))).toBeGreaterThan(2)
    const { outer, inner } = cageSurfaces(parted(light), settings({ cages }))
    const away = (ends: Float32Array, v: number) =>
      [0, 1, 2].reduce(
        (sum, k) => sum + (ends[v * 3 + k]! - light.positions[v * 3 + k]!) * light.normals[v * 3 + k]!,
        0,
      )
    expect([0, 24].map(v => away(outer, v))).toEqual([expect.closeTo(0.05, 6), expect.closeTo(0.5, 6)])
    expect([0, 24].map(v => away(inner, v))).toEqual([expect.closeTo(-0.05, 6), expect.closeTo(-0.2, 6)])
  })

  it('go to whom they were given by hand, or to nobody', () => {
    const [one, two] = findParts(dense).parts as [Part, Part]
    const [first, second] = findParts(light).parts as [Part, Part]
    const partners = (given: Given) => [...findPartners(parted(light), parted(dense), 0.5, given).partOf]
    expect(partners({})).toEqual([0, 1])
    expect(partners({ [one.key]: second.key, [two.key]: first.key })).toEqual([1, 0])
    expect(partners({ [one.key]: '' })).toEqual([-1, 1])
    // What names a part that is gone is not heeded.
    expect(partners({ [one.key]: '0123456789abcdef', ffffffffffffffff: first.key })).toEqual([0, 1])
    const taken = take({ kinds: ['found'], given: { [one.key]: '' } })
    expect([taken.alone, taken.leftOver]).toEqual([[0], 1])
  })

  it('say what there is none of', () => {
    const bare = { ...light, uvs: undefined }
    expect(() => takeDetail(texels, parted(bare), parted(dense), settings({}), compressor)).toThrow(/no UVs/)
    expect(() => take({ kinds: [], vertexMaps: [] })).toThrow('Choose what is to be taken.')
    const half = takeDetail(
      texels,
      parted(light),
      parted(boxes([{ object: 'one', at: [0, 0, 0], size: [1.02, 1.02, 1.02] }])),
      settings({ kinds: ['height', 'normal'] }),
      compressor,
    )
    expect(half.alone).toHaveLength(1)
    expect(half.found.missed[half.alone[0]!]).toBe(half.found.texels[half.alone[0]!])
    // Without a partner a part keeps its own surface.
    expect(atFace(exrPicture('n.exr', half.pictures[1]!.bytes), 1, 0)).toBe(-1)
    expect(atFace(exrPicture('h.exr', half.pictures[0]!.bytes), 1)).toBe(0)
  })
})

describe('Two meshes in space', () => {
  const box = (size: number, at = 0): Box => ({ min: [at, at, at], max: [at + size, at + size, at + size] })
  it('may be in other units, of which the usual ones are offered', () => {
    expect(otherUnits(box(2), 2 * Math.sqrt(3))).toBeUndefined()
    expect(otherUnits(box(2000), 2 * Math.sqrt(3))).toMatchObject({ factor: 0.001 })
    expect(otherUnits(box(2 / 0.3048), 2 * Math.sqrt(3))).toMatchObject({ factor: 0.3048 })
    expect(otherUnits(box(0.02), 2 * Math.sqrt(3))).toMatchObject({ factor: 100 })
    expect(otherUnits(box(16), 2 * Math.sqrt(3))).toEqual({ ratio: expect.closeTo(8, 6) })
  })
  it('may have nothing in common', () => {
    const light = box(1)
    const far = (at: number) => apart(box(1, at), light, Math.sqrt(3))
    expect([0.9, 1.05, -1.05].map(far)).toEqual([false, false, false])
    expect([1.1, -1.1].map(far)).toEqual([true, true])
  })
})

describe('Normals of a picture on a look', () => {
  // The tangent space of the square is the world's.
  const tilted = [0.6, -0.3, Math.sqrt(1 - 0.36 - 0.09)] as const
  const picture = (rgb: readonly number[]): Picture => ({
    name: 'way.exr',
    width: 1,
    height: 1,
    data: Float32Array.of(...rgb, 1),
  })
  const rises = (millimeters: number) =>
    lookOf({ g: ['positionGradient', { axis: 'X', space: 'mesh' }], f: ['finish', { heightScale: millimeters }] }, [
      'g.value > f.height',
      'f.finish > result.finish',
    ])
  const flat = lookOf({ f: ['finish'] }, ['f.finish > result.finish'])
  const named = (look: Look): Look => setParam(look, 'result', 'normals', 'way.exr')
  const points = (): SurfacePoints => {
    const one = pointSet(1)
    one.u[0] = 0.3
    one.v[0] = 0.2
    return one
  }
  const normalOf = (look: Look, rgb: readonly number[]): number[] => {
    const tables = { ...tablesOf(square), pictures: [picture(rgb)] }
    const lanes = lanesOf(LaidLook.of(kernels, tables, look), ['normal.x', 'normal.y', 'normal.z'])
    return lanes.at(points()).map(c => c[0]!)
  }
  const near = (got: number[], want: readonly number[]) => got.forEach((x, k) => expect(x).toBeCloseTo(want[k]!, 3))

  it('is what leaves where the look has no height, and the surface its own where the picture says nothing', () => {
    near(normalOf(named(flat), tilted), tilted)
    near(
      normalOf(
        named(flat),
        tilted.map(x => x * 0.8),
      ),
      tilted,
    )
    near(normalOf(named(flat), [0, 0, 0]), [0, 0, 1])
  })
  it('turns the slope of the height with it', () => {
    // A rise of one meter over one: 45 degrees about Y.
    const slope = [-Math.SQRT1_2, 0, Math.SQRT1_2]
    near(normalOf(rises(1000), [0, 0, 1]), slope)
    near(normalOf(named(rises(1000)), [0, 0, 1]), slope)
    // Turned by the rotation that takes Z to the picture's normal, by Rodrigues' formula.
    const [x, y, z] = tilted
    const sine = Math.hypot(x, y)
    const axis = [-y / sine, x / sine, 0]
    const cross = [axis[1]! * slope[2]!, -axis[0]! * slope[2]!, axis[0]! * slope[1]! - axis[1]! * slope[0]!]
    const along = axis[0]! * slope[0]! + axis[1]! * slope[1]!
    near(
      normalOf(named(rises(1000)), tilted),
      slope.map((s, k) => s * z + cross[k]! * sine + axis[k]! * along * (1 - z)),
    )
  })
  it('is what the stage shades by', () => {
    const tables = { ...tablesOf(square), pictures: [picture(tilted)] }
    const { program, normal } = withNormal(lower(named(flat), []))
    const evaluator = new LoneEvaluator(kernels, plan(program, normal), tables)
    const columns = normal.map(() => new Float32Array(1))
    evaluator.refresh(reader(named(flat)))
    evaluator.evaluate(points(), columns)
    near(
      columns.map(c => c[0]!),
      tilted,
    )
  })
  it('goes with the look as one of its pictures', () => {
    expect(picturesIn(named(flat))).toEqual(['way.exr'])
  })
})
