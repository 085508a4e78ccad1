import * as z from 'zod'

const finite = z.number()
const rgb = z.tuple([finite, finite, finite])
const stop = z.strictObject({ at: finite.min(0).max(1), color: rgb })
const id = z.string().min(1).max(64)

/** A parameter's stored value. Its kind's declaration says which of these it must be; the checks hold it to that. */
const pin = z.strictObject({
  part: z.string().min(1).max(64),
  value: finite.optional(),
  roll: z.number().int().min(0).max(4096).optional(),
})
const curvePoint = z.strictObject({ x: finite.min(0).max(1), y: finite.min(0).max(1) })

export const ParamValueSchema = z.union([
  finite,
  z.string().max(256),
  z.boolean(),
  z.array(finite).min(1).max(4),
  z.array(stop).min(1).max(64),
  z.array(z.string().max(64)).max(64),
  z.array(pin).max(4096),
  z.array(curvePoint).min(2).max(16),
])

const portSchema = z.strictObject({ node: id, port: z.string().min(1).max(64) })
export const WireSchema = z.strictObject({ from: portSchema, to: portSchema })
export type Wire = z.infer<typeof WireSchema>

export interface LookNode {
  id: string
  kind: string
  /** Upper left corner of the card, in canvas units. */
  at: [number, number]
  /** The artist's own name for it; the kind's title where there is none. */
  name?: string
  /** Switched off: what comes in passes through. */
  off?: true
  params: Record<string, z.infer<typeof ParamValueSchema>>
  /** What a node of the kind `recipe` is made of. */
  recipe?: Recipe
}

/** A part of a graph folded into one node. Names of inputs, settings and outputs are unique within the recipe. */
export interface Recipe {
  title: string
  help: string
  nodes: LookNode[]
  wires: Wire[]
  /** An input feeds one or several inputs inside. */
  inputs: { name: string; title: string; to: { node: string; port: string }[] }[]
  /** Parameters, or settings of open inputs, that can be set from outside. */
  settings: { name: string; title: string; node: string; param: string }[]
  outputs: { name: string; title: string; from: { node: string; port: string } }[]
}
const title = z.string().trim().min(1).max(80)
export const RecipeSchema: z.ZodType<Recipe> = z.lazy(() =>
  z.strictObject({
    title,
    help: z.string().max(400),
    nodes: z.array(LookNodeSchema).min(1).max(300),
    wires: z.array(WireSchema).max(2000),
    inputs: z.array(z.strictObject({ name: id, title, to: z.array(portSchema).min(1).max(64) })).max(32),
    settings: z.array(z.strictObject({ name: id, title, node: id, param: id })).max(64),
    outputs: z.array(z.strictObject({ name: id, title, from: portSchema })).max(16),
  }),
)
export const LookNodeSchema: z.ZodType<LookNode> = z.lazy(() =>
  z.strictObject({
    id,
    kind: z.string().min(1).max(64),
    at: z.tuple([finite, finite]),
    name: z.string().max(80).optional(),
    off: z.literal(true).optional(),
    params: z.record(z.string().max(64), ParamValueSchema),
    recipe: RecipeSchema.optional(),
  }),
)

/** Words on the canvas: a note, or a frame around the cards that lie on it. */
export const NoteSchema = z.strictObject({
  id,
  at: z.tuple([finite, finite]),
  size: z.tuple([finite.min(40).max(20_000), finite.min(30).max(20_000)]),
  frame: z.boolean(),
  title: z.string().max(80),
  text: z.string().max(4000),
})
export type Note = z.infer<typeof NoteSchema>

/**
 * A picture of the project on its board: its left upper corner and width, in the board's units; off the board where
 * `off` says so.
 */
export const PinnedSchema = z.strictObject({
  picture: z.string().min(1).max(256),
  at: z.tuple([finite, finite]),
  width: finite.min(20).max(8000),
  off: z.literal(true).optional(),
})
export type Pinned = z.infer<typeof PinnedSchema>

