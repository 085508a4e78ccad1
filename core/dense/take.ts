import type { Compressor } from '../bake/compress'
import { computeMap } from '../geometry/compute'
import { Geometry } from '../geometry/geometry'
import { suggestedSettings } from '../geometry/maps'
import type { Texels } from '../kernels/texels'
import { drawOf } from '../mesh/hash'
import { diagonalOf, type VertexMap } from '../mesh/mesh'
import type { Parted } from './partners'
import { TileSheet } from './tileSheet'
import { NOTHING, Transfer, valuesAt, type CageSettings, type Found, type Hits } from './transfer'

/** What can be taken from a dense mesh, besides its vertex maps. */
export const DETAIL_KINDS = [
  'normal',
  'height',
  'found',
  'parts',
  'groups',
  'position',
  'convexity',
  'concavity',
  'occlusion',
  'thickness',
] as const
export type DetailKind = (typeof DETAIL_KINDS)[number]

/** How each is named and explained. */
export const DETAIL_WORDS: Record<DetailKind, { title: string; help: string }> = {
  normal: {
    title: 'Normal',
    help: 'Which way the dense surface faces: the stage and what is delivered are shaded by it.',
  },
  height: { title: 'Height', help: 'How far the dense surface stands out from the light one, in millimeters.' },
  found: { title: 'Found', help: '1 where a ray met the dense surface, 0 where the nearest place had to do.' },
  parts: { title: 'Parts', help: 'A number from 0 to 1 for each part of the dense mesh, drawn from its key.' },
  groups: { title: 'Groups', help: 'The same for each group of the dense mesh: materials or objects of its file.' },
  position: { title: 'Position', help: 'Where the dense surface is: x, y and z in meters.' },
  convexity: { title: 'Convexity', help: 'Edges and bulges of the dense surface.' },
  concavity: { title: 'Concavity', help: 'Grooves and hollows of the dense surface.' },
  occlusion: { title: 'Occlusion', help: 'How much of the sky other parts of the dense mesh cover.' },
  thickness: { title: 'Thickness', help: 'How deep the dense part is under its surface.' },
}

export interface TakeSettings extends CageSettings {
  /** Texels along each side of a tile. */
  size: number
  kinds: readonly DetailKind[]
  /** Vertex maps of the dense mesh, by name. */
  vertexMaps: readonly string[]
  /** How far values grow beyond the islands, in texels. */
  dilation: number
}

/** Numbers that tell parts from one another: whatever lies between two of them would be a third. */
const IDENTITIES: ReadonlySet<TakenPicture['kind']> = new Set(['parts', 'groups'])
/** What 16 bits would round too much. */
const EXACT: ReadonlySet<TakenPicture['kind']> = new Set(['height', 'position', ...IDENTITIES])
/** Different numbers of an identity: what 32-bit floats between 0 and 1 tell apart everywhere. */
const IDENTITY_STEPS = 2 ** 24

/** A picture that was taken: an EXR file that lies on the UVs of the light mesh. */
export interface TakenPicture {
  /** What it is of, as a word for its file's name. */
  of: string
  kind: DetailKind | 'vertexMap'
  bytes: Uint8Array
}
export interface Taken {
  pictures: TakenPicture[]
  found: Found
  /** Parts of the light mesh without a partner, and how many of the dense mesh's parts belong to none. */
  alone: number[]
  leftOver: number
}

/** One picture on its way: how many channels it has, and what each is where texels found the dense mesh. */
interface Lane {
  of: string
  kind: TakenPicture['kind']
  channels: number
  read: (hits: Hits) => Float32Array[]
}

/**
 * Takes the detail of a dense mesh onto the UVs of a light one.
 * @param progress told now and then, with a share from 0 to 1
 * @throws Error with a sentence where the light mesh has no UVs, or nothing was asked for
 */
