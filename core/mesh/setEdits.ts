import { suggestedSettings, type MapKind, type MapSettings } from '../geometry/maps'
import type { Look, LookNode } from '../graph/look'
import { kindFor } from '../graph/kinds'
import type { PartSet } from './partSets'
import type { Preparation } from './preparation'

/** A name that none of the others has: the wish itself, or with a number behind it. */
export function freeName(wish: string, taken: readonly string[]): string {
  const base = wish.trim().slice(0, 70) || 'Set'
  if (!taken.includes(base)) return base
  let n = 2
  while (taken.includes(`${base} ${n}`)) n++
  return `${base} ${n}`
}

/**
 * A geometry map to begin with, under a name that no other map has.
 * @param diagonal of the mesh in meters: what sizes are suggested by
 */
export function newMap(kind: MapKind, diagonal: number, taken: readonly string[]): MapSettings {
  const wish = suggestedSettings(kind, diagonal)
  return { ...wish, name: freeName(wish.name, taken) }
}

/** An empty part set, or one of parts picked by hand. */
export function newSet(others: readonly PartSet[], plus: string[], wish = 'Set'): PartSet {
  const last = Math.max(0, ...others.map(s => Number(/^set(\d+)$/.exec(s.id)?.[1] ?? 0)))
  return {
    id: `set${last + 1}`,
    name: freeName(
      wish,
      others.map(s => s.name),
    ),
    match: 'all',
    rules: [],
    plus,
    minus: [],
  }
}

/** Every parameter of a type that holds a name changes with what it names. */
function renameIn(look: Look, type: 'map' | 'set', from: string, to: string): Look {
  let changed = false
  const visit = (node: LookNode): LookNode => {
    const names = Object.entries(kindFor(node)?.params ?? {}).flatMap(([name, d]) =>
      d.type === type && node.params[name] === from ? [name] : [],
    )
    const inner = node.recipe?.nodes.map(visit)
    const inside = inner?.some((n, i) => n !== node.recipe!.nodes[i])
    if (!names.length && !inside) return node
    changed = true
    return {
      ...node,
      params: { ...node.params, ...Object.fromEntries(names.map(n => [n, to])) },
      ...(inside && { recipe: { ...node.recipe!, nodes: inner! } }),
    }
  }
  const nodes = look.nodes.map(visit)
  return changed ? { ...look, nodes } : look
}

/** Renames a part set, and the nodes that read it follow. A name that another set has gets a number. */
export function renameSet<D extends { look: Look; preparation: Preparation }>(
  document: D,
  id: string,
  wish: string,
): D {
  const { sets } = document.preparation
  const set = sets.find(s => s.id === id)
  if (!set || !wish.trim() || wish.trim() === set.name) return document
  const name = freeName(
    wish,
    sets.filter(s => s.id !== id).map(s => s.name),
  )
  return {
    ...document,
    look: renameIn(document.look, 'set', set.name, name),
    preparation: { ...document.preparation, sets: sets.map(s => (s.id === id ? { ...s, name } : s)) },
  }
}

/** Renames a vertex map of the file or a geometry map, and the nodes that read it follow. */
export function renameMap<D extends { look: Look; preparation: Preparation }>(
  document: D,
  from: string,
  wish: string,
  taken: readonly string[],
): D {
  if (!wish.trim() || wish.trim() === from) return document
  const name = freeName(
    wish,
    taken.filter(n => n !== from),
  )
  const { preparation } = document
  const look = renameIn(document.look, 'map', from, name)
  if (preparation.maps.some(m => m.name === from))
    return {
      ...document,
      look,
      preparation: { ...preparation, maps: preparation.maps.map(m => (m.name === from ? { ...m, name } : m)) },
    }
  const known = preparation.renamed.find(r => r.to === from)
  const file = known?.from ?? from
  return {
    ...document,
    look,
    preparation: {
      ...preparation,
      renamed: [...preparation.renamed.filter(r => r !== known), ...(file === name ? [] : [{ from: file, to: name }])],
    },
  }
}
