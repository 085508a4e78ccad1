import type { Piece } from './meshFile'

/** A list of floats that grows: a plain array of numbers would take eight bytes each and stop at 2^27. */
export class Floats {
  private data = new Float32Array(1024)
  length = 0
  push(...values: number[]): void {
    if (this.length + values.length > this.data.length) {
      const more = new Float32Array(this.data.length * 2)
      more.set(this.data)
      this.data = more
    }
    for (let i = 0; i < values.length; i++) this.data[this.length++] = values[i]!
  }
  at(i: number): number {
    return this.data[i]!
  }
  take(): Float32Array {
    return this.data.slice(0, this.length)
  }
}

interface Corner {
  key: string
  position: ArrayLike<number>
}

/**
 * Gathers the faces of one object whose corners index positions, UVs and normals apart, into vertices. Where a face has
 * no normals they are made: averaged over the faces around a place within one smoothing group, flat without one.
 */
export class PieceBuilder {
  private readonly positions = new Floats()
  private readonly uvs = new Floats()
  private readonly normals = new Floats()
  private readonly extra: Floats[]
  private readonly known = new Map<string, number>()
  /** Triangles by material: an object has one run for each. */
  private readonly lists = new Map<string, number[]>()
  private readonly made = new Set<number>()
  private hasUvs = false

  constructor(
    readonly object: number,
    private readonly maps: { name: string; components: number }[],
  ) {
    this.extra = maps.map(() => new Floats())
  }

  get empty(): boolean {
    return this.lists.size === 0
  }

  /**
   * @param key what makes the corner a vertex of its own
   */
  vertex(
    { key, position }: Corner,
    uv: readonly [number, number] | undefined,
    normal: readonly [number, number, number] | undefined,
    extra: number[][],
  ): number {
    const found = this.known.get(key)
    if (found !== undefined) return found
    const v = this.positions.length / 3
    this.known.set(key, v)
    this.positions.push(position[0]!, position[1]!, position[2]!)
    this.uvs.push(uv?.[0] ?? 0, uv?.[1] ?? 0)
    this.hasUvs ||= Boolean(uv)
    this.normals.push(...(normal ?? [0, 0, 0]))
    if (!normal) this.made.add(v)
    this.extra.forEach((list, i) => list.push(...extra[i]!))
    return v
  }

  triangles(material: string, vertices: number[]): void {
    let list = this.lists.get(material)
    if (!list) this.lists.set(material, (list = []))
    for (const v of vertices) list.push(v)
  }

  finish(): Piece {
    const positions = this.positions.take()
    const normals = this.normals.take()
    const triangles = new Uint32Array([...this.lists.values()].reduce((n, l) => n + l.length, 0))
    const runs: Piece['runs'] = []
    let at = 0
    for (const [material, list] of this.lists) {
      triangles.set(list, at)
      at += list.length
      runs.push({ material, corners: list.length })
    }
    // Area-weighted: the cross product's length is twice the area.
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3] as [number, number, number]
      const u = [0, 1, 2].map(k => positions[b + k]! - positions[a + k]!)
      const w = [0, 1, 2].map(k => positions[c + k]! - positions[a + k]!)
      const cross = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!]
      for (const v of [a, b, c]) if (this.made.has(v / 3)) for (let k = 0; k < 3; k++) normals[v + k]! += cross[k]!
    }
    return {
      object: this.object,
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
      runs,
      positions,
      normals,
      triangles,
      ...(this.hasUvs && { uvs: this.uvs.take() }),
      maps: new Map(this.maps.map(({ name, components }, i) => [name, { components, values: this.extra[i]!.take() }])),
    }
  }
}
