import { addNode, connect, disconnect, duplicateNodes, removeNodes } from './edit'
import { servants } from './handwork'
import { kindFor, outputType, paramOf } from './kinds'
import { LOOK_VERSION, type Look, type LookNode, type Recipe } from './look'
import { nodeOf, sourceOf } from './find'
import { finishMade, finishThrough, switchNodes } from './pass'
import { samePort, type Port } from './ports'
import { addRecipe } from './recipe'
import { CHANNEL_NAMES, type Channel } from './types'
import { RESULT } from '../nodes'

/** One finish laid over what lies below: a node that takes a finish and gives it on. */
export interface Step {
  node: LookNode
  below: Port
  out: Port
  /** Where its mask comes from: for a layer the port wired in, for a recipe its own mask. */
  mask?: Port
}
/**
 * A look read in the order in which it is laid down: what lies at the bottom, and what is laid over it, first to last.
 */
export interface Strip {
  base?: Port
  steps: Step[]
  end: Port
}

/**
 * Reads the chain of finishes that ends in the result. Every look with a result has one; a look without layers has a
 * base alone, or nothing.
 */
export function stripOf(look: Look): Strip | null {
  const result = look.nodes.find(n => n.kind === RESULT)
  if (!result) return null
  const end: Port = { node: result.id, port: 'finish' }
  const steps: Step[] = []
  const seen = new Set<string>()
  let from = sourceOf(look, end)
  for (
    let node = from && nodeOf(look, from.node);
    from && node && !seen.has(node.id);
    node = from && nodeOf(look, from.node)
  ) {
    seen.add(node.id)
    const through = finishThrough(node)
    if (!through || through.output !== from.port) break
    const below: Port = { node: node.id, port: through.input }
    steps.unshift({ node, below, out: from, mask: maskOf(look, node) })
    from = sourceOf(look, below)
  }
  return { ...(from && { base: from }), steps, end }
}

function maskOf(look: Look, node: LookNode): Port | undefined {
  if (kindFor(node)?.inputs.mask) return sourceOf(look, { node: node.id, port: 'mask' })
  const port = Object.entries(kindFor(node)?.outputs ?? {}).find(([, d]) => outputType(node, d) === 'value')?.[0]
  return port ? { node: node.id, port } : undefined
}

/** Where the finish under place `index` comes from, and the input that it goes into: 0 is right above the base. */
function seam(strip: Strip, index: number): { from?: Port; to: Port } {
  const { base, steps, end } = strip
  const above = steps[index]
  const under = steps[index - 1]
  return { ...((under?.out ?? base) && { from: under?.out ?? base }), to: above?.below ?? end }
}

const ROOM = 220
/** Makes room for a step: what follows the seam moves to the right, if something lies there. */
function widened(look: Look, strip: Strip, index: number): { look: Look; at: [number, number] } {
  const to = nodeOf(look, seam(strip, index).to.node)!
  const at: [number, number] = [...to.at]
  const moving = new Set([...strip.steps.slice(index).map(s => s.node.id), strip.end.node])
  return {
    look: { ...look, nodes: look.nodes.map(n => (moving.has(n.id) ? { ...n, at: [n.at[0] + ROOM, n.at[1]] } : n)) },
    at,
  }
}

/** Lays a node with a finish through it into the chain. */
function laidIn(look: Look, strip: Strip, index: number, id: string, through: { input: string; output: string }): Look {
  const { from, to } = seam(strip, index)
  const open = disconnect(
    look,
    look.wires.filter(w => w.to.node === to.node && w.to.port === to.port),
  )
  const under = from ? connect(open, from, { node: id, port: through.input }) : open
  return connect(under, { node: id, port: through.output }, to)
}

/** Where something that goes into a port has room: left of the node. */
function before(look: Look, to: Port): [number, number] {
  const [x, y] = nodeOf(look, to.node)!.at
  return [x - ROOM, y]
}

/** Puts a recipe that makes a finish of its own under the chain of a look that has no base. */
export function addRecipeBase(look: Look, recipe: Recipe): { look: Look; id: string } {
  const strip = stripOf(look)
  if (!strip || strip.base) return { look, id: '' }
  const { to } = seam(strip, 0)
  const { look: added, id } = addRecipe(look, recipe, before(look, to))
  const port = finishMade(nodeOf(added, id)!)
  return port ? { look: connect(added, { node: id, port }, to), id } : { look, id: '' }
}

