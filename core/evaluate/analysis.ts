import { encodeSrgb, toHex, toLab, toLch, type Triple } from '../color/convert'
import type { Finding } from '../graph/check'
import type { Look } from '../graph/look'
import { kindFor } from '../graph/kinds'
import { pageOf } from '../graph/scope'
import { CHANNEL_NAMES, type Channel } from '../graph/types'
import { RESULT } from '../nodes'
import type { Lowered } from '../nodes/declare'
import type { Kernels } from '../kernels/kernels'
import { samplePoints, type SurfacePoints } from '../mesh/sample'
import { lowerOn, reader, refsOf, signature, type Program } from '../program/lower'
import type { Ref } from '../program/ops'
import { plan } from '../program/plan'
import { atOnce } from '../pieces'
import { checkingValues } from './checks'
import { Evaluator } from './evaluator'
import { FollowingEvaluator, type Followed } from './followed'
import { Gatherer, type Pace, type WholeValues } from './gather'
import { LaidLook } from './laidLook'
import type { MeshTables } from './tables'
import { smallView, type SmallView } from './view'
import { resultRoots } from './visible'

/** How many area-weighted points stand behind every histogram, mean and range. */
export const STATISTICS_POINTS = 6144
/** Size of a swatch in CSS pixels. */
export const SWATCH_WIDTH = 160
export const SWATCH_HEIGHT = 90
/** Points behind a pixel of a swatch at rest, in each direction. */
const SWATCH_FINER = 2
/** Values times points above which swatches stay as they are while the hands move. */
const SWATCH_MOST = 12_000_000

/** A distribution over the surface by area: `shares` add up to 1. */
export interface Reading {
  title: string
  /** What the horizontal axis means. */
  axis: 'value' | 'lightness' | 'roughness'
  low: number
  high: number
  mean: number
  /** Ends of the axis; the bins divide it evenly. */
  from: number
  to: number
  shares: number[]
  /** The mean color of each bin, for colors. */
  colors?: string[]
}

/** `covered` is the share of the surface where a number is above a half. */
export interface PortSummary {
  mean: Triple
  low: number
  high: number
  covered: number
}

/** What the interface shows of a look besides the stage. */
export interface Analysis {
  /**
   * Per node whose picture has changed since the last analysis: RGBA bytes, encoded for display; transparent where no
   * surface is seen.
   */
  swatches: Record<string, Uint8ClampedArray>
  /** Per output port, under `node/port`. */
  ports: Record<string, PortSummary>
  readings: Reading[]
  dots?: Dots
}

/**
 * The first output of the node that is read, per part: the mean over the points that fall on it. Parts on which none
 * falls are left out.
 */
export type Dots =
  | { of: 'value'; title: string; parts: { part: number; value: number }[] }
  /** Hue in degrees, lightness and chroma of OKLCH, and the color encoded. */
  | {
      of: 'color'
      title: string
      parts: { part: number; hue: number; lightness: number; chroma: number; hex: string }[]
    }

interface Output {
  key: string
  node: string
  title: string
  type: string
  refs: Ref[]
}

/** What of a value its swatch shows: of a finish the color and roughness, or whatever else it sets. */
function shownOf(value: Lowered): Ref[] {
  if (value.type === 'value') return [value.value]
  if (value.type !== 'finish') return value.value
  const { baseColor, roughness = [] } = value.value
  return baseColor ? [...baseColor, ...roughness] : (Object.values(value.value)[0]?.slice(0, 1) ?? [])
}

const columnsOf = ({ refs }: Output, { columns }: Followed): Float32Array[] => refs.map(ref => columns.get(ref)!)

interface Session {
  signature: string
  program: Program
  /** Shared by all evaluators of the look. */
  gatherer: Gatherer
  /** What the stage waits for. */
  costly: readonly Ref[]
  sent: Map<Ref, number>
  outputs: Output[]
  values: FollowingEvaluator
  /** Values at the points of statistics, and at those of views. */
  atPoints?: Followed
  atView: Map<SmallView, Followed>
  ports: Map<Output, PortSummary>
  result?: Evaluator
}

/**
 * What the interface needs to know of a look besides the stage. Keeps what does not change from one time to the next:
 * the points, and the plans while the graph keeps its shape.
 */
export class Analyzer {
  private readonly views = new Map<number, SmallView>()
  private statisticPoints?: SurfacePoints
  /** Swatches as they were with one point to a pixel, and the nodes whose finer ones are due. */
  private readonly shown = new Map<string, Uint8ClampedArray>()
  private readonly due = new Set<string>()
  private current?: Session
  private scope: readonly string[] = []

  constructor(
    private readonly kernels: Kernels,
    private readonly tables: MeshTables,
  ) {}

  /** Found when they are needed first, for the stage waits for values without any. */
  private get points(): SurfacePoints {
    return (this.statisticPoints ??= samplePoints(this.tables.mesh, STATISTICS_POINTS))
  }

