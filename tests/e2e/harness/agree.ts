import { DataUtils, HalfFloatType, PerspectiveCamera, WebGLRenderer } from 'three'
import { pixelSizeOf, seerOf } from '#core/evaluate/footprints'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { Painter } from '#core/evaluate/painter'
import { RepeatedEvaluator } from '#core/evaluate/repeated'
import { meshTables } from '#core/evaluate/tables'
import { CHANNEL_PICTURES, LANES, lanesIn, pointsAt, resultRoots, SEEN_WORDS, withNormal } from '#core/evaluate/visible'
import { addNode, connect, setParam } from '#core/graph/edit'
import { emptyLook, type Look } from '#core/graph/look'
import { ECHO } from '#core/graph/echo'
import { inputType } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/find'
import { converts } from '#core/graph/ports'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import { KINDS, RESULT } from '#core/nodes'
import type { NodeKind, ParamValue } from '#core/nodes/declare'
import { loadKernels } from '#core/kernels/kernels'
import { measureParts } from '#core/mesh/measures'
import { boundsOf } from '#core/mesh/mesh'
import { findParts } from '#core/mesh/parts'
import { newSet } from '#core/mesh/setEdits'
import { lower, reader, refsOf, type Program } from '#core/program/lower'
import type { Ref } from '#core/program/ops'
import { plan } from '#core/program/plan'
import type { LoweredLook } from '../../../app/stage/backend'
import { EvaluateOnCard } from '../../../app/stage/evaluateOnCard'
import { Sample } from '../../../app/stage/sample'
import { lineOf } from '../../../app/stage/sightline'
import type { LookSlot } from '../../../app/stage/slots'
import { boxes } from '../../helpers'

const kernels = await loadKernels()
const mesh = boxes(
  Array.from({ length: 12 }, (_, i) => ({
    object: `o${i % 3}`,
    at: [(i % 4) * 1.5, (i >> 2) * 1.4, i * 0.13] as [number, number, number],
    size: [1, i % 3 ? 1 : 0.7, 1] as [number, number, number],
  })),
)
// The last box is inside out, and the one before has normals that lean away from who looks, some even out of the front.
const BOX = 24 * 3
const LAST = mesh.normals.length - BOX
for (let i = LAST; i < mesh.normals.length; i++) mesh.normals[i] = -mesh.normals[i]!
for (let i = mesh.indices.length - 36; i < mesh.indices.length; i += 3) mesh.indices.subarray(i, i + 3).reverse()
for (let i = LAST - BOX; i < LAST; i++) mesh.normals[i] = mesh.normals[i]! - [0.55, 0.4, 0.75][i % 3]! * 1.6
mesh.maps.push({
  name: 'map',
  components: 3,
  values: Float32Array.from({ length: mesh.positions.length }, (_, i) => (i * 0.618) % 1),
})
const parts = findParts(mesh)
const tables = meshTables(
  mesh,
  parts,
  [{ set: newSet([], [], 'set'), members: Uint8Array.from(parts.parts, (_, i) => (i % 3 ? 1 : 0)) }],
  measureParts(mesh, parts),
  () => ({ pairs: Uint32Array.from({ length: 22 }, (_, i) => (i + 1) >> 1), distance: 0.01 }),
  [
    {
      name: 'picture',
      width: 61,
      height: 47,
      data: Uint8ClampedArray.from({ length: 61 * 47 * 4 }, (_, i) => (i * 97) % 256),
    },
    {
      name: 'numbers',
      width: 6,
      height: 3,
      lanes: 1,
      covers: [-1, 0.25, 2, 1.5],
      data: Float32Array.from({ length: 18 }, (_, i) => ((i * 7) % 11) - 4.5),
    },
  ],
)
/** What both backends see: enough pixels that a thousand of them see the surface. */
const WIDTH = 72
const HEIGHT = 54
const FULL = { left: 0, right: WIDTH, bottom: 0, top: HEIGHT }