/** The nearest place that a chain has for a new step: from 0, right above the base, to the one right below the end. */
const placeIn = (strip: Strip, place: number): number => Math.max(0, Math.min(strip.steps.length, place))

/**
 * Adds a layer with a finish and a mask of its own.
 * @param place in the strip: 0 is right above the base; one that the strip does not have is taken for the nearest
 */
export function addStep(look: Look, place: number): { look: Look; id: string } {
  const strip = stripOf(look)
  if (!strip) return { look, id: '' }
  const index = placeIn(strip, place)
  let base = look
  // Nothing is laid over nothing: a look without a base gets a plain one.
  if (!strip.base) {
    const to = seam(strip, 0).to
    const made = addNode(look, 'finish', before(look, to))
    base = connect(made.look, { node: made.id, port: 'finish' }, to)
    if (!strip.steps.length && index === 0) return { look: base, id: made.id }
  }
  const now = stripOf(base)!
  const room = widened(base, now, index)
  const [x, y] = room.at
  const layer = addNode(room.look, 'layer', [x, y])
  const finish = addNode(layer.look, 'finish', [x - ROOM, y + 240], { baseColor: [0.22, 0.2, 0.17], roughness: 0.8 })
  const mask = addNode(finish.look, 'noise', [x - ROOM * 2, y + 570])
  const cover = addNode(mask.look, 'coverage', [x - ROOM, y + 570])
  const wired = [
    [finish.id, 'finish', layer.id, 'above'],
    [mask.id, 'value', cover.id, 'value'],
    [cover.id, 'value', layer.id, 'mask'],
  ] as const
  const full = wired.reduce((l, [a, p, b, q]) => connect(l, { node: a, port: p }, { node: b, port: q }), cover.look)
  return { look: laidIn(full, now, index, layer.id, { input: 'below', output: 'finish' }), id: layer.id }
}

/**
 * Lays a recipe that takes a finish and gives it on into the chain.
 * @param place in the strip, as of {@link addStep}
 */
export function addRecipeStep(look: Look, place: number, recipe: Recipe): { look: Look; id: string } {
  const strip = stripOf(look)
  if (!strip) return { look, id: '' }
  const index = placeIn(strip, place)
  const room = widened(look, strip, index)
  const added = addRecipe(room.look, recipe, room.at)
  const through = finishThrough(nodeOf(added.look, added.id)!)
  return through ? { look: laidIn(added.look, strip, index, added.id, through), id: added.id } : { look, id: '' }
}

/**
 * Moves a step to another place. Cards change places with it. The look as it was where that would make a loop, as when
 * a step's mask is made from what another gives out.
 */
export function moveStep(look: Look, id: string, to: number): Look {
  const strip = stripOf(look)
  const from = strip?.steps.findIndex(s => s.node.id === id) ?? -1
  if (!strip || from < 0) return look
  const place = Math.max(0, Math.min(strip.steps.length - 1, to))
  if (place === from) return look
  const order = [...strip.steps]
  order.splice(place, 0, ...order.splice(from, 1))
  const seams = [...order.map(s => s.below), strip.end].map((input, i) => ({
    input,
    under: i > 0 ? order[i - 1]!.out : strip.base,
  }))
  // In a long chain most wires stay; each that is laid anew is looked at for loops.
  const changed = seams.filter(({ input, under }) => {
    const old = sourceOf(look, input)
    return old && under ? !samePort(old, under) : old !== under
  })
  const open = look.wires.filter(w => !changed.some(({ input }) => samePort(w.to, input)))
  let next: Look = { ...look, wires: open }
  for (const { input, under } of changed) {
    if (!under) continue
    const joined = connect(next, under, input)
    if (joined === next) return look
    next = joined
  }
  // Only those that come to stand elsewhere are others: whoever shows the look makes those anew.
  const moved = order.flatMap(({ node }, i) => (node === strip.steps[i]!.node ? [] : [[node.id, i] as const]))
  const places = new Map(moved.map(([step, i]) => [step, strip.steps[i]!.node.at]))
  return { ...next, nodes: next.nodes.map(n => (places.has(n.id) ? { ...n, at: [...places.get(n.id)!] } : n)) }
}