  /**
   * The values that the stage does not compute itself; only those that it has not been sent before.
   * @param all those that were sent before, too
   * @param port a port (`node/port`) that the stage shows in place of the result
   */
  gather(look: Look, pace: Pace, all: boolean, port?: string): WholeValues {
    return atOnce(this.gathering(look, pace, all, port))
  }
  /** The same value by value: whoever runs it may ask for something else in between. */
  *gathering(look: Look, pace: Pace, all: boolean, port?: string): Generator<void, WholeValues> {
    const { gatherer, program, costly: forResult, sent } = this.prepare(look)
    const probed = port ? program.outputs.get(port) : undefined
    const own = probed ? gatherer.costly(refsOf(probed)) : []
    const costly = own.length ? [...new Set([...forResult, ...own])] : forResult
    if (own.length) gatherer.need(own)
    yield* atPace(gatherer, pace, gatherer.refreshing(reader(look), costly))
    if (all) sent.clear()
    const fresh = costly.filter(ref => sent.get(ref) !== gatherer.versionOf(ref))
    for (const ref of fresh) sent.set(ref, gatherer.versionOf(ref))
    return fresh.map(ref => ({ ref, value: gatherer.valueOf(ref) }))
  }

  /** Finds out hastily, value by value, and keeps what {@link gather} will be asked for first. */
  *foresee(look: Look): Generator<void, void> {
    const { gatherer, costly } = this.prepare(look)
    yield* atPace(gatherer, 'hasty', gatherer.refreshing(reader(look), costly))
  }

  /**
   * What is wrong with the look, piece by piece: see `checkValues`. What was found of the whole surface for the stage
   * is not found again.
   */
  *checking(look: Look, texels: number): Generator<void, Finding[]> {
    const { kernels, tables } = this
    const { program, gatherer } = this.prepare(look)
    const laid = new LaidLook(kernels, tables, program, reader(look), undefined, gatherer)
    return yield* atPace(gatherer, 'exact', checkingValues(kernels, tables, look, texels, laid))
  }

  /** Every channel of the result at some points. */
  channelsAt(look: Look, points: SurfacePoints): Record<Channel, Float32Array[]> {
    const session = this.prepare(look)
    const { program, gatherer } = session
    const evaluator = (session.result ??= new Evaluator(
      this.kernels,
      plan(program, resultRoots(program)),
      this.tables,
      gatherer,
    ))
    const read = reader(look)
    const columns = evaluator.plan.roots.map(() => new Float32Array(points.count))
    gatherer.pace = 'hasty'
    gatherer.refresh(read)
    evaluator.refresh(read)
    evaluator.evaluate(points, columns)
    return Object.fromEntries(CHANNEL_NAMES.map(c => [c, columns.splice(0, program.result[c].length)])) as Record<
      Channel,
      Float32Array[]
    >
  }

  /**
   * @param focus the node whose outputs are read as histograms
   * @param scope the recipes that are open: the nodes of that page are looked at
   * @param ratio device pixels for each CSS pixel of a swatch
   */
  analyze(look: Look, focus?: string, scope: readonly string[] = [], ratio = 1, pace: Pace = 'exact'): Analysis {
    return atOnce(this.analyzing(look, focus, scope, ratio, pace))
  }
  /** The same piece by piece: whoever runs it may ask for something else in between. */
  *analyzing(
    look: Look,
    focus: string | undefined,
    scope: readonly string[],
    ratio: number,
    pace: Pace,
  ): Generator<void, Analysis> {
    const session = this.prepare(look, scope)
    const { values, outputs, ports, gatherer } = session
    const atPoints = (session.atPoints ??= values.follow(this.points))
    yield* atPace(gatherer, pace, gatherer.refreshing(reader(look)))
    values.refresh(reader(look))
    const fresh = values.bring(atPoints)
    const readings: Reading[] = []
    let dots: Dots | undefined
    for (const output of outputs) {
      const columns = columnsOf(output, atPoints)
      if (!ports.has(output) || output.refs.some(ref => fresh.has(ref))) ports.set(output, summarize(columns))
      if (output.node !== focus) continue
      readings.push(...readingsOf(output, columns))
      dots ??= this.dotsOf(output, columns)
    }
    const swatches: Analysis['swatches'] = {}
    for (const [node, pixels] of yield* this.swatches(session, ratio, 1)) {
      const old = this.shown.get(node)
      if (old?.length === pixels.length && pixels.every((x, i) => x === old[i])) continue
      this.shown.set(node, pixels)
      this.due.add(node)
      // A copy, for the caller may give it away to another thread.
      swatches[node] = pixels.slice()
    }
    const there = new Set(outputs.map(o => o.node))
    for (const kept of [this.shown, this.due]) for (const node of kept.keys()) if (!there.has(node)) kept.delete(node)
    return {
      swatches,
      ports: Object.fromEntries([...ports].map(([output, summary]) => [output.key, summary])),
      readings,
      ...(dots && { dots }),
    }
  }

