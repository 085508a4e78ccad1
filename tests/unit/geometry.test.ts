import fc from 'fast-check'
import { DoubleSide, FrontSide, Ray, Vector3, type Side } from 'three'
import { describe, expect, it } from 'vitest'
import { computeMap } from '#core/geometry/compute'
import { Geometry } from '#core/geometry/geometry'
import { standOut } from '#core/geometry/curvature'
import { castOcclusion, castThickness, RayScene, type RayPoints } from '#core/geometry/rays'
import { RayTree } from '#core/geometry/rayTree'
import { refine } from '#core/geometry/refine'
import type { MapSettings } from '#core/geometry/maps'
import { measureParts } from '#core/mesh/measures'
import { triangleAreas, type Mesh } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { bar, grid, ring } from '../../demo/shapes'
import { ball, boxes, meshOf, row } from '../helpers'
import { packageTree } from '../packageTree'

const geometryOf = (mesh: Mesh, edge?: number) => {
  const parts = findParts(mesh)
  const fine = edge ? refine(mesh, parts, edge) : { mesh, parts }
  return new Geometry(fine.mesh, fine.parts)
}
const mean = (x: ArrayLike<number>) => Array.from(x).reduce((s, v) => s + v, 0) / x.length
const at = (g: Geometry, v: number) =>
  Array.from(g.surface.positions.subarray(v * 3, v * 3 + 3)) as [number, number, number]
const vertices = (g: Geometry, where: (p: [number, number, number]) => boolean) =>
  [...Array(g.surface.count).keys()].filter(v => where(at(g, v)))

describe('the analysis mesh', () => {
  const mesh = boxes([
    { object: 'a', at: [0, 0, 0], size: [1, 2, 3] },
    { object: 'b', at: [5, 0, 0] },
  ])
  mesh.maps.push({ name: 'x', components: 1, values: mesh.positions.filter((_, i) => i % 3 === 0) })
  const parts = findParts(mesh)
  const fine = refine(mesh, parts, 0.25)

  it('has short edges, the same area, the same parts and no cracks', () => {
    const { positions: p, indices } = fine.mesh
    for (let i = 0; i < indices.length; i++) {
      const a = indices[i]! * 3
      const b = indices[i % 3 === 2 ? i - 2 : i + 1]! * 3
      expect(Math.hypot(p[a]! - p[b]!, p[a + 1]! - p[b + 1]!, p[a + 2]! - p[b + 2]!)).toBeLessThanOrEqual(0.2501)
    }
    expect(triangleAreas(fine.mesh).reduce((s, x) => s + x, 0)).toBeCloseTo(22 + 6, 4)
    const again = findParts(fine.mesh)
    expect(again.parts.map(p => p.key)).toEqual(parts.parts.map(p => p.key))
    expect(Array.from(fine.parts.partOfTriangle)).toEqual(Array.from(again.partOfTriangle))
    expect(new Geometry(fine.mesh, fine.parts).surface.edges.count.every(n => n === 2)).toBe(true)
  })
  it('carries normals, UVs, maps and materials along', () => {
    const { mesh: m } = fine
    const map = m.maps[0]!.values
    for (let v = 0; v < map.length; v++) expect(map[v]).toBeCloseTo(m.positions[v * 3]!, 5)
    for (let v = 0; v < map.length; v++)
      expect(Math.hypot(m.normals[v * 3]!, m.normals[v * 3 + 1]!, m.normals[v * 3 + 2]!)).toBeCloseTo(1, 5)
    expect(m.uvs!.length).toBe(map.length * 2)
    expect(m.materials).toEqual([{ name: 'plain', firstTriangle: 0, triangles: m.indices.length / 3 }])
    expect(m.objects.reduce((n, o) => n + o.triangles, 0)).toBe(m.indices.length / 3)
  })
  it('splits each of thousands of edges that meet at one vertex at its own middle', () => {
    const rim = 3000
    const at = (i: number): number[] => [Math.cos((i / rim) * 2 * Math.PI), Math.sin((i / rim) * 2 * Math.PI), 0]
    const fan: Mesh = {
      ...mesh,
      positions: Float32Array.from([0, 0, 0, ...Array.from({ length: rim }, (_, i) => at(i)).flat()]),
      normals: Float32Array.from({ length: (rim + 1) * 3 }, (_, i) => Number(i % 3 === 2)),
      uvs: undefined,
      indices: Uint32Array.from(Array.from({ length: rim }, (_, i) => [0, i + 1, ((i + 1) % rim) + 1]).flat()),
      objects: [{ name: 'fan', firstVertex: 0, vertices: rim + 1, firstTriangle: 0, triangles: rim }],
      materials: [],
      maps: [],
    }
    const { positions } = refine(fan, findParts(fan), 0.6).mesh
    const middles = positions.subarray((rim + 1) * 3)
    expect(middles).toHaveLength(rim * 3)
    for (let i = 0; i < middles.length; i += 3) expect(Math.hypot(middles[i]!, middles[i + 1]!)).toBeCloseTo(0.5, 6)
    expect(new Set(Array.from({ length: rim }, (_, i) => middles.slice(i * 3, i * 3 + 2).join())).size).toBe(rim)
  })
  it('stops at a limit and says so', () => expect(refine(mesh, parts, 0.01, 500).complete).toBe(false))
})

