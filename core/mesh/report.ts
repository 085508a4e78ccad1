import { weldedEdges } from './edges'
import { boundsOf, triangleAreas, type Mesh } from './mesh'
import type { Measures } from './measures'
import type { Parts } from './parts'
import type { UvReport } from './uvs'
import { welded } from './weld'

/** What the interface can do about a finding. */
export type Fix = { do: 'scale'; factor: number } | { do: 'unwrap' } | { do: 'weld'; distance: number }

/** Something odd about a mesh: what it is, what it means for the work, and a fix where there is one. */
export interface Oddity {
  id: string
  message: string
  meaning: string
  fix?: Fix & { label: string }
  /** The parts it is about. */
  parts?: number[]
}

const count = (n: number, one: string, many = `${one}s`) => `${n.toLocaleString('en-US')} ${n === 1 ? one : many}`
/** Closed parts with less volume than this share of their box count as flat, whichever way they face. */
const THIN = 1e-4

type Add = (id: string, message: string, meaning: string, rest?: Partial<Oddity>) => void

/** Looks for what is odd about a mesh. Lengths in meters. */
export function oddities(mesh: Mesh, parts: Parts, measures: Measures, uvs: UvReport): Oddity[] {
  const found: Oddity[] = []
  const add: Add = (id, message, meaning, rest = {}) => {
    found.push({ id, message, meaning, ...rest })
  }
  const { min, max } = boundsOf(mesh.positions, mesh.indices)
  const diagonal = Math.hypot(...max.map((x, k) => x - min[k]!))
  lookAtSizes(parts, diagonal, add)
  lookAtUvs(mesh, uvs, add)
  lookAtTriangles(mesh, diagonal, add)
  lookAtEdges(mesh, parts, measures, add)
  lookAtNames(mesh, add)
  return found
}

function lookAtSizes({ parts }: Parts, diagonal: number, add: Add): void {
  if (diagonal > 200)
    add(
      'large',
      `The mesh is ${diagonal.toFixed(0)} m across.`,
      'It probably came in centimeters or millimeters: sizes in patterns and radii would be far off.',
      {
        fix: {
          do: 'scale',
          factor: diagonal > 3000 ? 0.001 : 0.01,
          label: diagonal > 3000 ? 'Read it as millimeters' : 'Read it as centimeters',
        },
      },
    )
  else if (diagonal < 0.005)
    add(
      'small',
      `The mesh is ${(diagonal * 1000).toFixed(2)} mm across.`,
      'It probably came in other units: sizes in patterns and radii would be far off.',
      { fix: { do: 'scale', factor: 100, label: 'Make it 100 times as large' } },
    )
  const tiny = [...parts.keys()].filter(i => Math.max(...parts[i]!.size) < 0.001)
  if (tiny.length)
    add(
      'tiny',
      `${count(tiny.length, 'part is', 'parts are')} smaller than a millimeter.`,
      'Each of them gets a draw of its own. Loose scraps may be better left out of what varies; a larger weld distance joins those that nearly touch.',
      { parts: tiny },
    )
}

function lookAtUvs(mesh: Mesh, uvs: UvReport, add: Add): void {
  if (!mesh.uvs) {
    add(
      'noUvs',
      'There are no UVs on all of the mesh.',
      'Textures cannot be made without them; vertex maps, vertex colors and documents can.',
      { fix: { do: 'unwrap', label: 'Unwrap it' } },
    )
    return
  }
  if (uvs.overlapping > 0.001)
    add(
      'overlaps',
      `UVs overlap on ${(uvs.overlapping * 100).toFixed(uvs.overlapping < 0.1 ? 1 : 0)} % of the texels in use.`,
      'Surfaces that share texels get the same texture, so per-part variation cannot be baked there. Vertex colors can; so can textures after unwrapping again.',
      { fix: { do: 'unwrap', label: 'Unwrap it again' } },
    )
  if (uvs.mirrored > 0 && uvs.mirrored < mesh.indices.length / 3)
    add(
      'mirrored',
      `${count(uvs.mirrored, 'triangle is', 'triangles are')} mirrored in UV space.`,
      'A baked normal map is turned for them; color and roughness are not concerned.',
    )
  if (uvs.collapsed)
    add(
      'collapsed',
      `${count(uvs.collapsed, 'triangle has', 'triangles have')} no area in UV space.`,
      'Textures show one color along them.',
    )
}

