import { BufferAttribute, BufferGeometry, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh } from '../mesh/mesh'
import { findParts, type Parts } from '../mesh/parts'

/** A mesh and the parts that were found in it. */
export interface Parted {
  mesh: Mesh
  parts: Parts
}

/**
 * A dense mesh and its parts, whose patches nobody asks for.
 * @param scale from the units of its file to those of the light mesh
 */
export function partedDense(read: Mesh, scale = 1): Parted {
  const mesh = scale === 1 ? read : { ...read, positions: read.positions.map(x => x * scale) }
  return { mesh, parts: findParts(mesh, { patches: { by: 'part' } }) }
}

/** How a dense mesh's parts find those of the mesh that they are detail of. */
export const MATCHES = ['part', 'object', 'near'] as const
export type MatchBy = (typeof MATCHES)[number]

/** Parts of the dense mesh that were given to one of the light mesh by hand, by their keys; '' gives one to nobody. */
export type Given = Readonly<Record<string, string>>

/** Which part of the light mesh each part of the dense mesh belongs to. */
export interface Partners {
  /** For each part of the dense mesh that of the light one; −1 where it belongs to none. */
  partOf: Int32Array
  /** Parts of the light mesh to which none belongs. */
  alone: number[]
}

/** Vertices of a dense part that are asked where they belong. */
const VOTES = 48
/** Cosine beyond which two surfaces face the same way. */
const SAME_WAY = 0.2

/** Words that tell a dense object from the light one of the same name. */
const DENSE_WORDS = /(?:^|[ _.-]+)(dense|high|hi|hp|fine|detail|sculpt|light|low|lo|lp)\b/giu

/** The name of an object without case and without what only says how fine it is. */
export const stemOf = (name: string): string => name.toLowerCase().replace(DENSE_WORDS, '').trim()

/**
 * Finds for each part of a dense mesh the part of the light one that it is detail of: some of its vertices look for the
 * nearest surface that faces their way, and the part that most of them find has it. Where an object of the light mesh
 * has the name of the dense part's object, only its parts are looked at. A part of the light mesh may have many
 * partners; a dense part has one.
 * @param reach how far away, in meters, a surface may be
 * @param given what was decided by hand; what names a part that is not there any more is not heeded
 */
export function findPartners(light: Parted, dense: Parted, reach: number, given: Given = {}): Partners {
  const byKey = new Map(light.parts.parts.map((p, i) => [p.key, i]))
  const nearest = new NearestPart(light)
  const objects = objectsByStem(light)
  const vertices = verticesOf(dense)
  const partOf = Int32Array.from(dense.parts.parts, (part, n) => {
    const to = given[part.key]
    if (to === '') return -1
    const decided = to === undefined ? undefined : byKey.get(to)
    if (decided !== undefined) return decided
    const named = objects.get(stemOf(dense.mesh.objects[part.object]!.name))
    const votes = new Map<number, number>()
    const own = vertices[n]!
    const step = Math.max(1, Math.floor(own.length / VOTES))
    for (let i = 0; i < own.length; i += step) {
      const found = nearest.to(dense.mesh, own[i]!, reach, named)
      if (found >= 0) votes.set(found, (votes.get(found) ?? 0) + 1)
    }
    const best = [...votes].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]
    return best ? best[0] : -1
  })
  const matched = new Set(partOf)
  return { partOf, alone: light.parts.parts.flatMap((_, i) => (matched.has(i) ? [] : [i])) }
}

/** The objects of a mesh by the stems of their names: for each part whether it is inside. */
function objectsByStem({ mesh, parts }: Parted): Map<string, Uint8Array> {
  const found = new Map<string, Uint8Array>()
  parts.parts.forEach((part, i) => {
    const stem = stemOf(mesh.objects[part.object]!.name)
    const members = found.get(stem) ?? new Uint8Array(parts.parts.length)
    members[i] = 1
    found.set(stem, members)
  })
  return found
}

/** The vertices of each part. */
function verticesOf({ mesh, parts }: Parted): number[][] {
  const lists = parts.parts.map((): number[] => [])
  const count = mesh.positions.length / 3
  for (let v = 0; v < count; v++) lists[parts.partOfVertex[v]!]?.push(v)
  return lists
}

/** Finds the part of a mesh that is nearest to a vertex of another one and faces its way. */
class NearestPart {
  private readonly trees = new Map<Uint8Array | undefined, MeshBVH | undefined>()
  private readonly point = new Vector3()
  private readonly hit = { point: new Vector3(), distance: 0, faceIndex: 0 }

  constructor(private readonly light: Parted) {}

  /** A tree of the triangles of some parts; of all of them where none are named. */
  private treeOf(members: Uint8Array | undefined): MeshBVH | undefined {
    if (this.trees.has(members)) return this.trees.get(members)
    const { mesh, parts } = this.light
    const kept: number[] = []
    for (let t = 0; t < parts.partOfTriangle.length; t++) {
      if (members && !members[parts.partOfTriangle[t]!]) continue
      kept.push(mesh.indices[t * 3]!, mesh.indices[t * 3 + 1]!, mesh.indices[t * 3 + 2]!)
    }
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setIndex(new BufferAttribute(Uint32Array.from(kept), 1))
    const made = kept.length ? new MeshBVH(geometry) : undefined
    this.trees.set(members, made)
    return made
  }

  /** @returns the part, or −1 where none is within reach */
  to(mesh: Mesh, vertex: number, reach: number, members: Uint8Array | undefined): number {
    const tree = this.treeOf(members)
    if (!tree) return -1
    const { positions, normals } = mesh
    this.point.fromArray(positions, vertex * 3)
    const corner = (face: number): number => tree.geometry.index!.getX(face * 3)
    const facing = (face: number): boolean => {
      const n = this.light.mesh.normals
      const at = corner(face) * 3
      const own = vertex * 3
      const cosine = n[at]! * normals[own]! + n[at + 1]! * normals[own + 1]! + n[at + 2]! * normals[own + 2]!
      return cosine > SAME_WAY
    }
    // First what is nearest at all; where that faces another way, the nearest that does not.
    const first = tree.closestPointToPoint(this.point, this.hit, 0, reach)
    if (!first) return -1
    const other = facing(first.faceIndex) ? first.faceIndex : this.nearestFacing(tree, reach, facing)
    return other < 0 ? -1 : this.light.parts.partOfVertex[corner(other)]!
  }

  private nearestFacing(tree: MeshBVH, reach: number, facing: (face: number) => boolean): number {
    let best = -1
    let least = reach
    const near = new Vector3()
    const { point } = this
    tree.shapecast({
      boundsTraverseOrder: box => box.distanceToPoint(point),
      intersectsBounds: (box, _leaf, score) => (score ?? box.distanceToPoint(point)) < least,
      intersectsTriangle(triangle, face) {
        triangle.closestPointToPoint(point, near)
        const distance = near.distanceTo(point)
        if (distance < least && facing(face)) {
          least = distance
          best = face
        }
        return false
      },
    })
    return best
  }
}
