import { z } from 'zod'

const finite = z.number()
const rgb = z.tuple([finite, finite, finite])
const stop = z.strictObject({ at: finite.min(0).max(1), color: rgb })
const id = z.string().min(1).max(64)

/** A parameter's stored value. Its kind's declaration says which of these it must be; the checks hold it to that. */
export const ParamValueSchema = z.union([finite, z.string().max(256), z.boolean(), z.array(finite).min(1).max(4),
  z.array(stop).min(1).max(64)])

export const LookNodeSchema = z.strictObject({
  id,
  kind: z.string().min(1).max(64),
  /** Upper left corner of the card, in canvas units. */
  at: z.tuple([finite, finite]),
  /** The artist's own name for it; the kind's title where there is none. */
  name: z.string().max(80).optional(),
  params: z.record(z.string().max(64), ParamValueSchema),
})

const portSchema = z.strictObject({ node: id, port: z.string().min(1).max(64) })
export const WireSchema = z.strictObject({ from: portSchema, to: portSchema })

export const LOOK_VERSION = 1
export const LookSchema = z.strictObject({
  ubblet: z.literal('look'),
  version: z.literal(LOOK_VERSION),
  name: z.string().max(120),
  nodes: z.array(LookNodeSchema).max(2000),
  wires: z.array(WireSchema).max(8000),
})

export type LookNode = z.infer<typeof LookNodeSchema>
export type Wire = z.infer<typeof WireSchema>
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
  const ids = new Set<string>()
  for (const node of look.nodes) {
    if (ids.has(node.id)) throw new LookError(`This is not a look: two nodes have the id "${node.id}".`)
    ids.add(node.id)
  }
  const taken = new Set<string>()
  for (const { from, to } of look.wires) {
    for (const end of [from, to]) {
      if (!ids.has(end.node)) throw new LookError(`This is not a look: a wire ends at "${end.node}", which is not there.`)
    }
    const key = `${to.node}/${to.port}`
    if (taken.has(key)) throw new LookError(`This is not a look: two wires lead into ${key}.`)
    taken.add(key)
  }
  return look
}

export const emptyLook = (name = 'Look'): Look => ({
  ubblet: 'look', version: LOOK_VERSION, name, wires: [],
  nodes: [{ id: 'result', kind: 'result', at: [620, 160], params: {} }],
})