describe('standing out', () => {
  const valuesOf = (g: Geometry, ...radii: number[]) => standOut(g.surface, g.stiffness, radii).values

  it("is 2q / (1 + q²) all over a sphere, q being radius over the sphere's", () => {
    const g = geometryOf(meshOf(ball(0.5, 64, 48)))
    const [small, large] = valuesOf(g, 0.05, 0.2)
    for (const [values, q] of [
      [small!, 0.1],
      [large!, 0.4],
    ] as const) {
      const should = (2 * q) / (1 + q * q)
      const off = vertices(g, p => Math.abs(p[1]) < 0.45).map(v => Math.abs(values[v]! - should) / should)
      expect(Math.max(...off)).toBeLessThan(0.05)
    }
  })
  it('is twice the mean curvature times the radius on a torus, negative where it is inside a tight hole', () => {
    // Outer equator H = (1/a + 1/(R + a)) / 2, inner H = (1/a − 1/(R − a)) / 2 with R = 1, a = 0.6: 1.146 and −0.417.
    const g = geometryOf(meshOf(ring(160, 96, 1, () => 0.6)))
    const [values] = valuesOf(g, 0.04)
    const outer = vertices(g, p => Math.hypot(p[0], p[2]) > 1.599)
    const inner = vertices(g, p => Math.hypot(p[0], p[2]) < 0.401)
    expect(mean(outer.map(v => values![v]!))).toBeCloseTo(0.04 * (1 / 0.6 + 1 / 1.6), 2)
    expect(mean(inner.map(v => values![v]!))).toBeCloseTo(0.04 * (1 / 0.6 - 1 / 0.4), 2)
    expect(mean(inner.map(v => values![v]!))).toBeLessThan(-0.02)
  })
  it('is 1 on a straight right-angled edge, and 0 on its faces', () => {
    const g = geometryOf(row(1), 0.04)
    const [values] = valuesOf(g, 0.1)
    const edge = vertices(g, p => p[0] > 0.499 && p[1] > 0.499 && Math.abs(p[2]) < 0.2)
    const face = vertices(g, p => p[0] > 0.499 && Math.abs(p[1]) < 0.1 && Math.abs(p[2]) < 0.1)
    expect(mean(edge.map(v => values![v]!))).toBeCloseTo(1, 1)
    expect(Math.max(...face.map(v => Math.abs(values![v]!)))).toBeLessThan(0.05)
  })
  it('finds a rounded edge at radii about its size, and calls the inside of the same box hollow', () => {
    const shape = bar(1, 1, 1, 0.1)
    const mesh = meshOf(shape)
    const inside: Mesh = { ...mesh, indices: mesh.indices.slice().reverse(), normals: mesh.normals.map(x => -x) }
    const out = geometryOf(mesh, 0.04)
    const hollow = geometryOf(inside, 0.04)
    const onEdge = (p: [number, number, number]) => p[0] > 0.45 && p[2] > 0.45 && Math.abs(p[1] - 0.5) < 0.2
    const [fine, broad] = valuesOf(out, 0.05, 0.2)
    const [inner] = valuesOf(hollow, 0.05)
    const edge = mean(vertices(out, onEdge).map(v => fine![v]!))
    const wide = mean(vertices(out, onEdge).map(v => broad![v]!))
    // A quarter cylinder of radius 0.1: mean curvature 5, so twice that times 0.05 is 0.5; wider, it nears the sharp
    // edge's 1.
    expect(edge).toBeGreaterThan(0.3)
    expect(edge).toBeLessThan(0.55)
    expect(wide).toBeGreaterThan(edge)
    expect(mean(vertices(hollow, onEdge).map(v => inner![v]!))).toBeCloseTo(-edge, 1)
    expect(
      Math.abs(
        mean(
          vertices(out, p => p[0] > 0.499 && Math.abs(p[2]) < 0.1 && Math.abs(p[1] - 0.5) < 0.1).map(v => fine![v]!),
        ),
      ),
    ).toBeLessThan(0.03)
  })
  it('is of a small part what it is where the part is alone, whatever else there is', () => {
    const small = ring(80, 48, 0.1, () => 0.06)
    const alone = geometryOf(meshOf(small))
    const mesh = meshOf(small, bar(9, 9, 9, 1))
    const large = mesh.objects[1]!.firstVertex * 3
    const together = geometryOf({ ...mesh, positions: mesh.positions.map((x, i) => (i < large ? x : x + 50)) })
    const [own] = valuesOf(alone, 0.05)
    const [values] = valuesOf(together, 0.05)
    const placeOf = (g: Geometry, v: number): string => String(at(g, v).map(x => x.toFixed(5)))
    const byPlace = new Map(vertices(alone, () => true).map(v => [placeOf(alone, v), own![v]!]))
    const theirs = vertices(together, p => p[0] < 1)
    expect(theirs).toHaveLength(alone.surface.count)
    expect(Math.max(...theirs.map(v => Math.abs(values![v]! - byPlace.get(placeOf(together, v))!)))).toBeLessThan(1e-5)
  })
  it('is what many plain sweeps come to, at every radius of a list, in few passes over the surface', () => {
    const g = geometryOf(row(1), 0.1)
    const { starts, neighbors, weights, diagonal, mass } = g.stiffness
    const { count, positions: p, normals } = g.surface
    const radii = [0.06, 0.15]
    const { values, steps } = standOut(g.surface, g.stiffness, radii)
    radii.forEach((radius, index) => {
      // (M + tL) p' = Mp by Gauss and Seidel.
      const t = radius ** 2 / 2
      const smooth = p.slice()
      for (let sweep = 0; sweep < 400; sweep++)
        for (let i = 0; i < count; i++)
          for (let c = 0; c < 3; c++) {
            let sum = mass[i]! * p[i * 3 + c]!
            for (let k = starts[i]!; k < starts[i + 1]!; k++) sum += t * weights[k]! * smooth[neighbors[k]! * 3 + c]!
            smooth[i * 3 + c] = sum / (mass[i]! + t * diagonal[i]!)
          }
      const along = (i: number): number =>
        [0, 1, 2].reduce((s, c) => s + (p[i * 3 + c]! - smooth[i * 3 + c]!) * normals[i * 3 + c]!, 0)
      const off = vertices(g, () => true).map(i => Math.abs(values[index]![i]! - (along(i) * 2) / radius))
      expect(Math.max(...off)).toBeLessThan(0.004)
    })
    // With nothing but the diagonal to go by it took 8 and 17.
    expect(steps[0]).toBeLessThan(6)
    expect(steps[1]).toBeLessThan(11)
  })
  it('makes maps of 0 to 1 that are equal on both sides of a UV seam', () => {
    const g = geometryOf(row(1), 0.1)
    const convex = computeMap(g, { kind: 'convexity', name: 'c', radius: 0.1 })!
    const concave = computeMap(g, { kind: 'concavity', name: 'c', radius: 0.1 })!
    const byPlace = new Map<string, number>()
    convex.values.forEach((x, v) => {
      const place = Array.from(g.mesh.positions.slice(v * 3, v * 3 + 3)).join()
      expect(byPlace.get(place) ?? x).toBe(x)
      byPlace.set(place, x)
    })
    expect(Math.max(...convex.values)).toBeLessThanOrEqual(1)
    expect(Math.max(...concave.values)).toBeLessThan(0.02)
  })
  it('is found once for the edges and the hollows of a radius, and neither is other than alone', () => {
    const mapOf = (g: Geometry, kind: 'convexity' | 'concavity', radius: number) => {
      let told = 0
      const map = computeMap(g, { kind, name: kind, radius }, { progress: () => void told++ })!
      return { map, told }
    }
    const mesh = row(2)
    const shared = geometryOf(mesh, 0.1)
    // Of a torus both are something, above and below.
    const round = geometryOf(meshOf(ring(60, 36, 1, () => 0.6)))
    for (const g of [shared, round])
      for (const radius of [0.1, 0.2]) {
        const alone = (kind: 'convexity' | 'concavity') => mapOf(new Geometry(g.mesh, g.parts), kind, radius).map
        const edges = mapOf(g, 'convexity', radius)
        const hollows = mapOf(g, 'concavity', radius)
        expect(edges.told).toBeGreaterThan(0)
        expect(hollows.told).toBe(0)
        expect([edges.map, hollows.map]).toEqual([alone('convexity'), alone('concavity')])
      }
    expect(Math.max(...mapOf(round, 'concavity', 0.2).map.values)).toBeGreaterThan(0.1)
    // What was stopped is not taken for the whole.
    const stopped = geometryOf(mesh, 0.1)
    expect(stopped.standingOut(0.1, undefined, () => true)).toBeUndefined()
    expect(computeMap(stopped, { kind: 'convexity', name: 'convexity', radius: 0.1 })).toEqual(
      mapOf(shared, 'convexity', 0.1).map,
    )
  })
  it('is nothing far from every edge, not less and less without end', () => {
    const g = geometryOf(row(1), 0.05)
    const { values } = computeMap(g, { kind: 'convexity', name: 'c', radius: 0.02 })!
    expect(values.filter(x => x === 0).length).toBeGreaterThan(values.length / 4)
    expect(values.filter(x => x > 0 && x < 1e-6)).toHaveLength(0)
  })
})

