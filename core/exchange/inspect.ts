import { boundsOf, type Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'

/** What a mesh file holds, as `ubblet inspect` prints it. Lengths in meters, areas in square meters. */
export function inspect(mesh: Mesh, parts: Parts) {
  const bounds = boundsOf(mesh.positions, mesh.indices)
  const range = (values: Float32Array) => values.reduce(([low, high], x) => [Math.min(low!, x), Math.max(high!, x)], [Infinity, -Infinity])
  const tiles = new Set<number>()
  if (mesh.uvs) {
    for (let i = 0; i < mesh.indices.length; i += 3) {
      // The tile of the triangle's middle: corners lie on borders.
      const mid = (k: number) => [0, 1, 2].reduce((sum, c) => sum + mesh.uvs![mesh.indices[i + c]! * 2 + k]! / 3, 0)
      tiles.add(1001 + Math.floor(mid(0)) + 10 * Math.floor(1 - mid(1)))
    }
  }
  return {
    triangles: mesh.indices.length / 3,
    vertices: mesh.positions.length / 3,
    objects: mesh.objects.map(o => ({ name: o.name, triangles: o.triangles, vertices: o.vertices })),
    levels: { object: mesh.objects.length, group: parts.groups.length, part: parts.parts.length, patch: parts.patches },
    parts: parts.parts.map(p => ({
      key: p.key, name: p.name, object: mesh.objects[p.object]!.name, triangles: p.triangles, area: p.area, center: p.center, size: p.size, longestAxis: p.longestAxis,
    })),
    materials: [...new Set(mesh.materials.map(m => m.name).filter(Boolean))],
    uvSets: mesh.uvs ? 1 : 0,
    udims: [...tiles].sort((a, b) => a - b),
    attributes: mesh.maps.map(m => ({ name: m.name, domain: 'vertex', components: m.components, range: range(m.values) })),
    bounds,
    warnings: mesh.warnings,
  }
}
