import { Worker } from 'node:worker_threads'
import { rasterizeTile } from '../../core/bake/raster'
import { Evaluator } from '../../core/evaluate/evaluator'
import { LoneEvaluator } from '../../core/evaluate/loneEvaluator'
import { Gatherer } from '../../core/evaluate/gather'
import { meshTables, type MeshTables } from '../../core/evaluate/tables'
import { addNode, connect, setParam } from '../../core/graph/edit'
import type { Look } from '../../core/graph/look'
import { unfoldNode } from '../../core/graph/recipe'
import { CHANNEL_NAMES } from '../../core/graph/types'
import type { Kernels } from '../../core/kernels/kernels'
import { findContacts } from '../../core/mesh/contacts'
import type { VertexMap } from '../../core/mesh/mesh'
import { findParts } from '../../core/mesh/parts'
import { pointSet, type SurfacePoints } from '../../core/mesh/sample'
import { lower, reader, signature } from '../../core/program/lower'
import { plan } from '../../core/program/plan'
import { SURFACE } from '../../core/program/ops'
import { lookShader } from '../../core/shader/glsl'
import { kioskRoof } from '../../demo/kioskRoof'
import { kioskRoofMossLook } from '../../demo/kioskRoofMossLook'
import { plainLook } from './plainLook'

const SIZE = 2048
/** Points at which plain JavaScript is timed: it would take minutes for all. */
const SAMPLE = 2 ** 17

/** The mossy roof with its recipes unfolded, and layers of soot over it until there are 60 nodes. */
export function sixtyNodes(): Look {
  let look = kioskRoofMossLook()
  for (const id of look.nodes.filter(n => n.recipe).map(n => n.id)) look = unfoldNode(look, id).look
  for (let i = 0; look.nodes.length < 60; i++) {
    const noise = addNode(look, i % 2 ? 'noise' : 'grunge', [0, 0], { size: 12 + i * 7 })
    const cover = addNode(noise.look, 'coverage', [0, 0], { share: 4 })
    const finish = addNode(cover.look, 'finish', [0, 0], { baseColor: [0.03, 0.028, 0.025] })
    const layer = addNode(finish.look, 'layer', [0, 0])
    const last = layer.look.wires.find(w => w.to.node === 'result')!.from
    const port = (node: string, port: string) => ({ node, port })
    look = [
      [port(noise.id, 'value'), port(cover.id, 'value')],
      [port(cover.id, 'value'), port(layer.id, 'mask')],
      [port(finish.id, 'finish'), port(layer.id, 'above')],
      [last, port(layer.id, 'below')],
      [port(layer.id, 'finish'), port('result', 'finish')],
    ].reduce((l, [from, to]) => connect(l, from!, to!), layer.look)
  }
  return look
}

/** The kiosk roof; its occlusion is made up, since casting it is not what is measured here. */
function roof(): MeshTables {
  const { mesh } = kioskRoof()
  const occlusion: VertexMap = {
    name: 'occlusion',
    components: 1,
    values: Float32Array.from({ length: mesh.positions.length / 3 }, (_, v) => (v * 0.618) % 1),
  }
  const full = { ...mesh, maps: [...mesh.maps, occlusion] }
  const parts = findParts(full)
  const contacts = findContacts(full, parts, 0.004)
  return meshTables(full, parts, [], undefined, () => contacts)
}
const part = (all: SurfacePoints, from: number, to: number): SurfacePoints => ({
  count: to - from,
  triangle: all.triangle.subarray(from, to),
  u: all.u.subarray(from, to),
  v: all.v.subarray(from, to),
})

/** 2048 x 2048 texels: those that the layout covers, again and again until there are as many. */
function allTexels(kernels: Kernels, tables: MeshTables): SurfacePoints {
  const { points } = rasterizeTile(kernels.texels, tables.mesh, SIZE)
  const all = pointSet(SIZE * SIZE)
  for (let i = 0; i < all.count; i++) {
    const k = i % points.count
    all.triangle[i] = points.triangle[k]!
    all.u[i] = points.u[k]!
    all.v[i] = points.v[k]!
  }
  return all
}
function ready(kernels: Kernels, tables: MeshTables, look: Look): Evaluator {
  const program = lower(look, tables.mesh.maps)
  const evaluator = new LoneEvaluator(
    kernels,
    plan(
      program,
      CHANNEL_NAMES.flatMap(c => program.result[c]),
    ),
    tables,
  )
  evaluator.refresh(reader(look))
  return evaluator
}