  /**
   * Smooth swatches of what was last analyzed, for the nodes that have none; piece by piece. They stay due where this
   * is given up.
   */
  *refining(ratio = 1): Generator<void, Analysis['swatches']> {
    const { current, due } = this
    if (!current || !due.size) return {}
    const points = SWATCH_WIDTH * SWATCH_HEIGHT * (ratio * SWATCH_FINER) ** 2
    const wanted = new Set(due)
    const isDear = !current.atPoints || current.atPoints.columns.size * points > SWATCH_MOST
    const found = isDear ? new Map() : yield* this.swatches(current, ratio, SWATCH_FINER, wanted)
    for (const node of isDear ? wanted : found.keys()) due.delete(node)
    return Object.fromEntries(found)
  }

  /**
   * The swatches of nodes' first outputs that are not as they were when this was last asked for; piece by piece.
   * @param finer points for each pixel, in each direction
   * @param only the nodes that are wanted; those whose values have changed where it is left out
   */
  private *swatches(
    { values, outputs, atView }: Session,
    ratio: number,
    finer: number,
    only?: ReadonlySet<string>,
  ): Generator<void, Map<string, Uint8ClampedArray>> {
    const times = ratio * finer
    const { mesh, parts } = this.tables
    const view = this.views.get(times) ?? smallView(mesh, parts, SWATCH_WIDTH * times, SWATCH_HEIGHT * times)
    this.views.set(times, view)
    const followed = atView.get(view) ?? values.follow(view.points)
    atView.set(view, followed)
    const firsts = [...new Map([...outputs].reverse().map(o => [o.node, o])).values()].reverse()
    const wanted = only ? firsts.filter(o => only.has(o.node)) : firsts
    const refs = new Set(wanted.flatMap(o => o.refs))
    const fresh = yield* values.bringing(followed, refs)
    const found = new Map<string, Uint8ClampedArray>()
    // They are of parameters that others have changed meanwhile.
    if ([...refs].some(ref => followed.stale.has(ref))) return found
    const changed = only ? wanted : wanted.filter(o => o.refs.some(ref => fresh.has(ref)))
    for (const o of changed) {
      // What has changed is known this once: that is not given up.
      if (only && found.size) yield
      found.set(o.node, swatchOf(view, columnsOf(o, followed), o.type, finer))
    }
    return found
  }

  private prepare(look: Look, scope: readonly string[] = this.scope): Session {
    this.scope = scope
    const shape = `${scope.join('/')} ${signature(look)}`
    const prefix = scope.map(id => `${id}/`).join('')
    if (this.current?.signature === shape) return this.current
    const program = lowerOn(look, this.tables.mesh)
    const gatherer = new Gatherer(this.kernels, program, this.tables)
    // What lies inside recipes has no card.
    const page = pageOf(look, scope)
    const outputs = page.nodes
      .flatMap(node =>
        Object.entries(kindFor(node)?.outputs ?? {}).flatMap(([port, { title }]): Output[] => {
          const value = program.outputs.get(`${prefix}${node.id}/${port}`)
          return value
            ? [{ node: node.id, key: `${node.id}/${port}`, title, type: value.type, refs: shownOf(value) }]
            : []
        }),
      )
      .filter(o => o.refs.length)
    const end = page.nodes.find(n => n.kind === RESULT)
    if (end)
      outputs.push({
        key: `${end.id}/`,
        node: end.id,
        title: 'Result',
        type: 'finish',
        refs: [...program.result.baseColor, ...program.result.roughness],
      })
    const roots = outputs.flatMap(o => o.refs)
    const values = new FollowingEvaluator(this.kernels, program, roots, this.tables, gatherer)
    const costly = gatherer.costly(resultRoots(program))
    gatherer.need(costly)
    this.current = {
      signature: shape,
      program,
      gatherer,
      costly,
      sent: new Map(),
      outputs,
      values,
      atView: new Map(),
      ports: new Map(),
    }
    return this.current
  }

  private dotsOf({ title, type }: Output, columns: Float32Array[]): Dots {
    const { parts } = this.tables
    const sums = columns.slice(0, 3).map(() => new Float64Array(parts.parts.length))
    const counts = new Uint32Array(parts.parts.length)
    this.points.triangle.forEach((t, i) => {
      const p = parts.partOfTriangle[t]!
      counts[p]!++
      sums.forEach((s, k) => {
        s[p]! += columns[k]![i]!
      })
    })
    const hit = [...counts.keys()].filter(p => counts[p])
    const mean = (p: number, k: number) => sums[k]![p]! / counts[p]!
    if (columns.length < 3 || type === 'vector')
      return {
        of: 'value',
        title,
        parts: hit.map(part => ({ part, value: mean(part, 0) })).sort((a, b) => a.value - b.value),
      }
    return {
      of: 'color',
      title,
      parts: hit.map(part => {
        const rgb: Triple = [mean(part, 0), mean(part, 1), mean(part, 2)]
        const [lightness, chroma, hue] = toLch(rgb)
        return { part, hue, lightness, chroma, hex: toHex(rgb) }
      }),
    }
  }
}

