import { GROUP_MAP, triangleCross } from '../mesh/mesh'
import { Growing, RowNumbers } from '../mesh/growing'
import { IDENTITY, type Piece } from './meshFile'

/** What faces point into: three numbers to a position, a normal and a color, two to a UV; a color to each position. */
export interface CornerLists {
  positions: Growing<Float32Array>
  uvs: Growing<Float32Array>
  normals: Growing<Float32Array>
  colors: Growing<Float32Array>
}

/**
 * Gathers the faces of one object whose corners index positions, UVs and normals apart, into vertices. Where a face has
 * no normals they are made: averaged over the faces around a place within one smoothing group, flat without one.
 */
export class PieceBuilder {
  private readonly corners = new RowNumbers()
  /** The vertex of each row of `corners`. */
  private readonly vertexOf = new Growing(Uint32Array)
  private readonly positions = new Growing(Float32Array)
  private readonly uvs = new Growing(Float32Array)
  private readonly normals = new Growing(Float32Array)
  private readonly colors = new Growing(Float32Array)
  private readonly groups = new Growing(Float32Array)
  /** 1 for each vertex whose normal is made. */
  private readonly made = new Growing(Uint8Array)
  /** Triangles by material: an object has one run for each. */
  private readonly lists = new Map<string, Growing<Uint32Array>>()
  private hasUvs = false

  /** @param object its number */
  constructor(
    readonly object: number,
    private readonly from: CornerLists,
  ) {}

  /**
   * The vertex of a corner: the same one for corners that are alike in everything.
   * @param position its number, from 0
   * @param uv its number, from 0, or -1 where there is none
   * @param normal its number, from 0, or -1 where there is none
   * @param group the number of the group of its face
   * @param smooth the smoothing group of its face, from 1; 0 where it has none, and then a corner without a normal is a
   * vertex of its own
   */
  vertex(position: number, uv: number, normal: number, group: number, smooth: number): number {
    if (normal < 0 && !smooth) return this.add(position, uv, normal, group)
    const before = this.corners.count
    const row = this.corners.of(position, uv, normal < 0 ? -smooth : normal, group)
    if (row === before) this.vertexOf.push(this.add(position, uv, normal, group))
    return this.vertexOf.at(row)
  }

  private add(position: number, uv: number, normal: number, group: number): number {
    const { from } = this
    for (let k = 0; k < 3; k++) {
      this.positions.push(from.positions.at(position * 3 + k))
      this.normals.push(normal < 0 ? 0 : from.normals.at(normal * 3 + k))
      this.colors.push(from.colors.at(position * 3 + k))
    }
    for (let k = 0; k < 2; k++) this.uvs.push(uv < 0 ? 0 : from.uvs.at(uv * 2 + k))
    this.hasUvs ||= uv >= 0
    this.groups.push(group)
    this.made.push(normal < 0 ? 1 : 0)
    return this.made.length - 1
  }

  /** The list that triangles of a material go to, three vertices each. */
  trianglesOf(material: string): Growing<Uint32Array> {
    let list = this.lists.get(material)
    if (!list) this.lists.set(material, (list = new Growing(Uint32Array)))
    return list
  }

  finish(): Piece {
    const triangles = new Uint32Array([...this.lists.values()].reduce((n, list) => n + list.length, 0))
    const runs: Piece['runs'] = []
    let at = 0
    for (const [material, list] of this.lists) {
      triangles.set(list.take(), at)
      at += list.length
      runs.push({ material, corners: list.length })
    }
    const positions = this.positions.take()
    const normals = this.normals.take()
    addNormals(positions, triangles, this.made.take(), normals)
    return {
      object: this.object,
      matrix: IDENTITY,
      runs,
      positions,
      normals,
      triangles,
      ...(this.hasUvs && { uvs: this.uvs.take() }),
      maps: new Map([
        ['COLOR_0', { components: 3, values: this.colors.take() }],
        [GROUP_MAP, { components: 1, values: this.groups.take() }],
      ]),
    }
  }
}

/** Area-weighted normals for the vertices that have none: the length of the cross product is twice the area. */
function addNormals(positions: Float32Array, indices: Uint32Array, made: Uint8Array, normals: Float32Array): void {
  const cross: [number, number, number] = [0, 0, 0]
  for (let t = 0; t < indices.length / 3; t++) {
    triangleCross({ positions, indices }, t, cross)
    for (let corner = t * 3; corner < t * 3 + 3; corner++) {
      const v = indices[corner]!
      if (made[v]) for (let k = 0; k < 3; k++) normals[v * 3 + k]! += cross[k]!
    }
  }
}