export const LOOK_VERSION = 1
export const LookSchema = z.strictObject({
  ubblet: z.literal('look'),
  version: z.literal(LOOK_VERSION),
  name: z.string().max(120),
  nodes: z.array(LookNodeSchema).max(2000),
  wires: z.array(WireSchema).max(8000),
  notes: z.array(NoteSchema).max(500).optional(),
  board: z.array(PinnedSchema).max(500).optional(),
  exposed: z
    .array(z.strictObject({ node: id, param: id }))
    .max(256)
    .optional(),
  variants: z
    .array(
      z.strictObject({
        name: z.string().trim().min(1).max(60),
        values: z.array(z.strictObject({ node: id, param: id, value: ParamValueSchema.nullable() })).max(4000),
      }),
    )
    .max(64)
    .optional(),
})

/** The look document, version 1. Ids are unique within a look; every input carries at most one wire. */
export type Look = z.infer<typeof LookSchema>

export class LookError extends Error {}

/**
 * Checks unknown data and returns it as a look.
 * @throws LookError with one sentence that says what is wrong and where.
 */
export function parseLook(data: unknown): Look {
  const version = (data as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > LOOK_VERSION) {
    throw new LookError(`This look was written by a newer version (${version}; this one reads ${LOOK_VERSION}).`)
  }
  const read = LookSchema.safeParse(data)
  if (!read.success) {
    const issue = read.error.issues[0]!
    throw new LookError(`This is not a look: ${issue.path.join('.') || 'the document'}: ${issue.message}.`)
  }
  const look = read.data
  requireWhole(look, 'This is not a look')
  return look
}

/** Ids are unique, wires end at nodes, an input has one wire; the same inside recipes. */
export function requireWhole({ nodes, wires }: Pick<Look, 'nodes' | 'wires'>, what: string, depth = 0): void {
  const ids = new Set<string>()
  for (const node of nodes) {
    if (ids.has(node.id)) throw new LookError(`${what}: two nodes have the id "${node.id}".`)
    ids.add(node.id)
    if (!node.recipe) continue
    if (depth > 7) throw new LookError(`${what}: recipes lie in one another more than eight deep.`)
    requireWhole(node.recipe, `${what}: inside "${node.recipe.title}"`, depth + 1)
    const inside = new Set(node.recipe.nodes.map(n => n.id))
    const { inputs, settings, outputs } = node.recipe
    const lost = [
      ...inputs.flatMap(i => i.to.map(t => t.node)),
      ...settings.map(s => s.node),
      ...outputs.map(o => o.from.node),
    ].find(n => !inside.has(n))
    if (lost !== undefined)
      throw new LookError(`${what}: the recipe "${node.recipe.title}" names "${lost}", which is not in it.`)
  }
  const taken = new Set<string>()
  for (const { from, to } of wires) {
    for (const end of [from, to]) {
      if (!ids.has(end.node)) throw new LookError(`${what}: a wire ends at "${end.node}", which is not there.`)
    }
    const key = `${to.node}/${to.port}`
    if (taken.has(key)) throw new LookError(`${what}: two wires lead into ${key}.`)
    taken.add(key)
  }
}

/** Checks unknown data and returns it as a recipe. @throws LookError */
export function parseRecipe(data: unknown): Recipe {
  const read = RecipeSchema.safeParse(data)
  if (!read.success) {
    const issue = read.error.issues[0]!
    throw new LookError(`This is not a recipe: ${issue.path.join('.') || 'the document'}: ${issue.message}.`)
  }
  requireWhole(
    { nodes: [{ id: 'recipe', kind: 'recipe', at: [0, 0], params: {}, recipe: read.data }], wires: [] },
    'This is not a recipe',
  )
  return read.data
}

export const emptyLook = (name = 'Look'): Look => ({
  ubblet: 'look',
  version: LOOK_VERSION,
  name,
  wires: [],
  nodes: [{ id: 'result', kind: 'result', at: [620, 160], params: {} }],
})
