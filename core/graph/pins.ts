import type { Pin } from './types'
import { kindFor, paramOf } from './kinds'
import type { LookNode } from './look'

/**
 * The single parts of a node after one was pointed at: a part is rolled once more, or, where parts have values alone,
 * goes on to the next color of the palette.
 * @param part a part's key
 */
export function pinnedAgain(node: LookNode, param: string, part: string): Pin[] {
  const pins = paramOf(node, param) as Pin[]
  const declaration = kindFor(node)?.params[param]
  const old = pins.find(p => p.part === part)
  const next =
    declaration?.type === 'pins' && declaration.rolls === false
      ? { part, value: old ? nextColor(node, old.value ?? 0) : 0 }
      : { part, roll: (old?.roll ?? 0) + 1 }
  return old ? pins.map(p => (p === old ? next : p)) : [...pins, next]
}

/** The place of the color after the one at a place of a palette, from 0 for the first to 1 for the last, and around. */
function nextColor(node: LookNode, value: number): number {
  const last = Math.max(1, (paramOf(node, 'colors') as unknown[]).length - 1)
  const at = Math.round(value * last) + 1
  return at > last ? 0 : at / last
}
