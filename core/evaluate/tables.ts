import { boundsOf, type Mesh } from '../mesh/mesh'
import { keyWords } from '../mesh/hash'
import type { PartSet } from '../mesh/partSets'
import type { Parts } from '../mesh/parts'
import { MESH_INPUTS, PART_INPUTS, type MeshInput, type PartInput } from '../program/ops'

/** A mesh with its parts, laid out as the columns that programs read. */
export interface MeshTables {
  mesh: Mesh
  parts: Parts
  /** One column per part input; keys are raw words in a float column. */
  part: Record<PartInput, Float32Array>
  whole: Record<MeshInput, number>
  /** The part sets: for each part whether it is inside. */
  sets: readonly SetMembers[]
}
export interface SetMembers { set: PartSet, members: Uint8Array }

export function meshTables(mesh: Mesh, parts: Parts, sets: readonly SetMembers[] = []): MeshTables {
  const count = parts.parts.length
  const part = Object.fromEntries(PART_INPUTS.map(name => [name, new Float32Array(count)])) as Record<PartInput, Float32Array>
  const boxes = mesh.objects.map(o => boundsOf(mesh.positions, mesh.indices.subarray(o.firstTriangle * 3, (o.firstTriangle + o.triangles) * 3)))
  const words = (low: PartInput, high: PartInput) => [new Uint32Array(part[low].buffer), new Uint32Array(part[high].buffer)] as const
  const keys = [words('keyLow', 'keyHigh'), words('groupKeyLow', 'groupKeyHigh'), words('objectKeyLow', 'objectKeyHigh')] as const
  parts.parts.forEach((p, i) => {
    [p.key, parts.groups[p.group]!.key, parts.objectKeys[p.object]!].forEach((key, k) => {
      const [low, high] = keyWords(key)
      keys[k]![0][i] = low
      keys[k]![1][i] = high
    })
    const box = boxes[p.object]!
    ;(['X', 'Y', 'Z'] as const).forEach((axis, k) => {
      part[`min${axis}`][i] = p.min[k]!
      part[`size${axis}`][i] = p.size[k]!
      part[`objectMin${axis}`][i] = box.min[k]!
      part[`objectSize${axis}`][i] = box.max[k]! - box.min[k]!
    })
  })
  const { min, max } = boundsOf(mesh.positions, mesh.indices)
  const whole = Object.fromEntries(MESH_INPUTS.map((name, i) => [name, i < 3 ? min[i]! : max[i - 3]! - min[i - 3]!])) as Record<MeshInput, number>
  return { mesh, parts, part, whole, sets }
}
