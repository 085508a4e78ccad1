import * as Comlink from 'comlink'
import * as z from 'zod'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import { seerOf, pixelSizeOf } from '#core/evaluate/footprints'
import { Painter, type Coarse, type Marked, type Painted } from '#core/evaluate/painter'
import { paintOfMesh, plainView, type OfMesh, type PlainView } from '#core/evaluate/ofMesh'
import { depthsSeen, layReady, rasterize, type Sightline } from '#core/evaluate/rasterize'
import { RepeatedEvaluator } from '#core/evaluate/repeated'
import type { MeshTables } from '#core/evaluate/tables'
import {
  CHANNEL_PICTURES,
  laneOf,
  lanesIn,
  picturesOf,
  SEEN_WORDS,
  withNormal,
  type ChannelPicture,
} from '#core/evaluate/visible'
import { parseLook, type Look } from '#core/graph/look'
import { loadKernels, type Kernels } from '#core/kernels/kernels'
import { lowerOn, reader, signature } from '#core/program/lower'
import { probe } from '#core/program/probe'
import type { Ref } from '#core/program/ops'
import { TRIAL_PIXELS, trialSight, trialTables } from '#core/evaluate/trial'
import { received, type Sent } from '../shared/sentMesh'
import { turn } from '../shared/turn'
import { LOOK_SLOTS, SLOTS, type LookSlot } from './slots'

const matrix = z.array(z.number()).length(16)
const lineSchema = z.object({
  clip: matrix,
  world: matrix,
  view: matrix,
  near: z.number(),
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  snap: z.number().int().positive().optional(),
  ground: z.object({ y: z.number(), x: z.number(), z: z.number(), reach: z.number() }).optional(),
})
const rowsSchema = z.object({ first: z.number().int().nonnegative(), rows: z.number().int().nonnegative() })
const sightSchema = rowsSchema.extend({
  key: z.string(),
  line: lineSchema,
  layers: z.number().int().min(1).max(8),
  sample: z.number().int().nonnegative(),
  step: z.number().int().positive(),
})
const placeSchema = z.object({
  key: z.string(),
  left: z.number().int(),
  right: z.number().int(),
  bottom: z.number().int(),
  top: z.number().int(),
})
const askSchema = z.object({
  slot: z.enum(SLOTS),
  key: z.string(),
  ticket: z.number().int(),
  coarse: z.object({ key: z.string(), step: z.number().int().min(2) }).nullable(),
})
const preparedSchema = z.object({ look: z.unknown(), port: z.string().optional(), shape: z.string() })
const lookSchema = preparedSchema.extend({
  values: z.array(z.object({ ref: z.number().int(), value: z.union([z.number(), z.instanceof(Float32Array)]) })),
})

const ofMeshSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['part', 'patch', 'uv']) }),
  z.object({ kind: z.literal('values'), values: z.instanceof(Float32Array) }),
])

/** What the worker that has the mesh sends: its tables, and vertices and triangles where those are new. */
export interface Shared {
  number: number
  mesh?: Pick<MeshTables['mesh'], 'positions' | 'normals' | 'uvs' | 'indices'>
  tables: Omit<MeshTables, 'mesh' | 'parts' | 'touching' | 'touchingKnown' | 'findingTouching'>
  sent: Sent<Omit<MeshTables['mesh'], 'positions' | 'normals' | 'uvs' | 'indices'>>
}

/** A part of a picture, as it goes to the graphics card. */
export interface Strip {
  painted: Partial<Painted>
  evaluated: number
  visible: number
  visibleIn: Uint32Array
  tiles: Marked
  ms: number
}

interface Shown {
  shape: string
  evaluator: RepeatedEvaluator
  gatherer: Gatherer
  pictures: ChannelPicture[]
  lanes: (Ref | undefined)[]
  opacity?: number
  version: number
}
interface Sight {
  painter: Painter
  front: Uint32Array
  plain: PlainView
  width: number
  first: number
  step: number
  /**
   * Where the picture is a coarse one: what was painted last, for each look and version: a finer picture takes its
   * pixels over.
   */
  last: Partial<Record<LookSlot, { version: number; painted: Partial<Painted> }>>
}

// Not awaited here: a message that comes before the script has run to its end would be lost.
const loading = loadKernels()
let tables: MeshTables | undefined
let tablesNumber = 0
const waiting: { number: number; then: () => void }[] = []
const shown: Partial<Record<LookSlot, Shown>> = {}
/** Looks of another shape, made ready before they can be shown. */
const prepared: Partial<Record<LookSlot, Shown>> = {}
/** The look that will be shown first on a mesh that is still on its way. */
let expected: Look | undefined
const sights = new Map<string, Sight>()
/** What is told of the mesh itself, as long as nobody asks for anything. */
const PLAIN: OfMesh = { kind: 'part' }
let ofMesh: OfMesh = PLAIN
let newest = 0
let hidden: Uint8Array | undefined
let source: MessagePort | undefined
/** Counts the stages that this worker has worked for. */
let stages = 0

