import type { Look, Note } from './look'

const free = (look: Look): string => {
  const taken = new Set(look.notes?.map(n => n.id))
  for (let i = 1; ; i++) if (!taken.has(`note${i}`)) return `note${i}`
}
/** A card's size on the page, for what goes around it; its height is that of one with few ports. */
export const CARD_WIDTH = 162
export const CARD_HEIGHT = 220
const MARGIN = 24
const HEAD = 26

export function addNote(look: Look, at: [number, number]): { look: Look; id: string } {
  const id = free(look)
  return {
    look: { ...look, notes: [...(look.notes ?? []), { id, at, size: [220, 120], frame: false, title: '', text: '' }] },
    id,
  }
}

/** A frame around some nodes; an empty one where none is given. */
export function frameNodes(
  look: Look,
  ids: readonly string[],
  at: [number, number],
  heightOf: (id: string) => number = () => CARD_HEIGHT,
): { look: Look; id: string } {
  const id = free(look)
  const nodes = look.nodes.filter(n => ids.includes(n.id))
  const left = Math.min(...nodes.map(n => n.at[0]))
  const top = Math.min(...nodes.map(n => n.at[1]))
  const place: Pick<Note, 'at' | 'size'> = nodes.length
    ? {
        at: [left - MARGIN, top - MARGIN - HEAD],
        size: [
          Math.max(...nodes.map(n => n.at[0])) + CARD_WIDTH + MARGIN * 2 - left,
          Math.max(...nodes.map(n => n.at[1] + heightOf(n.id))) + MARGIN * 2 + HEAD - top,
        ],
      }
    : { at, size: [420, 300] }
  return { look: { ...look, notes: [...(look.notes ?? []), { id, ...place, frame: true, title: '', text: '' }] }, id }
}

export function changeNote(look: Look, id: string, change: Partial<Omit<Note, 'id'>>): Look {
  const old = look.notes?.find(n => n.id === id)
  if (!old) return look
  const next = {
    ...old,
    ...change,
    title: (change.title ?? old.title).slice(0, 80),
    text: (change.text ?? old.text).slice(0, 4000),
  }
  next.size = [Math.min(20_000, Math.max(40, next.size[0])), Math.min(20_000, Math.max(30, next.size[1]))]
  return JSON.stringify(next) === JSON.stringify(old)
    ? look
    : { ...look, notes: look.notes!.map(n => (n === old ? next : n)) }
}

export function removeNotes(look: Look, ids: readonly string[]): Look {
  const left = look.notes?.filter(n => !ids.includes(n.id)) ?? []
  return left.length === (look.notes?.length ?? 0) ? look : { ...look, notes: left }
}

/** What lies on a frame: nodes whose corner is inside, and notes that are inside altogether. */
export function onFrame(look: Look, id: string): { nodes: string[]; notes: string[] } {
  const frame = look.notes?.find(n => n.id === id && n.frame)
  if (!frame) return { nodes: [], notes: [] }
  const inside = (p: readonly [number, number], size: readonly number[] = [0, 0]) =>
    [0, 1].every(k => p[k]! >= frame.at[k]! && p[k]! + size[k]! <= frame.at[k]! + frame.size[k]!)
  return {
    nodes: look.nodes.filter(n => inside(n.at)).map(n => n.id),
    notes: look.notes!.filter(n => n !== frame && inside(n.at, n.size)).map(n => n.id),
  }
}