function lookAtTriangles(mesh: Mesh, diagonal: number, add: Add): void {
  const degenerate = triangleAreas(mesh).filter(a => !(a > 1e-14 * diagonal * diagonal)).length
  if (degenerate)
    add(
      'degenerate',
      `${count(degenerate, 'triangle has', 'triangles have')} no area.`,
      'They are not seen, but join what they touch into one part.',
    )
}

function lookAtEdges(mesh: Mesh, parts: Parts, measures: Measures, add: Add): void {
  const { a, count: sides } = weldedEdges(mesh, welded(mesh, parts.weldDistance))
  const open = new Set<number>()
  let edges = 0
  let crowded = 0
  for (let e = 0; e < a.length; e++) {
    if (sides[e] === 1) {
      edges++
      open.add(parts.partOfVertex[a[e]!]!)
    } else if (sides[e]! > 2) crowded++
  }
  if (edges)
    add(
      'open',
      `${count(edges, 'edge is', 'edges are')} open, on ${count(open.size, 'part')}.`,
      'Thickness is not known there, and seams that should be closed split a part in two. Where they are gaps, a larger weld distance closes them.',
      {
        parts: [...open],
        fix: { do: 'weld', distance: Number((parts.weldDistance * 10).toPrecision(1)), label: 'Weld ten times as far' },
      },
    )
  if (crowded)
    add(
      'crowded',
      `${count(crowded, 'edge has', 'edges have')} more than two triangles.`,
      'Surfaces that pass through one another along an edge count as one part.',
    )
  const signed = signedVolumes(mesh, parts)
  const inward = parts.parts.flatMap((p, i) =>
    !open.has(i) && measures.volume[i] === 0 && signed[i]! < -THIN * p.size[0] * p.size[1] * p.size[2] ? [i] : [],
  )
  if (inward.length)
    add(
      'inward',
      `${count(inward.length, 'closed part faces', 'closed parts face')} inward.`,
      'Convexity and concavity are swapped there, and occlusion is computed from the inside.',
      { parts: inward },
    )
}

function lookAtNames(mesh: Mesh, add: Add): void {
  const names = mesh.maps.map(m => m.name.toLowerCase())
  const repeated = [...new Set(names.filter((n, i) => names.indexOf(n) !== i))]
  if (repeated.length)
    add(
      'mapNames',
      `Vertex maps have the same name: ${repeated.slice(0, 5).join(', ')}.`,
      'A node that reads a map by name finds the first of them. Rename one in the list of maps.',
    )
}

/**
 * The volume of every part by the divergence theorem, negative where its faces look inward; means nothing where a part
 * is open.
 */
function signedVolumes(mesh: Mesh, parts: Parts): Float64Array {
  const { positions: p, indices } = mesh
  const sums = new Float64Array(parts.parts.length)
  for (let t = 0; t < indices.length; t += 3) {
    const i = parts.partOfTriangle[t / 3]!
    const [cx, cy, cz] = parts.parts[i]!.centroid
    const a = indices[t]! * 3
    const b = indices[t + 1]! * 3
    const d = indices[t + 2]! * 3
    const ax = p[a]! - cx
    const ay = p[a + 1]! - cy
    const az = p[a + 2]! - cz
    const bx = p[b]! - cx
    const by = p[b + 1]! - cy
    const bz = p[b + 2]! - cz
    const dx = p[d]! - cx
    const dy = p[d + 1]! - cy
    const dz = p[d + 2]! - cz
    sums[i]! += (ax * (by * dz - bz * dy) + ay * (bz * dx - bx * dz) + az * (bx * dy - by * dx)) / 6
  }
  return sums
}
