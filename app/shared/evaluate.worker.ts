import * as Comlink from 'comlink'
import * as z from 'zod'
import { Analyzer, type Analysis } from '#core/evaluate/analysis'
import { readSurfaceMap } from '#core/evaluate/surfaceReading'
import { combine, sharedInWords } from '#core/compare/combine'
import { pinsFrom, type TakenPin } from '#core/compare/takeParts'
import { sheetNumbers, type SheetNumbers } from '#core/compare/numbers'
import { PACES, type Pace, type WholeValues } from '#core/evaluate/gather'
import { replacementOf, type Replacement } from '#core/evaluate/replacement'
import type { MeshTables } from '#core/evaluate/tables'
import { tryGathering } from '#core/evaluate/trial'
import { Workpiece } from '#core/evaluate/workpiece'
import { inspect } from '#core/exchange/inspect'
import { MeshFileError, readMesh } from '#core/exchange/readMesh'
import { exrPicture } from '#core/exchange/readExr'
import type { Picture } from '#core/evaluate/pictures'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import type { Finding } from '#core/graph/check'
import { LookError, parseLook, type Look } from '#core/graph/look'
import { loadKernels } from '#core/kernels/kernels'
import { parseKeyTable } from '#core/mesh/keys'
import { readVertexMap, type MapReading } from '#core/mesh/mapReading'
import type { Measures } from '#core/mesh/measures'
import type { Group } from '#core/mesh/groups'
import { materialsOf } from '#core/mesh/materials'
import { fitsMesh, type Mesh } from '#core/mesh/mesh'
import type { Parts } from '#core/mesh/parts'
import { parsePreparation } from '#core/mesh/preparation'
import { oddities, type Oddity } from '#core/mesh/report'
import { pointSet } from '#core/mesh/sample'
import { inspectUvs, uvLayout } from '#core/mesh/uvs'
import { atOnce } from '#core/pieces'
import { draco } from '../mesh/draco'
import { handOver } from './handOver'
import { sent, type Sent } from './sentMesh'
import { turn } from './turn'
import { Unhurried } from './unhurried'
import type { Shared } from '../stage/stage.worker'

const surfaceSchema = z.strictObject({ triangle: z.number().int().nonnegative(), u: z.number(), v: z.number() })
const paletteSchema = z.array(z.object({ color: z.tuple([z.number(), z.number(), z.number()]), share: z.number() }))
const paceSchema = z.enum(PACES)
const ratioSchema = z.number().int().min(1).max(2).default(1)
const placeSchema = z.strictObject({ u: z.number(), v: z.number() })
const limitsSchema = z.object({ bytes: z.number().positive(), triangles: z.number().positive() })
const fileSchema = z.object({
  name: z.string(),
  preparation: z.unknown(),
  /** A table of keys, as JSON in UTF-8. */
  keys: z.instanceof(ArrayBuffer).nullable(),
  limits: limitsSchema,
})
const mapsSchema = z.array(
  z.object({ name: z.string(), components: z.number().int().min(1).max(4), values: z.instanceof(Float32Array) }),
)

const picturesSchema = z.array(
  z.object({
    name: z.string(),
    width: z.number().int().positive(),
    height: z.number().int().positive(),
    data: z.union([z.instanceof(Uint8ClampedArray), z.instanceof(Float32Array)]),
    lanes: z.union([z.literal(1), z.literal(4)]).optional(),
    covers: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
  }),
)

/** What goes with a mesh that is opened. */
const alongSchema = z.strictObject({ maps: mapsSchema, pictures: picturesSchema, look: z.unknown() })

/** What lies under the cursor. Channel values are linear; `triangle`, `u` and `v` say where on the analysis mesh. */
export interface Picked {
  part: number
  name: string
  channels: Record<Channel, number[]>
  triangle: number
  u: number
  v: number
}

