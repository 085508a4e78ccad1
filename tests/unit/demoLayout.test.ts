import { describe, expect, test } from 'vitest'
import { DEMOS } from '../../demo'
import type { Mesh } from '../../core/mesh/mesh'

type Vector = [number, number, number]
const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]

/** How much of the UV square a meter is in the direction in which a triangle has least of it, and its area. */
function leastDensity({ positions, uvs, indices }: Mesh, t: number): { density: number; area: number; inUv: number } {
  const [a, b, c] = [indices[t * 3]!, indices[t * 3 + 1]!, indices[t * 3 + 2]!]
  const side = (to: number): Vector => [0, 1, 2].map(k => positions[to * 3 + k]! - positions[a * 3 + k]!) as Vector
  const inUv = (to: number, k: number): number => uvs![to * 2 + k]! - uvs![a * 2 + k]!
  const first = side(b)
  const second = side(c)
  const length = Math.sqrt(dot(first, first))
  const slope = dot(first, second) / length
  const height = Math.sqrt(dot(cross(first, second), cross(first, second))) / length
  // The map from the plane of the triangle to the UV square; its smaller singular value is what is asked for.
  const across = [inUv(b, 0) / length, inUv(b, 1) / length] as const
  const up = [(inUv(c, 0) - across[0] * slope) / height, (inUv(c, 1) - across[1] * slope) / height] as const
  const squares = across[0] ** 2 + across[1] ** 2 + up[0] ** 2 + up[1] ** 2
  const determinant = across[0] * up[1] - across[1] * up[0]
  const density = Math.sqrt((squares - Math.sqrt(Math.max(0, squares ** 2 - 4 * determinant ** 2))) / 2)
  return { density, area: (length * height) / 2, inUv: Math.abs((determinant * length * height) / 2) }
}

describe.each(DEMOS)('$title', ({ make }) => {
  const { mesh } = make()

  test('has about as many texels to a meter everywhere, in every direction', () => {
    const triangles = Array.from({ length: mesh.indices.length / 3 }, (_, t) => leastDensity(mesh, t))
    const known = triangles.filter(t => t.area > 0).sort((a, b) => a.density - b.density)
    const area = known.reduce((sum, t) => sum + t.area, 0)
    const mean = Math.sqrt(known.reduce((sum, t) => sum + t.inUv, 0) / area)
    let sum = 0
    const hundredth = known.find(t => (sum += t.area) >= area / 100)!
    expect(hundredth.density / mean).toBeGreaterThan(0.5)
  })

  test('fills half of its tiles of the UV square, and lies inside of them', () => {
    const { uvs, indices } = mesh
    const tiles = Math.floor(Math.max(...uvs!.filter((_, i) => i % 2 === 0))) + 1
    let filled = 0
    let outside = 0
    for (let t = 0; t < indices.length; t += 3) {
      const corners = [0, 1, 2].map(k => [uvs![indices[t + k]! * 2]!, uvs![indices[t + k]! * 2 + 1]!] as const)
      const [p, q, r] = corners as [readonly [number, number], readonly [number, number], readonly [number, number]]
      const isInside = ([u, v]: readonly [number, number]): boolean =>
        u % 1 > 0 && Math.floor(u) === Math.floor(p[0]) && v > 0 && v < 1
      if (!corners.every(isInside)) outside++
      filled += Math.abs((q[0] - p[0]) * (r[1] - p[1]) - (r[0] - p[0]) * (q[1] - p[1])) / 2
    }
    expect(outside).toBe(0)
    expect(filled / tiles).toBeGreaterThan(0.5)
    expect(filled / tiles).toBeLessThan(1)
  })
})