const canvas = document.createElement('canvas')
const renderer = new WebGLRenderer({ canvas })
const camera = new PerspectiveCamera(40, WIDTH / HEIGHT, 0.1, 100)
camera.position.set(5.5, 4, 7.5)
camera.lookAt(2.2, 1.3, 0.7)
const sample = new Sample('agree', 1, 0, { width: WIDTH, height: HEIGHT })
sample.place(camera)
let compiled = (): void => {}
const card = new EvaluateOnCard(
  renderer,
  kernels,
  () => camera,
  () => compiled(),
  true,
)
card.setMesh(tables, boundsOf(mesh.positions), false)
card.setGround(false)
card.see(sample, 1)
const seen = await card.seenIn(sample, FULL)
const pixels = Uint32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i).filter(i => seen[i * SEEN_WORDS]! > 0)
const size = pixelSizeOf(lineOf(camera, WIDTH, HEIGHT))
const { partOfTriangle } = parts
const painter = new Painter({ width: WIDTH, first: 0, layers: [seen], sample: 0 }, partOfTriangle, seerOf(mesh, size))

/** The lanes that hold values of any size, and in which of them the values of a program go. */
const PICTURES = CHANNEL_PICTURES
const ROOM: readonly { channel: Channel; number: number; lane: number }[] = PICTURES.flatMap((picture, i) =>
  LANES[picture].flatMap((lane, k) =>
    typeof lane === 'object' && 'channel' in lane && lane.channel !== 'opacity' ? [{ ...lane, lane: i * 4 + k }] : [],
  ),
)

/** A look whose channels are some values of its program, as both backends take it. */
function lowered(look: Look, program: Program, roots: readonly Ref[]): LoweredLook {
  const result = Object.fromEntries(CHANNEL_NAMES.map(c => [c, [...program.result[c]]])) as Record<Channel, Ref[]>
  roots.forEach((ref, i) => {
    const { channel, number } = ROOM[i]!
    result[channel][number] = ref
  })
  const whole = withNormal({ ...program, result })
  return { ...whole, look, shape: String(shapes++), pictures: PICTURES, sets: new Set(), waits: false }
}
let shapes = 0

/** What the card writes. */
async function drawn(slot: LookSlot): Promise<Float32Array[]> {
  const { target } = sample.roomFor(renderer, slot, PICTURES, card.wholeFloats)
  if (typeof (await card.evaluate(slot, sample)) === 'string') throw new Error('The card has not evaluated the look.')
  const pictures: Float32Array[] = []
  for (const [i, { type }] of target.textures.entries()) {
    const half = type === HalfFloatType
    const read = half ? new Uint16Array(WIDTH * HEIGHT * 4) : new Float32Array(WIDTH * HEIGHT * 4)
    await renderer.readRenderTargetPixelsAsync(target, 0, 0, WIDTH, HEIGHT, read, undefined, i)
    pictures.push(half ? Float32Array.from(read, DataUtils.fromHalfFloat) : (read as Float32Array))
  }
  return pictures
}

/** What the card writes at the pixels that see the surface, into the lanes in which the roots are. */
const written = async (slot: LookSlot, count: number): Promise<Float32Array[]> => lanesAt(await drawn(slot), count)

/** The same of a look that is new to the card. */
async function onCard(
  shown: LoweredLook,
  values: WholeValues,
  count: number,
  slot: LookSlot = 'now',
): Promise<Float32Array[]> {
  const isReady = new Promise<void>(resolve => (compiled = resolve))
  card.setLook(slot, shown, values)
  await isReady
  return written(slot, count)
}

