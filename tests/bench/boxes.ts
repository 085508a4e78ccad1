import type { Mesh } from '../../core/mesh/mesh'

/** Boxes of twelve triangles with a gap between them, a hundred in an object. */
export function boxesOf(count: number): Mesh {
  const side = Math.ceil(Math.cbrt(count))
  const positions = new Float32Array(count * 24 * 3)
  const normals = new Float32Array(count * 24 * 3)
  const indices = new Uint32Array(count * 36)
  let v = 0
  let k = 0
  for (let n = 0; n < count; n++) {
    const at = [n % side, Math.floor(n / side) % side, Math.floor(n / side / side)].map(x => x * 0.3) as [
      number,
      number,
      number,
    ]
    const half = 0.06 + 0.04 * ((n * 0.618) % 1)
    for (let face = 0; face < 6; face++) {
      const axis = face >> 1
      const sign = face & 1 ? 1 : -1
      indices.set([v, v + 1, v + 2, v, v + 2, v + 3], k)
      k += 6
      for (const [s, t] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const) {
        const p = [0, 0, 0]
        p[axis] = sign
        normals.set(p, v * 3)
        p[(axis + 1) % 3] = s * sign
        p[(axis + 2) % 3] = t
        positions.set(
          p.map((x, i) => at[i]! + x * half),
          v * 3,
        )
        v++
      }
    }
  }
  const objects = Array.from({ length: Math.ceil(count / 100) }, (_, o) => {
    const own = Math.min(100, count - o * 100)
    return {
      name: `crate ${o}`,
      firstVertex: o * 2400,
      vertices: own * 24,
      firstTriangle: o * 1200,
      triangles: own * 12,
    }
  })
  return {
    positions,
    normals,
    indices,
    maps: [],
    materials: [{ name: 'plain', firstTriangle: 0, triangles: count * 12 }],
    warnings: [],
    objects,
  }
}
