import { measureParts, type Measures } from '../mesh/measures'
import { boundsOf, type Mesh, type Surface } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { oddities } from '../mesh/report'
import { inspectUvs, type UvReport } from '../mesh/uvs'

/** Lowest and highest value of a column. */
export function rangeOf(values: Float32Array): [number, number] {
  let low = Infinity
  let high = -Infinity
  for (let i = 0; i < values.length; i++) {
    if (values[i]! < low) low = values[i]!
    if (values[i]! > high) high = values[i]!
  }
  return [low, high]
}

/** What a file says of a material; of its pictures everything but themselves. */
function inspectSurface({ textures, ...surface }: Surface) {
  return {
    ...surface,
    pictures: textures.map(({ bytes, ...picture }) => ({ ...picture, bytes: bytes.length })),
  }
}
export type InspectedSurface = ReturnType<typeof inspectSurface>

/**
 * What a mesh file holds, as `ubblet inspect` prints it. Lengths in meters, areas in square meters, volumes in cubic
 * meters.
 */
export function inspect(
  mesh: Mesh,
  parts: Parts,
  measures: Measures = measureParts(mesh, parts),
  uvs: UvReport = inspectUvs(mesh),
) {
  return {
    triangles: mesh.indices.length / 3,
    vertices: mesh.positions.length / 3,
    objects: mesh.objects.map(o => ({
      name: o.name,
      ...(o.parents && { parents: o.parents }),
      triangles: o.triangles,
      vertices: o.vertices,
    })),
    ...(mesh.nodes && { nodes: mesh.nodes.length, shapes: new Set(mesh.objects.map(o => o.shape)).size }),
    levels: { object: mesh.objects.length, group: parts.groups.length, part: parts.parts.length, patch: parts.patches },
    parts: parts.parts.map((p, i) => ({
      key: p.key,
      name: p.name,
      object: mesh.objects[p.object]!.name,
      triangles: p.triangles,
      area: p.area,
      volume: measures.volume[i]!,
      center: p.center,
      size: p.size,
      longestAxis: p.longestAxis,
    })),
    materials: [...new Set(mesh.materials.map(m => m.name).filter(Boolean))],
    surfaces: (mesh.surfaces ?? []).map(inspectSurface),
    uvSets: (mesh.uvs ? 1 : 0) + mesh.maps.filter(m => /^UV \d+$/.test(m.name) && m.components === 2).length,
    udims: uvs.tiles,
    attributes: mesh.maps.map(m => ({
      name: m.name,
      domain: 'vertex',
      components: m.components,
      range: rangeOf(m.values),
    })),
    bounds: boundsOf(mesh.positions, mesh.indices),
    warnings: [
      ...mesh.warnings,
      ...oddities(mesh, parts, measures, uvs)
        .filter(o => o.id !== 'noUvs')
        .map(o => o.message),
    ],
  }
}