/** What the workers paint. */
function painted({ program, normal }: LoweredLook, gatherer: Gatherer, look: Look): Float32Array[] {
  const lanes = lanesIn(PICTURES, program, normal)
  const wanted = lanes.filter(ref => ref !== undefined)
  const evaluator = new RepeatedEvaluator(kernels, program, wanted, tables, gatherer)
  evaluator.refresh(reader(look))
  const work = painter.paint(evaluator, PICTURES, lanes)
  let step = work.next()
  while (!step.done) step = work.next()
  const { value } = step
  return PICTURES.map(name => value[name]!)
}
const byWorkers = (shown: LoweredLook, gatherer: Gatherer, look: Look, count: number): Float32Array[] =>
  lanesAt(painted(shown, gatherer, look), count)

const lanesAt = (pictures: readonly Float32Array[], count: number): Float32Array[] =>
  ROOM.slice(0, count).map(({ lane }) => Float32Array.from(pixels, i => pictures[lane >> 2]![i * 4 + (lane % 4)]!))

/** What a bake computes there: the same points, asked for as those of texels are. */
function byBake(program: Program, roots: readonly Ref[], look: Look): Float32Array[] {
  const evaluator = new LoneEvaluator(kernels, plan(program, [...roots]), tables)
  const columns = roots.map(() => new Float32Array(pixels.length))
  evaluator.refresh(reader(look))
  evaluator.evaluate(pointsAt(seen, pixels, seerOf(mesh, size).widths), columns)
  return columns
}

export interface Agreement {
  kind: string
  settings: string
  fed: string
  port: string
  points: number
  /** Largest differences from what the workers paint: on the card, there but for 2 points of 1,000, and in a bake. */
  card: number
  cardMostly: number
  bake: number
  distinct: number
}

/** A kind of node as it is tried. */
interface Trial {
  kind: NodeKind
  settings: Settings
  fed: 'surface' | 'vertices'
}

/** With what an echo stands for. */
const begun = (): Look => addNode(emptyLook(), 'noise', [0, 0], { seed: 77 }).look

/** Feeds of a look by what they feed: trials that share one need one shader less. */
type Feeds = Map<string, string>

/** Adds a node to a look unless it has one for the same purpose. @returns the look and the node's id */
function once(before: Look, feeds: Feeds, what: string, make: (look: Look) => ReturnType<typeof addNode>) {
  const old = feeds.get(what)
  if (old) return { look: before, id: old }
  const made = make(before)
  feeds.set(what, made.id)
  return made
}

/**
 * Adds a node of a kind to a look, every input fed with a pattern of its own, so that its work falls to the surface; or
 * with the components of a vertex map, so that it falls to the vertices.
 */
function trial(before: Look, feeds: Feeds, { kind, settings, fed }: Trial): { look: Look; id: string } {
  const { look: start, id } = addNode(before, kind.kind, [0, 0])
  let look = start
  for (const [name, value] of Object.entries(settings)) look = setParam(look, id, name, value)
  Object.entries(kind.inputs).forEach(([name, d], i) => {
    const type = inputType(nodeOf(look, id)!, d)
    const which = `${fed} ${i}`
    // A ramp across the mesh, each its own way: a pattern would take the compiler far longer and tell no more of this
    // node.
    const feed = once(look, feeds, `value ${which}`, l =>
      fed === 'surface'
        ? addNode(l, 'positionGradient', [0, 0], { axis: 'any', turn: 20 + 47 * i, tilt: 25 + 13 * i })
        : addNode(l, 'vertexMap', [0, 0], { map: 'map', component: i % 3 }),
    )
    const value = { node: feed.id, port: 'value' }
    const ramp = once(feed.look, feeds, `color ${which}`, l => {
      const made = addNode(l, 'ramp', [0, 0], {
        between: 'linear',
        stops: [
          { at: 0.2, color: [0.9, 0.05, 0.1] },
          { at: 0.5, color: [0.05, 0.4, 0.8] },
          { at: 0.8, color: [0.7, 0.8, 0.02] },
        ],
      })
      return { ...made, look: connect(made.look, value, { node: made.id, port: 'value' }) }
    })
    look = ramp.look
    const color = { node: ramp.id, port: 'color' }
    if (type === 'finish') {
      const finish = once(look, feeds, `finish ${which}`, l => {
        const made = addNode(l, 'finish', [0, 0], {
          // The second one, which lies above, leaves a channel open.
          sets: CHANNEL_NAMES.filter(c => i !== 1 || c !== 'translucency'),
          metalness: 0.2 + i * 0.5,
          height: i - 0.4,
          opacity: 0.3 + i * 0.4,
          emission: [0.1 + i * 0.3, 0.2, 0.5 - i * 0.1],
          translucency: 0.6 - i * 0.2,
        })
        const colored = connect(made.look, color, { node: made.id, port: 'baseColor' })
        return { ...made, look: connect(colored, value, { node: made.id, port: 'roughness' }) }
      })
      look = connect(finish.look, { node: finish.id, port: 'finish' }, { node: id, port: name })
      return
    }
    if (converts(type === 'color' ? 'color' : 'value', type))
      look = connect(look, type === 'color' ? color : value, { node: id, port: name })
  })
  return { look, id }
}