/** What of a prepared mesh the interface needs besides vertices and triangles. Columns have one entry per part. */
export interface Arranged {
  groups: Group[]
  groupOf: Uint32Array
  measures: Measures
  materials: string[]
  /** Members of the part sets, in their order. */
  members: Uint8Array[]
}
/**
 * A prepared mesh: `mesh` is the analysis mesh, `parts` its parts, `complete` whether its edges are as short as asked
 * for.
 */
export interface Opened {
  mesh: Mesh
  parts: Parts
  complete: boolean
  fileTriangles: number
  arranged: Arranged
}
/** The same on its way here; the groups that were arranged are those of the parts. */
export interface SentOpened extends Sent<Mesh> {
  inputs: Pick<MeshTables, 'part' | 'whole'>
  complete: boolean
  fileTriangles: number
  arranged: Omit<Arranged, 'groups'>
}
export interface Report {
  summary: Omit<ReturnType<typeof inspect>, 'parts'>
  oddities: Oddity[]
}

/** Either an answer, or one sentence for the artist. Errors do not keep their class across threads. */
export type Answer<T> = { ok: T } | { error: string }

// Not awaited here: a message that comes before the script has run to its end would be lost.
const loading = loadKernels()
let piece: Workpiece | undefined
/** A mesh that was read to be compared, and may replace the one in use. */
let candidate: Workpiece | undefined
let analyzer: Analyzer | undefined
let hidden: Uint8Array | undefined
/** What takes long and is for later, of the look and the mesh as they are now. */
const unhurried = new Unhurried()

/** An answer goes to the interface as it is, without being copied there. */
const attempt = async <T>(work: () => Promise<T> | T): Promise<Answer<T>> => {
  try {
    const { message, buffers } = handOver({ ok: await work() })
    return Comlink.transfer(message, buffers)
  } catch (error) {
    return {
      error: error instanceof MeshFileError ? error.message : `It could not be done (${(error as Error).message}).`,
    }
  }
}

function arranged(w: Workpiece): Arranged {
  const { parts } = w
  return {
    groups: parts.groups,
    groupOf: Uint32Array.from(parts.parts, p => p.group),
    measures: w.arranged.measures,
    materials: materialsOf(w.mesh, parts),
    members: w.arranged.sets.map(s => s.members),
  }
}
function opened(w: Workpiece): SentOpened {
  const { mesh, parts, complete } = w.analysis
  const { groups: _, ...rest } = arranged(w)
  const { part, whole } = w.tables
  return {
    ...sent(mesh, parts),
    inputs: { part, whole },
    complete,
    fileTriangles: w.mesh.indices.length / 3,
    arranged: rest,
  }
}
/** From now on looks are analyzed on the piece as it is. */
async function analyzeAnew(): Promise<void> {
  analyzer = new Analyzer(await loading, piece!.tables)
  unhurried.hurry()
}
async function begin(w: Workpiece): Promise<void> {
  piece = w
  await analyzeAnew()
  hidden = undefined
}
async function read(bytes: ArrayBuffer, file: unknown, progress?: (share: number) => void): Promise<Workpiece> {
  const { name, preparation, keys, limits } = fileSchema.parse(file)
  const table = keys && parseKeyTable(JSON.parse(new TextDecoder().decode(keys)))
  return new Workpiece(
    await readMesh(new Uint8Array(bytes), name, { draco, limits, ...(progress && { progress }) }),
    parsePreparation(preparation),
    table ?? undefined,
  )
}

/** Finds out what the stage will ask for first, while the interface takes in the mesh that was just opened. */
async function foresee(mine: Analyzer, look: Look): Promise<void> {
  // The answer goes first, and so does whatever is asked meanwhile.
  await turn()
  if (analyzer === mine) await unhurried.take(mine.foresee(look))
}

interface SurfacePlace {
  triangle: number
  u: number
  v: number
}

