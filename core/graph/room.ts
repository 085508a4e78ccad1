import type { Sizes } from './handwork'
import type { Look } from './look'

/** Room between two cards, in canvas units. */
const GAP = 24
/** How far apart places are that are tried, in canvas units, and how far from the wished one they go, in steps. */
const STEP = 48
const REACH = 40

type Place = [number, number]

const square = Array.from({ length: 2 * REACH + 1 }, (_, i) => (i - REACH) * STEP)
/** Shifts from the wished place, the nearest first. */
const SHIFTS = square.flatMap(x => square.map((y): Place => [x, y])).sort((a, b) => Math.hypot(...a) - Math.hypot(...b))

/**
 * The nearest place to a wished one where a card of a size covers no other card.
 * @param sizes of the cards that are there, in canvas units
 */
export function roomFor(look: Look, wish: Place, size: { width: number; height: number }, sizes: Sizes): Place {
  const cards = look.nodes.map(n => ({ at: n.at, ...sizes(n.id) }))
  const isFree = ([x, y]: Place): boolean =>
    cards.every(
      c =>
        x >= c.at[0] + c.width + GAP ||
        c.at[0] >= x + size.width + GAP ||
        y >= c.at[1] + c.height + GAP ||
        c.at[1] >= y + size.height + GAP,
    )
  const shift = SHIFTS.find(([x, y]) => isFree([wish[0] + x, wish[1] + y])) ?? [0, 0]
  return [wish[0] + shift[0], wish[1] + shift[1]]
}