type Settings = Record<string, ParamValue>

/** Settings with which choices of a kind matter that do not with the defaults. */
const TELLING: Partial<Record<string, Settings>> = { remap: { fromHigh: 0.6 }, layer: { channels: 'each' } }

/** The defaults; maps, sets and pictures name one that the mesh has. */
function usual(kind: NodeKind): Settings {
  const base: Settings = { ...TELLING[kind.kind] }
  for (const [name, d] of Object.entries(kind.params)) {
    if ((d.type === 'map' && !d.optional) || d.type === 'set' || d.type === 'picture') base[name] = d.type
    if (d.type === 'port') base[name] = 'noise1/value'
  }
  return base
}

/** What is set as a whole, each with a value of its own beside the defaults. */
function wholes(kind: NodeKind): Settings[] {
  const values: Partial<Record<string, ParamValue>> = {
    channels: [...CHANNEL_NAMES],
    pins: [
      { part: tables.parts.parts[0]!.key, value: 0.3 },
      { part: tables.parts.parts[1]!.key, roll: 2 },
    ],
    curve: [
      { x: 0.1, y: 0.2 },
      { x: 0.4, y: 0.9 },
      { x: 0.8, y: 0.3 },
    ],
  }
  return Object.entries(kind.params).flatMap(([name, d]) => {
    const value = values[d.type]
    return value === undefined ? [] : [{ ...usual(kind), [name]: value }]
  })
}

/** Everything that can be chosen instead of what is usual. */
function optionsOf(kind: NodeKind): [name: string, value: ParamValue][] {
  if (kind.kind === ECHO) return []
  const base = usual(kind)
  return Object.entries(kind.params).flatMap(([name, d]): [string, ParamValue][] => {
    if (d.type === 'choice')
      return d.options.filter(o => o.value !== (base[name] ?? d.default)).map(o => [name, o.value])
    if (d.type === 'toggle') return [[name, !d.default]]
    if (d.type === 'component') return [[name, 1]]
    if (d.type === 'map' && d.optional) return [[name, 'map']]
    return d.type === 'picture' ? [[name, 'numbers']] : []
  })
}

/** What a bake says of a kind with some settings, with its usual numbers and with others. */
function valuesWith(kind: NodeKind, settings: Settings): Float32Array[] {
  const of: Trial = { kind, settings, fed: 'surface' }
  const { look, id } = trial(begun(), new Map(), of)
  return [look, withOtherNumbers(look, [{ of, id }])].flatMap(look => {
    const program = lower(look, mesh.maps)
    return byBake(
      program,
      outsOf(program, of, id).map(o => o.ref),
      look,
    )
  })
}

/** Choices of a node that have nothing to do with one another: how a layer treats each channel. */
const areApart = (name: string): boolean => name.endsWith('Way')