/** The first triangle over a place of the UV layout. */
function atPlace({ u, v }: z.infer<typeof placeSchema>): SurfacePlace | null {
  const {
    mesh: { uvs, indices },
    parts,
  } = piece!.tables
  if (!uvs) return null
  for (let t = 0; t < indices.length / 3; t++) {
    const a = indices[t * 3]! * 2
    const b = indices[t * 3 + 1]! * 2
    const c = indices[t * 3 + 2]! * 2
    const bx = uvs[b]! - uvs[a]!
    const by = uvs[b + 1]! - uvs[a + 1]!
    const cx = uvs[c]! - uvs[a]!
    const cy = uvs[c + 1]! - uvs[a + 1]!
    const px = u - uvs[a]!
    const py = v - uvs[a + 1]!
    const area = bx * cy - by * cx
    const p = (px * cy - py * cx) / area
    const q = (bx * py - by * px) / area
    if (p >= 0 && q >= 0 && p + q <= 1 && !hidden?.[parts.partOfTriangle[t]!]) return { triangle: t, u: p, v: q }
  }
  return null
}

/** The values of a look that need the whole surface, one by one; of nothing there are none. */
function* gathering(look: unknown, pace: Pace, all: boolean, port: unknown): Generator<void, WholeValues> {
  if (!analyzer) return []
  return yield* analyzer.gathering(parseLook(look), pace, all, z.string().optional().parse(port))
}

/** Where the tables go to whoever else evaluates looks on this mesh. */
let listeners: readonly MessagePort[] = []
let sharedNumber = 0
let shared: MeshTables | undefined
let sharedPositions: Float32Array | undefined