/** Forgets all of the stage that it worked for. */
function forgetAll(): void {
  stages++
  source?.close()
  source = tables = expected = hidden = undefined
  for (const slot of LOOK_SLOTS) shown[slot] = prepared[slot] = undefined
  sights.clear()
  ofMesh = PLAIN
  newest = 0
  for (const { then } of waiting.splice(0)) then()
}

/** Makes a look ready to be evaluated on the mesh. */
function made(
  kernels: Kernels,
  mesh: MeshTables,
  look: Look,
  shape: string,
  port?: string,
  from: 'here' | 'given' = 'given',
): Shown {
  const whole = lowerOn(look, mesh.mesh)
  const probed = port ? probe(whole, port) : undefined
  const { program, normal } = withNormal(probed?.program ?? whole)
  const pictures = picturesOf(program, probed?.shows === 'color')
  const lanes = lanesIn(pictures, program, normal)
  const gatherer = new Gatherer(kernels, program, mesh, from)
  const roots = lanes.filter(ref => ref !== undefined)
  const opacity = program.sets.has('opacity') ? laneOf(pictures, 'opacity') : undefined
  return {
    shape,
    gatherer,
    pictures,
    lanes,
    evaluator: new RepeatedEvaluator(kernels, program, roots, mesh, gatherer),
    version: 0,
    ...(opacity !== undefined && { opacity }),
  }
}

/** Runs a look on a cube, so that what runs it is compiled when its mesh is there; no longer than until then. */
async function rehearse(kernels: Kernels, look: Look): Promise<void> {
  const trial = trialTables()
  const { partOfTriangle } = trial.parts
  const one = made(kernels, trial, look, '', undefined, 'here')
  one.gatherer.pace = 'hasty'
  for (const _ of one.gatherer.refreshing(reader(look))) {
    await turn()
    if (tables) return
  }
  one.evaluator.refresh(reader(look))
  const rows = { first: 0, rows: TRIAL_PIXELS }
  const layers = [rasterize(kernels, trial.mesh, partOfTriangle, trialSight, rows)]
  const painter = new Painter({ width: TRIAL_PIXELS, first: 0, layers, sample: 0 }, partOfTriangle)
  const work = painter.paint(one.evaluator, one.pictures, one.lanes, one.opacity)
  while (!tables && !work.next().done) await turn()
}

/** Makes ready what will be asked for first, while the interface takes in the mesh. */
async function foresee(look: Look): Promise<void> {
  const kernels = await loading
  await turn()
  if (!tables) return
  const shape = signature(look)
  if (!isReady('now', shape)) prepared.now = made(kernels, tables, look, shape)
  layReady(kernels, tables.mesh)
}

const isReady = (slot: LookSlot, shape: string): boolean =>
  shown[slot]?.shape === shape || prepared[slot]?.shape === shape

