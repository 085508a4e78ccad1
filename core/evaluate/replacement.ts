import { FOUND, type How } from '../mesh/keys'
import type { Parts } from '../mesh/parts'
import type { Workpiece } from './workpiece'

/** Most names that are listed of each kind. */
const MOST_NAMES = 200

/** What a mesh would be as a replacement of another: how its parts are found again. Lists are names of parts. */
export interface Replacement {
  counts: Record<How, number>
  /** In the mesh that is there, not in the new one. */
  lost: string[]
  fresh: string[]
  renamed: string[]
  moved: string[]
  triangles: number
  parts: number
  warnings: string[]
}

/** @param old the parts that are there now; none where there is no mesh yet */
export function replacementOf({ match, mesh, parts }: Workpiece, old?: Parts): Replacement {
  const hows = match?.how ?? parts.parts.map((): How => 'new')
  const named = (how: How): string[] =>
    parts.parts
      .filter((_, i) => hows[i] === how)
      .slice(0, MOST_NAMES)
      .map(p => p.name)
  const keys = new Set(parts.parts.map(p => p.key))
  return {
    counts: Object.fromEntries(FOUND.map(how => [how, hows.filter(h => h === how).length])) as Record<How, number>,
    lost: old?.parts.filter(p => !keys.has(p.key)).map(p => p.name) ?? [],
    fresh: named('new'),
    renamed: named('renamed'),
    moved: named('moved'),
    triangles: mesh.indices.length / 3,
    parts: parts.parts.length,
    warnings: mesh.warnings,
  }
}
