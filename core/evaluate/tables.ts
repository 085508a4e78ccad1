import { boundsOf, type Box, type Mesh } from '../mesh/mesh'
import type { Contacts } from '../mesh/contacts'
import type { Picture } from './pictures'
import type { Measures } from '../mesh/measures'
import { keyWords } from '../mesh/hash'
import type { MeasureName, PartSet } from '../mesh/partSets'
import type { Parts } from '../mesh/parts'
import { neighborsOf } from './swaps'
import { MESH_INPUTS, PART_INPUTS, type MeasureReading, type MeshInput, type PartInput } from '../program/ops'

/** A mesh with its parts, laid out as the columns that programs read. */
export interface MeshTables {
  mesh: Mesh
  parts: Parts
  /** One column per part input; keys are raw words in a float column. */
  part: Record<PartInput, Float32Array>
  whole: Record<MeshInput, number>
  /** The part sets: for each part whether it is inside. */
  sets: readonly SetMembers[]
  /** Measures of the parts, where they are known. */
  measures?: Measures
  /** The project's pictures. */
  pictures?: readonly Picture[]
  /** The pairs of touching parts, found when first asked for. */
  touching?: () => Contacts
  /** Whether they are found already. */
  touchingKnown?: () => boolean
  /** Finds them piece by piece. */
  findingTouching?: () => Generator<void, Contacts>
}
export interface SetMembers {
  set: PartSet
  members: Uint8Array
}

/**
 * A measure of every part as a program reads it: raw, as a rank (0 the smallest, 1 the largest; equal parts share one),
 * or between the smallest and the largest.
 */
export function measureColumn(
  { measures, parts, touching }: Pick<MeshTables, 'measures' | 'parts' | 'touching'>,
  name: MeasureName,
  reading: MeasureReading,
): Float32Array {
  const raw =
    name === 'neighbors'
      ? Float32Array.from(neighborsOf(touching?.().pairs ?? new Uint32Array(0), parts.parts.length), n => n.length)
      : Float32Array.from(measures?.[name] ?? new Float64Array(parts.parts.length))
  if (reading === 'raw' || !raw.length) return raw
  const sorted = raw.slice().sort()
  const low = sorted[0]!
  const high = sorted.at(-1)!
  if (reading === 'fitted') return raw.map(x => (high > low ? (x - low) / (high - low) : 0))
  const first = new Map<number, number>()
  const last = new Map<number, number>()
  const most = Math.max(1, raw.length - 1)
  sorted.forEach((x, i) => {
    if (!first.has(x)) first.set(x, i)
    last.set(x, i)
  })
  return raw.map(x => (first.get(x)! + last.get(x)!) / 2 / most)
}

/** What the parts and the mesh are to programs. */
type Inputs = Pick<MeshTables, 'part' | 'whole'>
/** What was found of parts before, by their groups: those are others whenever a part is in another one. */
const known = new WeakMap<Parts['groups'], Inputs & { mesh: Mesh; parts: Parts['parts'] }>()

/** Has {@link meshTables} take what was found of a mesh elsewhere, in another thread. */
export function rememberInputs(mesh: Mesh, { parts, groups }: Parts, { part, whole }: Inputs): void {
  known.set(groups, { mesh, parts, part, whole })
}

/** One column per part input, and one number per input of the mesh. */
function inputsOf(mesh: Mesh, all: Parts): Inputs {
  const { parts, groups } = all
  const old = known.get(groups)
  const isSame =
    old?.parts === parts &&
    old.mesh.positions === mesh.positions &&
    old.mesh.indices === mesh.indices &&
    old.mesh.objects === mesh.objects
  if (isSame) return old
  const boxes = mesh.objects.map(o =>
    boundsOf(mesh.positions, mesh.indices.subarray(o.firstTriangle * 3, (o.firstTriangle + o.triangles) * 3)),
  )
  const { min, max } = around(boxes)
  const whole = Object.fromEntries(
    MESH_INPUTS.map((name, i) => [name, i < 3 ? min[i]! : max[i - 3]! - min[i - 3]!]),
  ) as MeshTables['whole']
  const found = { part: columnsOf(all, boxes), whole }
  rememberInputs(mesh, all, found)
  return found
}

/**
 * The box around the mesh, in meters. What a program reads of it holds all of it: how far two 32-bit numbers are apart
 * is a 64-bit number without rounding, unless one is some hundred million times the other.
 */
export function boxOf({ whole }: Pick<MeshTables, 'whole'>): Box {
  const { minX, minY, minZ, sizeX, sizeY, sizeZ } = whole
  return { min: [minX, minY, minZ], max: [minX + sizeX, minY + sizeY, minZ + sizeZ] }
}

/** The box around some boxes. */
function around(boxes: readonly Box[]): Box {
  const all: Box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }
  for (const { min, max } of boxes)
    for (let k = 0; k < 3; k++) {
      all.min[k] = Math.min(all.min[k]!, min[k]!)
      all.max[k] = Math.max(all.max[k]!, max[k]!)
    }
  return all
}

/**
 * One column per part input.
 * @param boxes of the objects
 */
function columnsOf({ parts, groups, objectKeys }: Parts, boxes: readonly Box[]): MeshTables['part'] {
  const part = Object.fromEntries(PART_INPUTS.map(name => [name, new Float32Array(parts.length)])) as MeshTables['part']
  const words = (low: PartInput, high: PartInput) =>
    [new Uint32Array(part[low].buffer), new Uint32Array(part[high].buffer)] as const
  const keys = [
    words('keyLow', 'keyHigh'),
    words('groupKeyLow', 'groupKeyHigh'),
    words('objectKeyLow', 'objectKeyHigh'),
  ] as const
  const groupBoxes = groups.map((): Box => ({
    min: [Infinity, Infinity, Infinity],
    max: [-Infinity, -Infinity, -Infinity],
  }))
  for (const p of parts) {
    const { min, max } = groupBoxes[p.group]!
    p.min.forEach((x, k) => {
      min[k] = Math.min(min[k]!, x)
      max[k] = Math.max(max[k]!, x + p.size[k]!)
    })
  }
  parts.forEach((p, i) => {
    ;[p.key, groups[p.group]!.key, objectKeys[p.object]!].forEach((key, k) => {
      const [low, high] = keyWords(key)
      keys[k]![0][i] = low
      keys[k]![1][i] = high
    })
    const box = boxes[p.object]!
    const group = groupBoxes[p.group]!
    ;(['X', 'Y', 'Z'] as const).forEach((axis, k) => {
      part[`min${axis}`][i] = p.min[k]!
      part[`size${axis}`][i] = p.size[k]!
      part[`groupMin${axis}`][i] = group.min[k]!
      part[`groupSize${axis}`][i] = group.max[k]! - group.min[k]!
      part[`objectMin${axis}`][i] = box.min[k]!
      part[`objectSize${axis}`][i] = box.max[k]! - box.min[k]!
    })
  })
  return part
}

export function meshTables(
  mesh: Mesh,
  parts: Parts,
  sets: readonly SetMembers[] = [],
  measures?: Measures,
  touching?: () => Contacts,
  pictures: readonly Picture[] = [],
): MeshTables {
  const { part, whole } = inputsOf(mesh, parts)
  return { mesh, parts, part, whole, sets, ...(measures && { measures }), ...(touching && { touching }), pictures }
}