const stageApi = {
  /** Begins to work for a stage: through this port the worker that has the mesh sends its tables, numbered. */
  connect(port: MessagePort): void {
    forgetAll()
    source = port
    port.onmessage = ({ data }: MessageEvent<Shared>) => {
      // The vertices and triangles come along only where they are others.
      const { mesh, parts } = received(data.sent)
      tables = { ...data.tables, parts, mesh: { ...(data.mesh ?? tables!.mesh), ...mesh } }
      tablesNumber = data.number
      for (const slot of LOOK_SLOTS) shown[slot] = prepared[slot] = undefined
      if (data.mesh) sights.clear()
      for (const w of waiting.splice(0)) {
        if (w.number <= tablesNumber) w.then()
        else waiting.push(w)
      }
      // What cannot be done is told of when it is asked for.
      if (expected) foresee(expected).catch(() => {})
      expected = undefined
    }
  },

  /** Holds nothing until it is connected again. */
  rest: forgetAll,

  /** Waits for the tables of a number, or later ones. */
  async ready(number: unknown): Promise<void> {
    const wanted = z.number().parse(number)
    await loading
    if (tablesNumber < wanted) await new Promise<void>(then => waiting.push({ number: wanted, then }))
  },

  /** A look that will be shown on a mesh that is still on its way. */
  async expect(look: unknown): Promise<void> {
    const kernels = await loading
    if (tables) return
    expected = parseLook(look)
    await rehearse(kernels, expected)
  },

  /** A look, or a port of it, that will come when its costly values are there. */
  async prepare(slot: LookSlot, asked: unknown): Promise<void> {
    const kernels = await loading
    if (!tables) return
    const { look, port, shape } = preparedSchema.parse(asked)
    if (!isReady(slot, shape)) prepared[slot] = made(kernels, tables, parseLook(look), shape, port)
  },

  /** Takes a look, or a port of it, with the costly values that were gathered for it. */
  async setLook(slot: LookSlot, asked: unknown): Promise<void> {
    const kernels = await loading
    if (!tables) return
    const { look: document, port, shape, values } = lookSchema.parse(asked)
    const look = parseLook(document)
    const known = [shown[slot], prepared[slot]].find(one => one?.shape === shape)
    const current = known ?? made(kernels, tables, look, shape, port)
    shown[slot] = current
    prepared[slot] = undefined
    current.gatherer.give(values as WholeValues)
    current.evaluator.refresh(reader(look))
    current.version++
  },

  forget(slot: LookSlot): void {
    shown[slot] = prepared[slot] = undefined
  },

  /** What is told of the mesh itself. */
  setOfMesh(asked: unknown): void {
    ofMesh = ofMeshSchema.parse(asked) as OfMesh
  },

  /** Parts that are not seen. */
  setHidden(parts: unknown): void {
    hidden = z.instanceof(Uint8Array).nullable().parse(parts) ?? undefined
  },

  /** Finds what is seen in some rows of a picture. */
  async see(asked: unknown): Promise<void> {
    const kernels = await loading
    if (!tables) return
    const { key, line, first, rows, layers, sample, step } = sightSchema.parse(asked)
    const {
      mesh,
      parts: { partOfTriangle },
    } = tables
    const found: Uint32Array[] = []
    for (let i = 0; i < layers; i++)
      found.push(rasterize(kernels, mesh, partOfTriangle, line as Sightline, { first, rows }, hidden, found[i - 1]))
    const pixel = pixelSizeOf(line, step, sample)
    const rowsSeen = { width: line.width, first, layers: found, sample }
    const painter = new Painter(rowsSeen, partOfTriangle, seerOf(mesh, pixel))
    sights.set(key, { painter, front: found[0]!, plain: plainView(line), width: line.width, first, step, last: {} })
  },

  /** What is seen in a rectangle of a picture that was found: as the surface pass has it, row by row. */
  seenIn(asked: unknown): Uint32Array | null {
    const { key, left, right, bottom, top } = placeSchema.parse(asked)
    const sight = sights.get(key)
    if (!sight) return null
    const { front, width, first } = sight
    const rows = front.length / SEEN_WORDS / width
    const out = new Uint32Array((right - left) * (top - bottom) * SEEN_WORDS)
    for (let y = Math.max(bottom, first); y < Math.min(top, first + rows); y++) {
      const from = ((y - first) * width + left) * SEEN_WORDS
      out.set(front.subarray(from, from + (right - left) * SEEN_WORDS), (y - bottom) * (right - left) * SEEN_WORDS)
    }
    return out
  },

  /** How far away the nearest surface is at the pixels of some rows; 0 where there is none. */
  async depths(line: unknown, asked: unknown): Promise<Float32Array | null> {
    const kernels = await loading
    if (!tables) return null
    const range = rowsSchema.parse(asked)
    const { mesh, parts } = tables
    const found = depthsSeen(kernels, mesh, parts.partOfTriangle, lineSchema.parse(line) as Sightline, range, hidden)
    return Comlink.transfer(found, [found.buffer])
  },

  /** From now on only what is asked for under this number, or a later one, is worked on. */
  begin(ticket: unknown): void {
    newest = z.number().parse(ticket)
  },

  /** Paints a look into the rows of a sight; null where it was given up, since something newer was begun. */
  async paint(asked: unknown): Promise<Strip | null> {
    const { slot, key, ticket, coarse } = askSchema.parse(asked)
    const sight = sights.get(key)
    if (!sight || !tables) return null
    const from = performance.now()
    const stage = stages
    if (slot === 'mesh') {
      const relief = paintOfMesh(sight.front, tables.mesh, tables.parts, ofMesh, sight.plain)
      return stripOf(sight, { relief }, sight.painter.visible, from)
    }
    const look = shown[slot]
    if (!look) return null
    const before = look.evaluator.evaluated
    const work = sight.painter.paint(
      look.evaluator,
      look.pictures,
      look.lanes,
      look.opacity,
      coarseOf(slot, look, coarse),
    )
    let step = work.next()
    for (; !step.done; step = work.next()) {
      await turn()
      if (ticket < newest || stage !== stages) return null
    }
    const painted = step.value
    if (sight.step > 1) sight.last[slot] = { version: look.version, painted: copyOf(painted) }
    return stripOf(sight, painted, look.evaluator.evaluated - before, from)
  },

  drop(key: unknown): void {
    sights.delete(z.string().parse(key))
  },
}
export type StageApi = typeof stageApi

/** What goes back of a picture that was painted since some time. */
function stripOf({ painter }: Sight, painted: Partial<Painted>, evaluated: number, from: number): Strip {
  const { visible, visibleIn, tiles } = painter
  const strip: Strip = { painted, evaluated, visible, visibleIn, tiles, ms: performance.now() - from }
  return Comlink.transfer(
    strip,
    Object.values(painted).map(p => p.buffer as ArrayBuffer),
  )
}

function coarseOf(slot: LookSlot, look: Shown, asked: z.infer<typeof askSchema>['coarse']): Coarse | undefined {
  const sight = asked ? sights.get(asked.key) : undefined
  const last = sight?.last[slot]
  if (!asked || !sight || last?.version !== look.version) return undefined
  return { step: asked.step, width: sight.width, first: sight.first, painted: last.painted }
}

const copyOf = (painted: Partial<Painted>): Partial<Painted> =>
  Object.fromEntries(
    CHANNEL_PICTURES.flatMap(name => (painted[name] ? [[name, painted[name].slice()]] : [])),
  ) as Partial<Painted>

Comlink.expose(stageApi)