describe('rays', () => {
  const points = (list: [position: number[], normal: number[]][]): RayPoints => ({
    positions: Float64Array.from(list.flatMap(l => l[0])),
    normals: Float64Array.from(list.flatMap(l => l[1])),
    part: new Uint32Array(list.length),
  })
  const sceneOf = (mesh: Mesh, part?: number) => {
    const parts = findParts(mesh)
    return new RayScene(
      mesh.positions,
      mesh.indices,
      part === undefined ? parts.partOfTriangle : parts.partOfTriangle.map(() => part),
      parts.parts.length,
    )
  }
  const occlusion = (scene: RayScene, at: RayPoints, distance: number, rays = 2048, among: 'all' | 'part' = 'all') => {
    const sums = new Float32Array(at.part.length)
    castOcclusion(scene, at, { distance, among }, { from: 0, to: sums.length, first: 0, last: rays }, sums)
    return Array.from(sums, s => s / rays)
  }

  // Whole numbers on purpose: corners, edges and sides of boxes are met exactly, and rays run in the planes of them.
  const coarse: fc.Arbitrary<number> = fc.constantFrom(-3, -2, -1, -0, 0, 1, 2, 3)
  const place = fc.tuple(coarse, coarse, coarse)
  const fine = fc.integer({ min: -3000, max: 3000 }).map(x => x / 1000)
  const anyPlace = fc.oneof(place, fc.tuple(fine, fine, fine))
  /** Our tree of triangles whose corners are laid end to end, and the package's. */
  const treesOf = (corners: readonly number[][], keep: boolean) => {
    const positions = Float32Array.from(corners.flat())
    const indices = Uint32Array.from({ length: corners.length - (corners.length % 3) }, (_, i) => i)
    return { theirs: packageTree(positions, indices, keep), ours: new RayTree(positions, indices, { keep }) }
  }
  it('meet the same triangles at the same places as the package that built the tree finds', () => {
    let met = 0
    fc.assert(
      fc.property(
        fc.array(anyPlace, { minLength: 3, maxLength: 300, size: 'max' }),
        fc.array(fc.tuple(anyPlace, anyPlace), { minLength: 20, maxLength: 20 }),
        fc.constantFrom(0.5, 2, Infinity),
        fc.boolean(),
        (corners, rays, far, keep) => {
          const { ours, theirs } = treesOf(corners, keep)
          for (const [from, along] of rays) {
            const ray = new Ray(new Vector3(...from), new Vector3(...along))
            // The package measures its reach in lengths of the direction for boxes, in meters for triangles: so all.
            const nearest = (side: Side) => {
              const hit = theirs.raycastFirst(ray, side, 0, Infinity)
              return hit && hit.distance <= far ? hit : null
            }
            // A corner on which a ray begins is not always seen by the package.
            if (ours.first(...from, ...along, far) >= 0 && ours.distance === 0) continue
            expect(ours.meets(...from, ...along, far)).toBe(nearest(DoubleSide) !== null)
            for (const side of [DoubleSide, FrontSide] as const) {
              const hit = nearest(side)
              const triangle = ours.first(...from, ...along, far, side === FrontSide)
              expect(triangle >= 0).toBe(hit !== null)
              if (!hit) continue
              met++
              expect(ours.distance).toBe(hit.distance)
              // Of several equally near ones either may be named.
              if (triangle === hit.faceIndex) expect([...ours.place]).toEqual(hit.point.toArray())
            }
          }
        },
      ),
      { numRuns: 200 },
    )
    expect(met).toBeGreaterThan(1000)
  })
  it('find the triangle that is nearest to a place, where the package finds it, and none beyond their reach', () => {
    let found = 0
    fc.assert(
      fc.property(
        fc.array(anyPlace, { minLength: 3, maxLength: 300, size: 'max' }),
        fc.array(anyPlace, { minLength: 20, maxLength: 20 }),
        fc.constantFrom(0.5, 2, Infinity),
        fc.boolean(),
        (corners, places, far, keep) => {
          // Triangles with two corners in one place come, too.
          const { ours, theirs } = treesOf(
            corners.flatMap((c, i) => (i % 7 ? [c] : [c, c])),
            keep,
          )
          for (const at of places) {
            const hit = theirs.closestPointToPoint(new Vector3(...at))!
            const triangle = ours.nearest(...at, far)
            // At the very end of their reach a root may be rounded either way.
            if (Math.abs(hit.distance - far) < 1e-9) continue
            expect(triangle >= 0).toBe(hit.distance < far)
            if (triangle < 0) continue
            found++
            expect([triangle, ours.distance, ...ours.place]).toEqual([
              hit.faceIndex,
              hit.distance,
              ...hit.point.toArray(),
            ])
          }
        },
      ),
      { numRuns: 200 },
    )
    expect(found).toBeGreaterThan(1000)
  })
  it('far from the origin, in the planes of boxes and on edges too, meet something where there is a first', () => {
    let met = 0
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 120, maxLength: 300, size: 'max' }),
        fc.array(fc.tuple(place, place), { minLength: 20, maxLength: 20 }),
        fc.constantFrom(0, 1, 1000, 123456),
        fc.constantFrom(1 / 64, 1 / 3, 5),
        fc.constantFrom(0.01, 2, Infinity),
        (corners, rays, away, size, far) => {
          const there = (x: number): number => away + x * size
          const positions = Float32Array.from(corners.flat(), there)
          const tree = new RayTree(
            positions,
            Uint32Array.from({ length: 3 * Math.floor(corners.length / 3) }, (_, i) => i),
            {},
          )
          for (const [[x, y, z], [dx, dy, dz]] of rays) {
            const ray: Parameters<RayTree['meets']> = [there(x), there(y), there(z), dx, dy, dz, far * size]
            const first = tree.first(...ray) >= 0
            if (first) met++
            expect(tree.meets(...ray)).toBe(first)
          }
        },
      ),
      { numRuns: 200 },
    )
    expect(met).toBeGreaterThan(1000)
  })
  it('are met by a ray in a plane through the origin, on either hand of it and in either sense', () => {
    for (let axis = 0; axis < 3; axis++) {
      /** A place by how far it is along the axis, along the next one and along the last. */
      const turned = (a: number, b: number, c: number): [number, number, number] => {
        const at: [number, number, number] = [0, 0, 0]
        at[axis] = a
        at[(axis + 1) % 3] = b
        at[(axis + 2) % 3] = c
        return at
      }
      for (const hand of [-1, 1]) {
        // Triangles that reach up to the plane with one edge; enough of them for a tree with boxes to pass over.
        const corners = Array.from({ length: 12 }, (_, i) => [
          turned(0, 5 + i, -1),
          turned(0, 5 + i, 1),
          turned(hand, 5 + i, 0),
        ]).flat(2)
        const positions = Float32Array.from(corners)
        const tree = new RayTree(
          positions,
          Uint32Array.from({ length: 36 }, (_, i) => i),
          {},
        )
        for (const none of [0, -0])
          expect(tree.meets(...turned(0, 0, 0), ...turned(none, 1, 0), 100), `${axis} ${hand} ${1 / none}`).toBe(true)
      }
    }
  })
  it('are met as near as they are by a ray whose direction is short', () => {
    // Twelve triangles across the way, so that the tree has boxes to pass over.
    const across = (z: number) => [0, 0, z, 4, 0, z, 0, 4, z]
    const tree = new RayTree(
      Float32Array.from([0.5, 1, 1.5, 2, 5, 6, 7, 8, 9, 10, 11, 12].flatMap(across)),
      Uint32Array.from({ length: 36 }, (_, i) => i),
      { keep: true },
    )
    for (const length of [1e-3, 0.1, 1, 30]) {
      expect([tree.first(1, 1, 0, 0, 0, length, 20), tree.distance], `${length}`).toEqual([0, 0.5])
      expect([tree.first(1, 1, 13, 0, 0, -length, 20), tree.distance], `${length}`).toEqual([11, 1])
      expect(tree.meets(1, 1, 3, 0, 0, length, 2.5)).toBe(true)
      expect(tree.meets(1, 1, 3, 0, 0, length, 1.5)).toBe(false)
    }
  })
  it('see the front of a triangle only where that is asked for, and nothing beyond their reach', () => {
    const tree = new RayTree(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), Uint32Array.of(0, 1, 2), {})
    expect([tree.first(0.2, 0.3, 1, 0, 0, -1, 2, true), tree.distance, ...tree.place]).toEqual([0, 1, 0.2, 0.3, 0])
    expect(tree.first(0.2, 0.3, -1, 0, 0, 1, 2, true)).toBe(-1)
    expect(tree.first(0.2, 0.3, -1, 0, 0, 1, 2)).toBe(0)
    expect([tree.meets(0.2, 0.3, -1, 0, 0, 1, 1.01), tree.meets(0.2, 0.3, -1, 0, 0, 1, 0.99)]).toEqual([true, false])
    expect(tree.meets(0.8, 0.3, -1, 0, 0, 1, 9)).toBe(false)
  })
  it('in a right-angled corner cover (1 − x / √(x² + h²)) / 2 of the sky at x from a wall of height h', () => {
    const h = 1
    const wall = grid(1, 1, (u, v) => [0, (1 - v) * h, (0.5 - u) * 400])
    const scene = sceneOf(meshOf(wall))
    const ways = [0.05, 0.3, 1, 3]
    const found = occlusion(
      scene,
      points(
        ways.map(x => [
          [x, 0, 0],
          [0, 1, 0],
        ]),
      ),
      1000,
    )
    ways.forEach((x, i) => expect(found[i]).toBeCloseTo((1 - x / Math.hypot(x, h)) / 2, 2))
  })
  it('under a hemisphere with a round hole of half-angle a cover cos² a, and nothing that is farther than the distance', () => {
    const hole = (40 * Math.PI) / 180
    const dome = grid(96, 64, (u, v) => {
      const tilt = hole + v * (Math.PI / 2 - hole)
      const a = u * 2 * Math.PI
      return [2 * Math.sin(tilt) * Math.cos(a), 2 * Math.cos(tilt), 2 * Math.sin(tilt) * Math.sin(a)]
    })
    const scene = sceneOf(meshOf(dome))
    const foot = points([
      [
        [0, 0, 0],
        [0, 1, 0],
      ],
    ])
    expect(occlusion(scene, foot, 5)[0]).toBeCloseTo(Math.cos(hole) ** 2, 2)
    expect(occlusion(scene, foot, 1.9)[0]).toBe(0)
  })
  it('under a ball of radius r whose middle is h above cover (r / h)²', () => {
    const scene = sceneOf(meshOf(ball(0.5, 96, 64)))
    const foot = points([
      [
        [0, -1.25, 0],
        [0, 1, 0],
      ],
    ])
    expect(occlusion(scene, foot, 10)[0]).toBeCloseTo((0.5 / 1.25) ** 2, 2)
  })
  it('see only their own part where that is asked for', () => {
    const g = geometryOf(row(2), 0.3)
    const all = computeMap(g, { kind: 'occlusion', name: 'o', distance: 5, among: 'all', rays: 256 })!
    const own = computeMap(g, { kind: 'occlusion', name: 'o', distance: 5, among: 'part', rays: 256 })!
    expect(Math.max(...own.values)).toBeLessThan(0.02)
    // Between the boxes, a square meter across a gap of one meter: Siegel and Howell, configuration C-11, 0.2 overall;
    // 0.24 in the middle.
    const middle = vertices(g, p => Math.abs(p[0] - 0.5) < 1e-3 && Math.hypot(p[1], p[2]) < 0.05).map(v =>
      g.surface.of.indexOf(v),
    )
    for (const v of middle) expect(all.values[v]).toBeCloseTo(0.2394, 1)
  })
  it('cast in rounds give what they give at once', () => {
    const scene = sceneOf(meshOf(ball(0.5)))
    const at = points([
      [
        [0, -0.9, 0],
        [0, 1, 0],
      ],
      [
        [0.4, -0.9, 0],
        [0, 1, 0],
      ],
    ])
    const once = new Float32Array(2)
    const twice = new Float32Array(2)
    const settings = { distance: 3, among: 'all' } as const
    castOcclusion(scene, at, settings, { from: 0, to: 2, first: 0, last: 100 }, once)
    castOcclusion(scene, at, settings, { from: 0, to: 2, first: 0, last: 30 }, twice)
    castOcclusion(scene, at, settings, { from: 0, to: 1, first: 30, last: 100 }, twice)
    castOcclusion(scene, at, settings, { from: 1, to: 2, first: 30, last: 100 }, twice)
    expect(Array.from(twice)).toEqual(Array.from(once))
  })
  it('measure the thickness of a slab', () => {
    const mesh = boxes([{ object: 'slab', at: [0, 0, 0], size: [2, 0.1, 2] }])
    const scene = sceneOf(mesh)
    const sums = new Float32Array(1)
    castThickness(
      scene,
      points([
        [
          [0.1, 0.05, 0.2],
          [0, 1, 0],
        ],
      ]),
      { distance: 0.25 },
      { from: 0, to: 1, first: 0, last: 64 },
      sums,
    )
    expect(sums[0]! / 64).toBeCloseTo(0.4, 3)
  })
})