/** Options that change nothing, whatever else is chosen. */
const idle: string[] = []

/**
 * Settings to try: the defaults, then every option of every choice, each beside another one if only that makes it
 * matter.
 */
function* settingsOf(kind: NodeKind): Generator<Settings> {
  const base = usual(kind)
  yield* wholes(kind)
  yield base
  const options = optionsOf(kind)
  const known = new Map<Settings, Float32Array[]>()
  const beside = [base, ...options.map(([name, value]) => ({ ...base, [name]: value })), ...wholes(kind)]
  const matters = (settings: Settings, name: string, value: ParamValue): boolean => {
    const before = known.get(settings) ?? valuesWith(kind, settings)
    known.set(settings, before)
    const after = valuesWith(kind, { ...settings, [name]: value })
    return before.length !== after.length || apart(before, after) > 1e-3
  }
  const together: Settings[] = []
  const count = new Map<string, number>()
  for (const [name, value] of options) {
    const opened = beside.find(settings => settings[name] === base[name] && matters(settings, name, value))
    if (!opened) {
      idle.push(`${kind.kind}: ${name} ${String(value)}`)
      continue
    }
    const nth = count.get(name) ?? 0
    count.set(name, nth + 1)
    if (areApart(name)) together[nth] = { ...together[nth], ...opened, [name]: value }
    else yield { ...opened, [name]: value }
  }
  yield* together
}

/** A look with other numbers in some of its nodes: all at once, for there is little more to learn from each alone. */
const withOtherNumbers = (look: Look, held: readonly Held[]): Look =>
  held.reduce(
    (changed, { of, id }) =>
      Object.entries(of.kind.params).reduce(
        (l, [name, d]) =>
          d.type === 'number' ? setParam(l, id, name, Math.min(d.max, d.default * 1.5 + d.step * 3)) : l,
        changed,
      ),
    look,
  )

/**
 * The largest difference between columns, relative above 1.
 * @param spared how many points of 1,000 are left out, those that differ most
 */
function apart(columns: readonly Float32Array[], others: readonly Float32Array[], spared = 0): number {
  const found = new Float64Array(pixels.length)
  columns.forEach((column, k) =>
    column.forEach((x, i) => {
      const off = Math.abs(x - others[k]![i]!) / Math.max(1, Math.abs(x))
      found[i] = Math.max(found[i]!, Number.isNaN(off) ? Infinity : off)
    }),
  )
  return found.sort()[found.length - 1 - Math.floor((found.length * spared) / 1000)]!
}

function* trials(): Generator<Trial> {
  for (const kind of KINDS) {
    if (kind.kind === RESULT) continue
    const fedBy = Object.values(kind.inputs).length ? (['surface', 'vertices'] as const) : (['surface'] as const)
    // From the vertices once: which choices are made does not change how a stage hands its values on.
    for (const [n, settings] of [...settingsOf(kind)].entries())
      for (const fed of n ? fedBy.slice(0, 1) : fedBy) yield { kind, settings, fed }
  }
}

/** A trial in a look, with the node that is tried. */
interface Held {
  of: Trial
  id: string
}
/** Values of a program that a trial puts out. */
interface Out {
  of: Trial
  port: string
  ref: Ref
}
const outsOf = (program: Program, of: Trial, id: string): Out[] =>
  Object.keys(of.kind.outputs).flatMap(port =>
    refsOf(program.outputs.get(`${id}/${port}`)!).map(ref => ({ of, port, ref })),
  )

/** Patterns of several noises, of which a shader is compiled in far more time than as many shaders of one each. */
const DEAR = 'grunge'
const DEAR_AT_ONCE = 3

/** A look that holds trials. */
interface Packed {
  look: Look
  program: Program
  outs: Out[]
}
const packed = (look: Look, held: readonly Held[]): Packed => {
  const program = lower(look, mesh.maps)
  return { look, program, outs: held.flatMap(({ of, id }) => outsOf(program, of, id)) }
}