/** Blocks of a tile's size, so that only one tile's results are held. */
const TILE = 2 ** 16
export function evaluateShare(evaluator: Evaluator, all: SurfacePoints, from: number, to: number): void {
  const out = evaluator.plan.roots.map(() => new Float32Array(TILE))
  for (let at = from; at < to; at += TILE) evaluator.evaluate(part(all, at, Math.min(to, at + TILE)), out)
}

/** A thread of its own with everything ready; times its share each time it is asked. */
export function shareThread(
  kernels: Kernels,
  port: { on(e: 'message', f: (m: { from: number; to: number }) => void): void; postMessage(m: unknown): void },
): void {
  const tables = roof()
  const evaluator = ready(kernels, tables, sixtyNodes())
  const all = allTexels(kernels, tables)
  port.on('message', ({ from, to }) => {
    evaluateShare(evaluator, all, from, to)
    port.postMessage('done')
  })
  port.postMessage('ready')
}

type Medians = (rounds: number, tasks: Record<string, () => unknown>) => Promise<Record<string, number>>
export async function sixty(kernels: Kernels, medians: Medians, round: (x: number) => number): Promise<unknown> {
  const look = sixtyNodes()
  const tables = roof()
  const evaluator = ready(kernels, tables, look)
  const all = allTexels(kernels, tables)
  // (1) What the interface's thread does when a wire is drawn, and when a number is dragged.
  const wire = look.wires.find(w => w.to.port === 'mask')!
  const less: Look = { ...look, wires: look.wires.filter(w => w !== wire) }
  const take = (l: Look): Evaluator => {
    signature(l)
    const program = lower(l, tables.mesh.maps)
    const prepared = plan(
      program,
      CHANNEL_NAMES.flatMap(c => program.result[c]),
    )
    const e = new Evaluator(kernels, prepared, tables, new Gatherer(kernels, program, tables, 'given'))
    lookShader(prepared)
    e.gatherer.refresh(reader(l))
    e.refresh(reader(l), 'parts')
    return e
  }
  let turn = 0
  const held = take(look)
  const noise = look.nodes.find(n => n.kind === 'noise')!.id
  const vary = look.nodes.find(n => n.kind === 'varyColor')!.id
  const drag = (id: string, name: string) => () => {
    const next = setParam(look, id, name, 5 + ++turn * 0.1)
    signature(next)
    const read = reader(next)
    held.gatherer.refresh(read)
    held.refresh(read, 'parts')
  }
  const script = await medians(25, {
    newWireMs: () => take(turn++ % 2 ? less : { ...look, wires: [...look.wires] }),
    surfaceDragMs: drag(noise, 'size'),
    partDragMs: drag(vary, 'hue'),
  })

  // (2) The kernels and plain JavaScript at the same points, in turn.
  const plain = plainLook(evaluator, tables.mesh)
  const some = part(all, 0, SAMPLE)
  const ours = evaluator.plan.roots.map(() => new Float32Array(SAMPLE))
  const theirs = evaluator.plan.roots.map(() => new Float32Array(SAMPLE))
  const t = await medians(3, { kernels: () => evaluator.evaluate(some, ours), plain: () => plain(some, theirs) })
  let apart = 0
  ours.forEach((c, k) =>
    c.forEach((x, i) => {
      apart += Number(Math.abs(x - theirs[k]![i]!) > 1e-2)
    }),
  )

  // (3) All texels on one thread and on two.
  const threads = await Promise.all(
    [0, 1].map(async () => {
      const w = new Worker(new URL(import.meta.url), { workerData: 'share' })
      await new Promise(resolve => w.once('message', resolve))
      return w
    }),
  )
  const ask = (w: Worker, from: number, to: number) =>
    new Promise(resolve => {
      w.once('message', resolve)
      w.postMessage({ from, to })
    })
  const n = all.count
  const whole = await medians(3, {
    one: () => ask(threads[0]!, 0, n),
    two: () => Promise.all([ask(threads[0]!, 0, n / 2), ask(threads[1]!, n / 2, n)]),
  })
  await Promise.all(threads.map(w => w.terminate()))
  return {
    nodes: look.nodes.length,
    surfaceInstructions: evaluator.plan.stages[SURFACE].order.length,
    ...Object.fromEntries(Object.entries(script).map(([k, v]) => [k, round(v)])),
    sample: SAMPLE,
    kernelsMs: round(t.kernels!),
    plainMs: round(t.plain!),
    timesAsFast: round(t.plain! / t.kernels!),
    apartShare: round(apart / SAMPLE / ours.length),
    texels: n,
    oneThreadMs: round(whole.one!),
    twoThreadsMs: round(whole.two!),
    timesAsFastOnTwo: round(whole.one! / whole.two!),
  }
}