describe('places', () => {
  const g = geometryOf(
    boxes([
      { object: 'a', at: [0, 0, 0], size: [1, 1, 1] },
      { object: 'a', at: [3, 0, 0], size: [1, 1, 1] },
    ]),
    0.3,
  )
  const map = (settings: MapSettings, geometry = g) => computeMap(geometry, settings)!.values
  const x = (v: number) => g.mesh.positions[v * 3]!

  it('face a direction', () =>
    map({ kind: 'facing', name: 'f', direction: [0, 2, 0] }).forEach((f, v) =>
      expect(f).toBeCloseTo(0.5 + g.mesh.normals[v * 3 + 1]! / 2, 5),
    ))
  it('lie in the box of the mesh, and of each part', () => {
    const world = map({ kind: 'position', name: 'p', space: 'world' })
    const part = map({ kind: 'position', name: 'p', space: 'part' })
    for (let v = 0; v < g.mesh.positions.length / 3; v++) {
      expect(world[v * 3]).toBeCloseTo((x(v) + 0.5) / 4, 5)
      expect(part[v * 3]).toBeCloseTo(x(v) > 1 ? x(v) - 2.5 : x(v) + 0.5, 5)
    }
  })
  it("run along, across and around a part's longest axis", () => {
    const rod = geometryOf(meshOf(bar(0.1, 0.1, 1, 0.01)), 0.05)
    const axis = map({ kind: 'axis', name: 'a' }, rod)
    for (let v = 0; v < rod.mesh.positions.length / 3; v++) {
      const [px, py, pz] = rod.mesh.positions.slice(v * 3, v * 3 + 3)
      expect(axis[v * 3]).toBeCloseTo(py!, 2)
      expect(axis[v * 3 + 1]! * 0.0636).toBeCloseTo(Math.hypot(px!, pz!), 2)
      // A whole turn, from the first direction across: here x, and then toward -z.
      if (Math.hypot(px!, pz!) < 0.03) continue
      const turned = Math.atan2(-pz!, px!) / (2 * Math.PI) - axis[v * 3 + 2]!
      expect(Math.abs(turned - Math.round(turned))).toBeLessThan(0.002)
    }
  })
  it('are as far from an open border as the way is long', () => {
    const sheet = geometryOf(meshOf(grid(40, 40, (u, v) => [u - 0.5, 0, v - 0.5])))
    const way = map({ kind: 'border', name: 'b', distance: 1 }, sheet)
    for (let v = 0; v < way.length; v++) {
      const [px, , pz] = sheet.mesh.positions.slice(v * 3, v * 3 + 3)
      expect(way[v]).toBeCloseTo(Math.min(0.5 - Math.abs(px!), 0.5 - Math.abs(pz!)), 2)
    }
  })
  it('are as far from another part as it is away', () => {
    const way = map({ kind: 'contact', name: 'c', distance: 4 })
    for (let v = 0; v < way.length; v++) expect(way[v]! * 4).toBeCloseTo(x(v) > 1 ? x(v) - 0.5 : 2.5 - x(v), 4)
  })
  it('stop when asked to', () =>
    expect(
      computeMap(g, { kind: 'occlusion', name: 'o', distance: 1, among: 'all', rays: 64 }, { stopped: () => true }),
    ).toBeUndefined())
})

