import type { Wire } from '#core/graph/look'
import { wireId } from './useCards'

/** The wire that is drawn at a point of the window. */
export function wireAt(wires: readonly Wire[], x: number, y: number): Wire | undefined {
  const ids = document.elementsFromPoint(x, y).flatMap(e => e.closest('.vue-flow__edge')?.getAttribute('data-id') ?? [])
  return wires.find(w => ids.includes(wireId(w)))
}