const evaluatorApi = {
  /** From now on {@link evaluatorApi.share} sends to these places, and to no others. */
  shareWith(places: readonly MessagePort[]): void {
    for (const port of listeners) port.close()
    listeners = places
    shared = sharedPositions = undefined
  },
  /** Sends the tables as they are now to every place, unless they are there. @returns their number */
  share(): number {
    if (!piece || shared === piece.tables) return sharedNumber
    shared = piece.tables
    const {
      mesh: { positions, normals, uvs, indices, ...mesh },
      parts,
      touching: _,
      touchingKnown: __,
      findingTouching: ___,
      ...tables
    } = piece.tables
    const message: Shared = { number: ++sharedNumber, tables, sent: sent(mesh, parts) }
    if (sharedPositions !== positions) message.mesh = { positions, normals, indices, ...(uvs && { uvs }) }
    sharedPositions = positions
    for (const port of listeners) {
      const own = handOver(message)
      port.postMessage(own.message, own.buffers)
    }
    return sharedNumber
  },

  /** A look that will be shown on a mesh that is still on its way. */
  async expect(look: unknown): Promise<void> {
    const kernels = await loading
    if (!piece) tryGathering(kernels, parseLook(look))
  },

  /**
   * Reads a mesh file, prepares and keeps it here, and hands a copy back. Until that has worked, the last mesh stays.
   * @param along geometry maps that are known of it, the project's pictures, and the look that will be shown on it
   */
  open: (bytes: ArrayBuffer, file: unknown, along: unknown): Promise<Answer<SentOpened>> =>
    attempt(async () => {
      const { maps, pictures, look } = alongSchema.parse(along)
      const next = await read(bytes, file)
      next.setComputed(maps.filter(m => fitsMesh(next.analysis.mesh, m)))
      next.setPictures(pictures)
      await begin(next)
      // Whoever will show it gets it at once, before the interface knows.
      evaluatorApi.share()
      // What cannot be done is told of when it is asked for.
      foresee(analyzer!, parseLook(look)).catch(() => {})
      return opened(next)
    }),

  /** Prepares the mesh in another way. Where vertices and triangles stay, only what belongs to parts comes back. */
  prepare: (preparation: unknown): Promise<Answer<{ opened: SentOpened } | { arranged: Arranged } | null>> =>
    attempt(async () => {
      if (!piece) return null
      const moved = piece.apply(parsePreparation(preparation))
      if (moved) await begin(piece)
      else await analyzeAnew()
      return moved ? { opened: opened(piece) } : { arranged: arranged(piece) }
    }),

  /**
   * Reads a mesh that may replace the one in use, and says how its parts match.
   * @param progress is told which share of a text file was read
   */
  compare: (bytes: ArrayBuffer, file: unknown, progress: (share: number) => void): Promise<Answer<Replacement>> =>
    attempt(async () => {
      candidate = await read(bytes, file, progress)
      return replacementOf(candidate, piece?.parts)
    }),
  /** Takes the compared mesh in place of the one in use. */
  adopt: (): Promise<Answer<SentOpened>> =>
    attempt(async () => {
      const next = candidate!
      candidate = undefined
      await begin(next)
      return opened(next)
    }),
  forget(): void {
    candidate = undefined
  },

  async setComputed(maps: unknown): Promise<void> {
    if (!piece) return
    piece.setComputed(mapsSchema.parse(maps))
    await analyzeAnew()
  },

  /** Pictures that the look may name. */
  async setPictures(pictures: unknown): Promise<void> {
    if (!piece) return
    piece.setPictures(picturesSchema.parse(pictures))
    await analyzeAnew()
  },

  /** An EXR file as a picture of the project. */
  readExr: (name: unknown, bytes: unknown): Promise<Answer<Picture>> =>
    attempt(async () => exrPicture(z.string().parse(name), new Uint8Array(z.instanceof(ArrayBuffer).parse(bytes)))),

  /** Parts that the cursor passes through. */
  setHidden(parts: unknown): void {
    hidden = z.instanceof(Uint8Array).nullable().parse(parts) ?? undefined
  },

  report: (): Promise<Answer<Report | null>> =>
    attempt(() => {
      if (!piece) return null
      const { mesh, parts } = piece
      const uvs = inspectUvs(mesh)
      const { parts: _, ...summary } = inspect(mesh, parts, piece.arranged.measures, uvs)
      return { summary, oddities: oddities(mesh, parts, piece.arranged.measures, uvs) }
    }),

  /** The UV layout of the analysis mesh, and the tiles in use. */
  layout(): { overlapping: Uint32Array; borders: Uint32Array; tiles: number[] } | null {
    if (!piece?.tables.mesh.uvs) return null
    const { mesh } = piece.tables
    const uvs = inspectUvs(mesh)
    return { ...uvLayout(mesh, uvs.overlaps), tiles: uvs.tiles }
  },

  readMap(name: string, component: number): MapReading | null {
    const map = piece?.tables.mesh.maps.find(m => m.name === name)
    return map && piece && component < map.components ? readVertexMap(piece.tables.mesh, map, component) : null
  },

  readSurface(name: string, lane: number): MapReading | null {
    const picture = piece?.tables.pictures?.find(p => p.name === name)
    return picture && piece ? readSurfaceMap(piece.tables.mesh, picture, lane) : null
  },

  touching: (): Promise<Answer<{ pairs: Uint32Array; arranged: Arranged } | null>> =>
    attempt(() => (piece ? { pairs: piece.touching().pairs, arranged: arranged(piece) } : null)),

  /** The mesh of the file with UVs made anew, as GLB. */
  unwrap: (): Promise<Answer<Uint8Array>> =>
    attempt(async () => (await import('#core/exchange/unwrap')).unwrap(piece!.file)),

  /** The values of the result that need the whole surface, as the stage waits for them. */
  gather(look: unknown, all: boolean, port?: unknown): WholeValues {
    unhurried.hurry()
    return atOnce(gathering(look, 'hasty', all, port))
  },
  /** The same exactly, without holding up anything else; null where it was given up for what was asked meanwhile. */
  gatherUnhurried: async (look: unknown, all: boolean, port?: unknown): Promise<WholeValues | null> =>
    unhurried.take(gathering(look, 'exact', all, port), JSON.stringify(look)),
  /** The same of a look that is not the one on the stage, after what is under way for that. */
  async gatherOther(look: unknown, pace: unknown): Promise<WholeValues> {
    await unhurried.done()
    return atOnce(gathering(look, paceSchema.parse(pace), true, undefined))
  },

  /** What is wrong with the look on this mesh; null where that was given up for what was asked meanwhile. */
  check: async (look: unknown, texels: number): Promise<Finding[] | null> =>
    analyzer ? unhurried.take(analyzer.checking(parseLook(look), texels), JSON.stringify(look)) : [],

  /**
   * Swatches and readings of the look. Exactly they are found without holding up anything else; null where that was
   * given up for what was asked meanwhile.
   */
  async analyze(
    look: unknown,
    pace: unknown,
    focus?: string,
    scope?: unknown,
    ratio?: unknown,
  ): Promise<Analysis | null> {
    if (!analyzer) return null
    const asked = paceSchema.parse(pace)
    const page = z.array(z.string()).default([]).parse(scope)
    if (asked !== 'exact') unhurried.hurry()
    const work = analyzer.analyzing(parseLook(look), focus, page, ratioSchema.parse(ratio), asked)
    const analysis = asked === 'exact' ? await unhurried.take(work, JSON.stringify(look)) : atOnce(work)
    return analysis
      ? Comlink.transfer(
          analysis,
          Object.values(analysis.swatches).map(s => s.buffer),
        )
      : null
  },

  /** What a look comes to in numbers, and how far it is from a palette. */
  numbers: async (look: unknown, palette: unknown): Promise<SheetNumbers | null> =>
    piece ? sheetNumbers(await loading, piece.tables, parseLook(look), paletteSchema.parse(palette)) : null,

  /**
   * Some channels of one state of the look with the others of another: as it is then, and what came along; or why it
   * cannot be.
   */
  async combine(
    first: unknown,
    second: unknown,
    channels: unknown,
  ): Promise<{ ok: { look: Look; shared: string[] } } | { error: string } | null> {
    if (!piece) return null
    const asked = z.array(z.enum(CHANNEL_NAMES as [Channel, ...Channel[]])).parse(channels)
    try {
      const made = combine(await loading, piece.tables, parseLook(first), parseLook(second), asked)
      return { ok: { look: made.look, shared: sharedInWords(made) } }
    } catch (error) {
      if (error instanceof LookError) return { error: error.message }
      throw error
    }
  },

  /** What makes parts (by key) in the target look be drawn as they are in the source look. */
  pinsFrom: async (source: unknown, target: unknown, parts: unknown): Promise<TakenPin[]> =>
    piece
      ? pinsFrom(await loading, piece.tables, parseLook(source), parseLook(target), z.array(z.string()).parse(parts))
      : [],

  /** Smooth swatches of what was analyzed last; null where they were given up for what was asked meanwhile. */
  async refine(ratio?: unknown): Promise<Analysis['swatches'] | null> {
    if (!analyzer) return {}
    const swatches = await unhurried.take(analyzer.refining(ratioSchema.parse(ratio)))
    return swatches
      ? Comlink.transfer(
          swatches,
          Object.values(swatches).map(s => s.buffer),
        )
      : null
  },

  /** The part and the channels at a place of the surface, or of the UV layout. */
  pick(look: unknown, where: unknown): Picked | null {
    if (!piece || !analyzer) return null
    const asked = z.union([surfaceSchema, placeSchema]).parse(where)
    const { parts, mesh } = piece.tables
    const found = 'triangle' in asked ? asked : atPlace(asked)
    if (!found || found.triangle >= mesh.indices.length / 3) return null
    const points = pointSet(1)
    points.triangle[0] = found.triangle
    points.u[0] = found.u
    points.v[0] = found.v
    const channels = analyzer.channelsAt(parseLook(look), points)
    const part = parts.partOfTriangle[found.triangle]!
    return {
      part,
      name: parts.parts[part]!.name,
      ...found,
      channels: Object.fromEntries(CHANNEL_NAMES.map(c => [c, channels[c].map(column => column[0]!)])) as Record<
        Channel,
        number[]
      >,
    }
  },
}
export type EvaluatorApi = typeof evaluatorApi

Comlink.expose(evaluatorApi)
