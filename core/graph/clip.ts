import * as z from 'zod'
import { freshId } from './edit'
import { ECHO, splitPort } from './echo'
import { LookError, LookNodeSchema, NoteSchema, WireSchema, requireWhole, type Look } from './look'
import { nodeOf } from './find'

/** Nodes with their wires and notes as text: what goes through the clipboard, also to another look or project. */
const ClipSchema = z.strictObject({
  ubblet: z.literal('nodes'),
  version: z.literal(1),
  nodes: z.array(LookNodeSchema).max(2000),
  wires: z.array(WireSchema).max(8000),
  notes: z.array(NoteSchema).max(500),
})
export type Clip = z.infer<typeof ClipSchema>

/** The chosen nodes and notes, with the wires among them. The result stays where it is. */
export function clipOf(look: Look, ids: readonly string[], notes: readonly string[] = []): Clip {
  const nodes = look.nodes.filter(n => ids.includes(n.id) && n.kind !== 'result')
  const inside = new Set(nodes.map(n => n.id))
  return {
    ubblet: 'nodes',
    version: 1,
    nodes,
    wires: look.wires.filter(w => inside.has(w.from.node) && inside.has(w.to.node)),
    notes: look.notes?.filter(n => notes.includes(n.id)) ?? [],
  }
}

/** @throws LookError with one sentence, where the text is no nodes of ours */
export function parseClip(text: string): Clip {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch {
    throw new LookError('The clipboard holds no nodes.')
  }
  const read = ClipSchema.safeParse(data)
  if (!read.success)
    throw new LookError(
      (data as { ubblet?: unknown } | null)?.ubblet === 'nodes'
        ? 'The nodes on the clipboard cannot be read by this version.'
        : 'The clipboard holds no nodes.',
    )
  requireWhole(read.data, 'The clipboard holds no nodes')
  return read.data
}

/** Adds what was copied, its upper left corner at a place. Echoes of what is not there go without a source. */
export function paste(look: Look, clip: Clip, at: readonly [number, number]): { look: Look; ids: string[] } {
  const all = [...clip.nodes, ...clip.notes]
  const names = new Map<string, string>()
  if (!all.length) return { look, ids: [] }
  const corner = [0, 1].map(k => Math.min(...all.map(n => n.at[k]!)))
  const moved = (p: readonly [number, number]) =>
    p.map((x, k) => Math.round(x - corner[k]! + at[k]!) + 0) as [number, number]
  let next = look
  for (const n of clip.nodes) {
    const id = freshId(next, n.kind)
    names.set(n.id, id)
    next = { ...next, nodes: [...next.nodes, { ...n, id, at: moved(n.at) }] }
  }
  const fresh = new Set(names.values())
  const nodes = next.nodes.map(n => {
    if (!fresh.has(n.id) || n.kind !== ECHO) return n
    const [from, port] = splitPort(String(n.params.of ?? ''))
    const known = names.get(from) ?? (nodeOf(look, from) ? from : undefined)
    return { ...n, params: { ...n.params, of: known ? `${known}/${port}` : '' } }
  })
  const taken = new Set(look.notes?.map(n => n.id))
  const notes = clip.notes.map(n => {
    let i = 1
    while (taken.has(`note${i}`)) i++
    taken.add(`note${i}`)
    return { ...n, id: `note${i}`, at: moved(n.at) }
  })
  const end = (p: { node: string; port: string }) => ({ ...p, node: names.get(p.node)! })
  return {
    look: {
      ...next,
      nodes,
      wires: [...next.wires, ...clip.wires.map(w => ({ from: end(w.from), to: end(w.to) }))],
      ...(notes.length && { notes: [...(look.notes ?? []), ...notes] }),
    },
    ids: [...fresh],
  }
}