/**
 * Looks that hold as many trials as there is room for the values of: fewer shaders to compile. Each comes twice, the
 * second time with other numbers, with which the text of the shader is the same.
 */
function* looks(): Generator<[usual: Packed, others: Packed]> {
  let look = begun()
  let feeds: Feeds = new Map()
  let held: Held[] = []
  let room: number = ROOM.length
  const whole = (): [Packed, Packed] => [packed(look, held), packed(withOtherNumbers(look, held), held)]
  for (const of of trials()) {
    const alone = trial(begun(), new Map(), of)
    const needs = outsOf(lower(alone.look, mesh.maps), of, alone.id).length
    const isFull = of.kind.kind === DEAR && held.length >= DEAR_AT_ONCE
    if (held.length && (isFull || needs > room)) {
      yield whole()
      look = begun()
      feeds = new Map()
      held = []
      room = ROOM.length
    }
    const added = trial(look, feeds, of)
    look = added.look
    held.push({ of, id: added.id })
    room -= needs
  }
  yield whole()
}

/** What the card, the workers and a bake say of some values of a look that the card has, or has just compiled. */
async function compared(
  { look, program }: Packed,
  some: readonly Out[],
  shape: string | undefined,
): Promise<{ shape: string; found: Agreement[] }> {
  const roots = some.map(r => r.ref)
  const shown = lowered(look, program, roots)
  const gatherer = new Gatherer(kernels, shown.program, tables)
  const ofWorkers = byWorkers(shown, gatherer, look, roots.length)
  const needed = gatherer.costly(resultRoots(shown.program))
  const values = needed.map(ref => ({ ref, value: gatherer.valueOf(ref) }))
  let ofCard: Float32Array[]
  if (shape === undefined) ofCard = await onCard(shown, values, roots.length)
  else {
    card.setLook('now', { ...shown, shape }, values)
    ofCard = await written('now', roots.length)
  }
  const baked = byBake(program, roots, look)
  const found: Agreement[] = []
  for (const of of new Set(some.map(r => r.of)))
    for (const port of new Set(some.filter(r => r.of === of).map(r => r.port))) {
      const own = <T>(columns: readonly T[]): T[] =>
        columns.filter((_, i) => some[i]!.of === of && some[i]!.port === port)
      found.push({
        kind: of.kind.kind,
        settings: `${JSON.stringify(of.settings)}${shape === undefined ? '' : ' with other numbers'}`,
        fed: of.fed,
        port,
        points: pixels.length,
        card: apart(own(ofWorkers), own(ofCard)),
        cardMostly: apart(own(ofWorkers), own(ofCard), 2),
        bake: apart(own(ofWorkers), own(baked)),
        distinct: new Set(own(ofWorkers)[0]).size,
      })
    }
  return { shape: shown.shape, found }
}

async function compare(): Promise<{ found: Agreement[]; idle: string[] }> {
  const found: Agreement[] = []
  for (const [usual, others] of looks())
    for (let from = 0; from < usual.outs.length; from += ROOM.length) {
      const first = await compared(usual, usual.outs.slice(from, from + ROOM.length), undefined)
      const second = await compared(others, others.outs.slice(from, from + ROOM.length), first.shape)
      found.push(...first.found, ...second.found)
    }
  return { found, idle }
}

export interface Dragged {
  what: string
  /** How many values were kept at each point. */
  kept: number
  /** The largest difference from the same look run as a whole. */
  apart: number
  distinct: number
}