describe('measures', () => {
  it('know the volume and area of solids', () => {
    const mesh = meshOf(
      ball(0.5, 128, 96),
      ring(128, 64, 2, () => 0.3),
    )
    const parts = findParts(mesh)
    const m = measureParts(mesh, parts)
    const sphere = m.volume[0]! < m.volume[1]! ? 0 : 1
    const torus = 1 - sphere
    expect(m.volume[sphere]).toBeCloseTo((4 / 3) * Math.PI * 0.125, 2)
    expect(m.area[sphere]).toBeCloseTo(Math.PI, 2)
    expect(m.volume[torus]! / (2 * Math.PI ** 2 * 2 * 0.09)).toBeCloseTo(1, 2)
    expect(m.area[torus]! / (4 * Math.PI ** 2 * 2 * 0.3)).toBeCloseTo(1, 2)
  })
  it("give sides along a part's own axes, however it is turned", () => {
    const turn = (p: Float32Array) => {
      const out = new Float32Array(p.length)
      const [c, s] = [Math.cos(0.7), Math.sin(0.7)]
      for (let i = 0; i < p.length; i += 3) {
        const x = c * p[i]! - s * p[i + 1]!
        const y = s * p[i]! + c * p[i + 1]!
        out.set([x, c * y - s * p[i + 2]!, s * y + c * p[i + 2]!], i)
      }
      return out
    }
    const plain = boxes([{ object: 'plank', at: [1, 2, 3], size: [3, 1, 0.1] }])
    const mesh = { ...plain, positions: turn(plain.positions) }
    const m = measureParts(mesh, findParts(mesh))
    expect([m.length[0], m.width[0], m.thickness[0]].map(x => Number(x!.toFixed(3)))).toEqual([3, 1, 0.1])
    expect(m.flatness[0]).toBeCloseTo(0.9, 3)
    expect(m.volume[0]).toBeCloseTo(0.3, 4)
  })
})