/** Does work of a gatherer at a pace, whatever others ask of it in between. */
function* atPace<T>(gatherer: Gatherer, pace: Pace, work: Generator<void, T>): Generator<void, T> {
  gatherer.pace = pace
  let step = work.next()
  while (!step.done) {
    yield
    gatherer.pace = pace
    step = work.next()
  }
  return step.value
}

/**
 * A picture of what a view sees: where its points see no surface, it is transparent.
 * @param finer points of the view for each pixel, in each direction
 */
function swatchOf(
  { width, height, pixel, shade }: SmallView,
  columns: Float32Array[],
  type: string,
  finer: number,
): Uint8ClampedArray {
  const across = width / finer
  const image = new Uint8ClampedArray(((across * height) / finer) * 4)
  const sums = new Float32Array(image.length)
  const plain = type === 'value' || type === 'vector'
  for (let i = 0; i < pixel.length; i++) {
    const x = Math.floor((pixel[i]! % width) / finer)
    const y = Math.floor(pixel[i]! / width / finer)
    const at = (y * across + x) * 4
    const light = shade[i]!
    for (let k = 0; k < 3; k++) {
      const value = columns[columns.length >= 3 ? k : 0]![i]!
      // Plain values are shown as they are, colors and finishes as light.
      sums[at + k]! += plain ? Math.min(255, Math.max(0, value * (0.75 + 0.25 * light) * 255)) : display(value * light)
    }
    sums[at + 3]!++
  }
  for (let at = 0; at < image.length; at += 4) {
    const points = sums[at + 3]!
    if (!points) continue
    for (let k = 0; k < 3; k++) image[at + k] = sums[at + k]! / points
    image[at + 3] = (points / finer ** 2) * 255
  }
  return image
}

/** sRGB bytes of linear light, from a table of 4,096 steps. */
const TABLE = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(encodeSrgb(i / 4096) * 255))
const display = (x: number): number => TABLE[Math.min(4096, Math.max(0, Math.round(x * 4096)))]!

function summarize(columns: Float32Array[]): PortSummary {
  const means = columns.map(c => c.reduce((sum, x) => sum + x, 0) / c.length)
  const first = columns[0]!
  let low = Infinity
  let high = -Infinity
  let covered = 0
  for (const x of first) {
    if (x < low) low = x
    if (x > high) high = x
    if (x > 0.5) covered++
  }
  covered /= first.length
  return {
    mean: (columns.length >= 3 ? means.slice(0, 3) : [means[0], means[0], means[0]]) as Triple,
    low,
    high,
    covered,
  }
}

const BINS = 48

function histogram(title: string, axis: Reading['axis'], values: ArrayLike<number>, rgb?: Float32Array[]): Reading {
  let low = Infinity
  let high = -Infinity
  let sum = 0
  for (let i = 0; i < values.length; i++) {
    low = Math.min(low, values[i]!)
    high = Math.max(high, values[i]!)
    sum += values[i]!
  }
  const from = Math.min(0, low)
  const to = Math.max(1, high)
  const counts = new Array<number>(BINS).fill(0)
  const colors = counts.map((): Triple => [0, 0, 0])
  for (let i = 0; i < values.length; i++) {
    const bin = Math.min(BINS - 1, Math.floor(((values[i]! - from) / (to - from)) * BINS))
    counts[bin]!++
    rgb?.forEach((c, k) => {
      colors[bin]![k]! += c[i]!
    })
  }
  return {
    title,
    axis,
    low,
    high,
    from,
    to,
    mean: sum / values.length,
    shares: counts.map(n => n / values.length),
    ...(rgb && { colors: colors.map((c, i) => toHex(c.map(x => x / Math.max(1, counts[i]!)))) }),
  }
}

function readingsOf(output: Output, columns: Float32Array[]): Reading[] {
  if (columns.length === 1) return [histogram(output.title, 'value', columns[0]!)]
  const rgb = columns.slice(0, 3)
  const light = Float32Array.from(rgb[0]!, (_, i) => toLab([rgb[0]![i]!, rgb[1]![i]!, rgb[2]![i]!])[0])
  const readings = [histogram('Lightness of the color', 'lightness', light, rgb)]
  if (columns.length === 4) readings.push(histogram('Roughness', 'roughness', columns[3]!))
  return readings
}
