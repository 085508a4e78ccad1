import type { Look, Pinned } from './look'

/** Room between pictures that nobody has placed yet, and how wide they are. */
const GAP = 24
const WIDTH = 320
const COLUMNS = 3

/** Where each picture lies: as the look says, and the others below in rows. `sizes` are the pictures of the project. */
export function boardOf(look: Look, sizes: readonly { name: string; width: number; height: number }[]): Pinned[] {
  const placed = sizes.flatMap(s => look.board?.filter(p => p.picture === s.name) ?? [])
  const tall = (p: Pinned) => {
    const size = sizes.find(s => s.name === p.picture)!
    return (p.width * size.height) / size.width
  }
  let top = placed.filter(p => !p.off).reduce((low, p) => Math.max(low, p.at[1] + tall(p) + GAP), 0)
  let row: Pinned[] = []
  const out = [...placed]
  for (const { name } of sizes) {
    if (placed.some(p => p.picture === name)) continue
    if (row.length === COLUMNS) {
      top += Math.max(...row.map(tall)) + GAP
      row = []
    }
    const pinned: Pinned = { picture: name, at: [row.length * (WIDTH + GAP), top], width: WIDTH }
    row.push(pinned)
    out.push(pinned)
  }
  return out
}

/** Puts a picture somewhere, makes it larger or smaller, or takes it off the board. The last one placed lies on top. */
export function pin(look: Look, pinned: Pinned): Look {
  const next = {
    ...pinned,
    at: pinned.at.map(x => Math.round(x) + 0) as [number, number],
    width: Math.min(8000, Math.max(20, Math.round(pinned.width))),
  }
  return { ...look, board: [...(look.board?.filter(p => p.picture !== pinned.picture) ?? []), next] }
}