/** Takes a step out with all that serves it alone; what lay above lies on what was below. */
export function removeStep(look: Look, id: string): Look {
  const strip = stripOf(look)
  const step = strip?.steps.find(s => s.node.id === id)
  if (!strip || !step) return look
  const keep = [strip.base, ...strip.steps.map(s => s.out)].filter((p): p is Port => p !== undefined && p.node !== id)
  return removeNodes(look, servants(look, id, keep))
}

/** Copies a step with all that serves it alone, and lays the copy over it. */
export function duplicateStep(look: Look, id: string): { look: Look; id: string } {
  const strip = stripOf(look)
  const index = strip?.steps.findIndex(s => s.node.id === id) ?? -1
  if (!strip || index < 0) return { look, id: '' }
  const keep = [strip.base, ...strip.steps.map(s => s.out)].filter((p): p is Port => p !== undefined && p.node !== id)
  const room = widened(look, strip, index + 1)
  const mine = servants(room.look, id, keep)
  const copied = duplicateNodes(room.look, mine, [ROOM, 40])
  const copy = copied.ids[mine.indexOf(id)]
  if (!copy) return { look, id: '' }
  const step = strip.steps[index]!
  const loose = disconnect(
    copied.look,
    copied.look.wires.filter(w => w.to.node === copy && w.to.port === step.below.port),
  )
  return { look: laidIn(loose, strip, index + 1, copy, { input: step.below.port, output: step.out.port }), id: copy }
}

/** The look with one step alone over the base. */
export const soloed = (look: Look, id: string): Look =>
  switchNodes(
    look,
    stripOf(look)
      ?.steps.filter(s => s.node.id !== id)
      .map(s => s.node.id) ?? [],
    true,
  )

/** A channel that a step changes; how much of it, where one number says so. */
export interface Touched {
  channel: Channel
  amount?: number
}
/** The channels that a step changes, in their usual order. What a wire sets shows no amount. */
export function touched(look: Look, id: string): Touched[] {
  const node = nodeOf(look, id)
  if (!node) return []
  if (node.recipe)
    return node.recipe.nodes
      .filter(finishThrough)
      .flatMap(n => touched(inside(node.recipe!), n.id))
      .filter((t, i, all) => all.findIndex(u => u.channel === t.channel) === i)
  const above = sourceOf(look, { node: id, port: 'above' })
  const sets = new Set(above ? setsOf(look, above) : [])
  const number = (name: string) => Number(paramOf(node, name))
  const each = paramOf(node, 'channels') === 'each'
  const wired = sourceOf(look, { node: id, port: 'amount' }) !== undefined
  if (paramOf(node, 'opens') === 'coat') for (const c of CHANNEL_NAMES) sets.add(c)
  return CHANNEL_NAMES.filter(c => sets.has(c) && !(each && paramOf(node, `${c}Way`) === 'leave')).map(channel => ({
    channel,
    ...(!wired && { amount: number('amount') * (each ? number(`${channel}Amount`) : 1) }),
  }))
}
const inside = (recipe: Recipe): Look => ({
  ubblet: 'look',
  version: LOOK_VERSION,
  name: recipe.title,
  nodes: recipe.nodes,
  wires: recipe.wires,
})

/** The channels that a finish port sets. */
function setsOf(look: Look, port: Port, seen = new Set<string>()): Channel[] {
  const node = nodeOf(look, port.node)
  if (!node || node.off || seen.has(node.id)) return []
  seen.add(node.id)
  if (node.kind === 'finish') {
    const wired = new Set<string>(look.wires.filter(w => w.to.node === node.id).map(w => w.to.port))
    return CHANNEL_NAMES.filter(c => (paramOf(node, 'sets') as string[]).includes(c) || wired.has(c))
  }
  const found = new Set(
    look.wires
      .filter(w => w.to.node === node.id && kindFor(nodeOf(look, w.from.node)!)?.outputs[w.from.port])
      .flatMap(w => setsOf(look, w.from, seen)),
  )
  return CHANNEL_NAMES.filter(c => found.has(c))
}
