import type { Mesh } from './mesh'
import type { Parts } from './parts'

/** The material of every part: that of its first triangle. */
export function materialsOf(mesh: Mesh, parts: Parts): string[] {
  const names = new Array<string>(parts.parts.length).fill('')
  const seen = new Uint8Array(names.length)
  for (const run of mesh.materials) {
    for (let t = run.firstTriangle; t < run.firstTriangle + run.triangles; t++) {
      const n = parts.partOfTriangle[t]!
      if (seen[n]) continue
      seen[n] = 1
      names[n] = run.name
    }
  }
  return names
}