export function takeDetail(
  texels: Texels,
  light: Parted,
  fine: Parted,
  settings: TakeSettings,
  compressor: Compressor,
  progress?: (share: number, what: string) => void,
): Taken {
  if (!light.mesh.uvs) throw new Error('The mesh has no UVs, so there is nothing to take detail onto; unwrap it first.')
  const lanes = lanesOf(fine, settings, share => progress?.(share * 0.4, 'looking at the dense mesh'))
  if (!lanes.length) throw new Error('Choose what is to be taken.')
  progress?.(0.4, 'matching parts')
  const transfer = new Transfer(light, fine, settings)
  const { size, dilation } = settings
  const identities = lanes.flatMap(l => Array.from({ length: l.channels }, () => IDENTITIES.has(l.kind)))
  const sheet = new TileSheet(texels, light.mesh, size, identities, dilation)
  sheet.paint(
    (tile, from, to) => {
      const hits = transfer.rows(texels, sheet.tiling, tile, size, from, to)
      return { texel: hits.texel, values: lanes.flatMap(lane => lane.read(hits)) }
    },
    share => progress?.(0.42 + 0.5 * share, 'casting rays'),
  )
  let first = 0
  const pictures = lanes.map(({ of, kind, channels: own }, i) => {
    progress?.(0.92 + (0.08 * i) / lanes.length, 'writing')
    const bytes = sheet.exr(first, own, EXACT.has(kind) ? 'float' : 'half', compressor)
    first += own
    return { of, kind, bytes }
  })
  const { partOf, alone } = transfer.partners
  return { pictures, found: transfer.found, alone, leftOver: partOf.filter(p => p < 0).length }
}

/** What is asked for, with what it reads: geometry maps of the dense mesh are computed here. */
function lanesOf(fine: Parted, settings: TakeSettings, progress: (share: number) => void): Lane[] {
  const { mesh, parts } = fine
  const make = (kind: Lane['kind'], of: string, channels: number, read: Lane['read']): Lane => ({
    kind,
    of,
    channels,
    read,
  })
  const ofMap = (map: VertexMap, kind: Lane['kind'], otherwise: number): Lane =>
    make(kind, map.name, map.components < 3 ? 1 : 3, hits =>
      Array.from({ length: map.components < 3 ? 1 : 3 }, (_, k) =>
        valuesAt(hits, map.values, map.components, k, otherwise),
      ),
    )
  /** A draw for each part of the dense mesh, from a key. */
  const drawn = (kind: DetailKind, keyOf: (part: number) => string): Lane => {
    const draws = Float32Array.from(
      parts.parts,
      (_, i) => Math.floor(drawOf(keyOf(i), 0) * IDENTITY_STEPS) / IDENTITY_STEPS,
    )
    return make(kind, kind, 1, hits => [
      Float32Array.from(hits.texel, (_, k) => {
        const vertex = hits.corners[k * 3]!
        return vertex === NOTHING ? 0 : draws[parts.partOfVertex[vertex]!]!
      }),
    ])
  }
  let geometry: Geometry | undefined
  const computed = (kind: 'convexity' | 'concavity' | 'occlusion' | 'thickness', done: number): VertexMap => {
    geometry ??= new Geometry(mesh, parts)
    const settings = suggestedSettings(kind, diagonalOf(mesh))
    return computeMap(geometry, settings, { progress: share => progress(done + share * each) })!
  }
  const each = 1 / Math.max(1, settings.kinds.length)
  const lanes = settings.kinds.map((kind, i): Lane => {
    switch (kind) {
      case 'height':
        return make(kind, kind, 1, hits => [
          hits.height.map((x, k) => (hits.corners[k * 3] === NOTHING ? 0 : x * 1000)),
        ])
      case 'found':
        return make(kind, kind, 1, hits => [Float32Array.from(hits.met)])
      case 'normal':
        return make(kind, kind, 3, hits => normalsAt(hits, mesh.normals))
      case 'parts':
        return drawn(kind, p => parts.parts[p]!.key)
      case 'groups':
        return drawn(kind, p => parts.groups[parts.parts[p]!.group]!.key)
      case 'position':
        return make(kind, kind, 3, hits => [0, 1, 2].map(k => valuesAt(hits, mesh.positions, 3, k, 0)))
      default:
        return ofMap(computed(kind, i * each), kind, kind === 'thickness' ? 1 : 0)
    }
  })
  const named = settings.vertexMaps.flatMap(name => mesh.maps.filter(m => m.name === name))
  return [...lanes, ...named.map(m => ofMap(m, 'vertexMap', 0))]
}

/** Which way the dense surface faces, three columns, unit length; the light one where there is no partner. */
function normalsAt(hits: Hits, normals: Float32Array): Float32Array[] {
  const columns = [0, 1, 2].map(k => valuesAt(hits, normals, 3, k, 0))
  const [x, y, z] = columns as [Float32Array, Float32Array, Float32Array]
  for (let i = 0; i < hits.texel.length; i++) {
    const length = Math.hypot(x[i]!, y[i]!, z[i]!)
    columns.forEach((column, k) => {
      column[i] = length > 1e-6 ? column[i]! / length : hits.normals[i * 3 + k]!
    })
  }
  return columns
}
