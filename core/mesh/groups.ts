import { materialsOf } from './materials'
import { keyOf } from './hash'
import { GROUP_MAP, type Mesh } from './mesh'
import type { Part, Parts } from './parts'
import type { Measures } from './measures'
import { membersOf, type PartSet } from './partSets'
import { UnionFind } from './unionFind'

/** A set of parts that belong together. */
export interface Group {
  key: string
  name: string
  object: number
}
export interface Groups {
  groups: Group[]
}

/** What makes parts belong together, before groups made by hand or by rule are taken out. */
export type GroupBase = 'file' | 'object' | 'material' | 'touching'

/** Numbers the parts by the text that names their group, in the order of the parts. */
function number(parts: Part[], textOf: (i: number) => { id: string; name: string }): Groups {
  const numbers = new Map<string, number>()
  const groups: Group[] = []
  parts.forEach((p, i) => {
    const { id, name } = textOf(i)
    let n = numbers.get(id)
    if (n === undefined) {
      n = groups.push({ key: id.startsWith('=') ? id.slice(1) : keyOf(`group ${id}`), name, object: p.object }) - 1
      numbers.set(id, n)
    }
    p.group = n
  })
  return { groups }
}

/** The value of the group map on each part: the smallest that its triangles have. */
function groupValues(mesh: Mesh, parts: readonly Part[], partOfTriangle: Uint32Array): Float64Array | undefined {
  const map = mesh.maps.find(m => m.name === GROUP_MAP && m.components === 1)
  if (!map) return undefined
  const smallest = new Float64Array(parts.length).fill(Infinity)
  const { indices } = mesh
  const { values } = map
  for (let t = 0; t < partOfTriangle.length; t++) {
    const part = partOfTriangle[t]!
    const value = Math.min(values[indices[t * 3]!]!, values[indices[t * 3 + 1]!]!, values[indices[t * 3 + 2]!]!)
    if (value < smallest[part]!) smallest[part] = value
  }
  return smallest
}

/** Groups as the file has them: by its group map where there is one, else one for each object. Writes `part.group`. */
export function baseGroups(mesh: Mesh, parts: Part[], partOfTriangle: Uint32Array): Groups {
  const own = groupValues(mesh, parts, partOfTriangle)
  const values = mesh.objects.map(() => new Set<number | undefined>())
  parts.forEach((p, i) => values[p.object]!.add(own?.[i]))
  return number(parts, i => {
    const { object } = parts[i]!
    const { name } = mesh.objects[object]!
    const value = own?.[i]
    return own
      ? { id: `${name}|${value}`, name: values[object]!.size > 1 ? `${name} ${value}` : name }
      : { id: name + (object ? `#${object}` : ''), name }
  })
}

/**
 * Groups by a rule, with named groups taken out of it. Writes `part.group`.
 * @param touching pairs of touching parts, two numbers each; needed for the base of that name
 * @param named part sets that are groups of their own; a part in two of them belongs to the first
 */
export function regroup(
  mesh: Mesh,
  parts: Parts,
  base: GroupBase,
  named: readonly PartSet[],
  touching: Uint32Array = new Uint32Array(),
  measures?: Measures,
): Groups {
  const list = parts.parts
  let rest: (i: number) => { id: string; name: string }
  if (base === 'file') {
    const groups = baseGroups(mesh, list, parts.partOfTriangle).groups
    const own = list.map(p => p.group)
    // The text is the key's own: groups that no named set touches keep theirs.
    rest = i => {
      const { key, name } = parts.known?.[i] ?? groups[own[i]!]!
      return { id: `=${key}`, name }
    }
  } else if (base === 'object')
    rest = i => ({ id: parts.objectKeys[list[i]!.object]!, name: mesh.objects[list[i]!.object]!.name })
  else if (base === 'material') {
    const materials = materialsOf(mesh, parts)
    rest = i => ({ id: `material ${materials[i]!}`, name: materials[i] || 'No material' })
  } else {
    const sets = new UnionFind(list.length)
    for (let i = 0; i < touching.length; i += 2) sets.union(touching[i]!, touching[i + 1]!)
    // Named after its largest part, so that a small one more or less does not change the key.
    const largest = new Map<number, number>()
    list.forEach((p, i) => {
      const root = sets.find(i)
      const best = largest.get(root)
      if (best === undefined || p.area > list[best]!.area * (1 + 1e-6)) largest.set(root, i)
    })
    rest = i => {
      const main = list[largest.get(sets.find(i))!]!
      return { id: `touching ${main.key}`, name: `Around ${main.name}` }
    }
  }
  const inside = named.map(set => membersOf(set, mesh, parts, measures))
  const { groups } = number(list, i => {
    const n = inside.findIndex(members => members[i])
    return n >= 0 ? { id: `set ${named[n]!.id}`, name: named[n]!.name } : rest(i)
  })
  return { groups }
}