/** A pattern colors the surface; a second one, with a size, says how much of it is seen. */
function twoPatterns(size: number, seed: number): { shown: LoweredLook; count: number } {
  let look = emptyLook()
  const add = (kind: string, settings: Record<string, ParamValue> = {}): string => {
    const added = addNode(look, kind, [0, 0], settings)
    look = added.look
    return added.id
  }
  const color = add('noise', { size: 90, detail: 3, seed })
  const share = add('noise', { size, detail: 2, seed: 5 })
  const ramp = add('ramp')
  const mix = add('mix')
  look = connect(look, { node: color, port: 'value' }, { node: ramp, port: 'value' })
  look = connect(look, { node: ramp, port: 'color' }, { node: mix, port: 'a' })
  look = connect(look, { node: share, port: 'value' }, { node: mix, port: 'amount' })
  const program = lower(look, mesh.maps)
  const roots = [`${mix}/out`, `${color}/value`].flatMap(port => refsOf(program.outputs.get(port)!))
  return { shown: lowered(look, program, roots), count: roots.length }
}

/** What the card writes while a number is dragged, beside what it writes for the same numbers at once. */
async function drag(): Promise<Dragged[]> {
  const found: Dragged[] = []
  const tell = async (what: string, size: number, seed = 1): Promise<void> => {
    const { shown, count } = twoPatterns(size, seed)
    const kept = card.keptOf('now')
    const now = await written('now', count)
    const whole = await onCard(shown, [], count, 'kept')
    found.push({ what, kept, apart: apart(now, whole), distinct: new Set(now[0]).size })
  }
  const set = (size: number, seed = 1): void =>
    card.setLook('now', { ...twoPatterns(size, seed).shown, shape: 'dragged' }, [])
  const { shown, count } = twoPatterns(40, 1)
  await onCard({ ...shown, shape: 'dragged' }, [], count)
  set(44)
  await tell('changed once', 44)
  set(48)
  await tell('being compiled', 48)
  while (!card.keptOf('now')) await new Promise(resolve => setTimeout(resolve, 10))
  for (const size of [52, 56]) {
    set(size)
    await tell('dragged', size)
  }
  camera.position.x -= 1
  sample.place(camera)
  card.drop(sample)
  card.see(sample, 1)
  await tell('seen from elsewhere', 56)
  set(56, 2)
  await tell('something else changed', 56, 2)
  return found
}

/** How the normals at some pixels lie. */
export interface Faced {
  points: number
  /** How many of them face who looks. */
  toward: number
}

/** How normals lie where the mesh is as usual, where it is seen from its inside, and where they lean. */
export interface Faces {
  /** The largest difference between what both write. */
  apart: number
  usual: Faced
  inside: Faced
  leaning: Faced
}

/** The normals that the card and the workers write. */
async function face(): Promise<Faces> {
  const look = begun()
  const shown = lowered(look, lower(look, mesh.maps), [])
  await onCard(shown, [], 0)
  const at = PICTURES.indexOf('facing')
  const ofCard = (await drawn('now'))[at]!
  const ofWorkers = painted(shown, new Gatherer(kernels, shown.program, tables), look)[at]!
  const found = { usual: { points: 0, toward: 0 }, inside: { points: 0, toward: 0 }, leaning: { points: 0, toward: 0 } }
  let off = 0
  const points = pointsAt(seen, pixels)
  pixels.forEach((pixel, i) => {
    const corner = mesh.indices[points.triangle[i]! * 3]! * 3
    const way = [0, 1, 2].map(k => size.eye[k]! - mesh.positions[corner + k]!)
    const along = way.reduce((sum, w, k) => sum + w * ofWorkers[pixel * 4 + k]!, 0)
    let which: keyof typeof found = 'usual'
    if (corner >= LAST) which = 'inside'
    else if (corner >= LAST - BOX) which = 'leaning'
    found[which].points++
    if (along > 0) found[which].toward++
    for (let k = 0; k < 3; k++) off = Math.max(off, Math.abs(ofCard[pixel * 4 + k]! - ofWorkers[pixel * 4 + k]!))
  })
  return { apart: off, ...found }
}

Object.assign(window, { compare, drag, face })
