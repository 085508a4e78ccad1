import { raysOf, refinedTriangles } from '../core/geometry/ahead'
import { MOST_TRIANGLES } from '../core/geometry/refine'
import type { DeliverySettings } from '../core/deliver/settings'
import type { Workpiece } from '../core/evaluate/workpiece'
import type { Mesh } from '../core/mesh/mesh'
import type { Preparation } from '../core/mesh/preparation'
import { UsageError } from './usage'
import { inWords } from './voice'

/**
 * Rays a second on one thread, and texels of one picture a second on one: as measured on a machine of two slow cores.
 */
const RAYS = 900_000
const TEXELS = 650_000
/** Rays that would take days: whoever wants more than that has mistaken a unit. */
const MOST_RAYS = 2.4e11
/** What a program of this size takes by itself, and for a triangle of the analysis mesh, on each thread; in MB. */
const MEGABYTES = { alone: 180, ofTriangle: 0.0004 }

const count = (n: number): string => Math.round(n).toLocaleString('en-US')
/** Two digits are enough for a guess. */
const about = (n: number): string => count(Number(n.toPrecision(2)))
const plural = (n: number, one: string, more = `${one}s`): string => `${count(n)} ${n === 1 ? one : more}`

/** An edge in meters, of two digits, by which the mesh stays under the limit. @param near about how long it is */
function edgeThatFits(mesh: Mesh, scale: number, near: number): number {
  let edge = near
  while (refinedTriangles(mesh, scale, edge) > MOST_TRIANGLES) edge *= 1.3
  const digit = 10 ** (Math.floor(Math.log10(edge)) - 1)
  return Number((Math.ceil(edge / digit) * digit).toPrecision(2))
}

/**
 * Refuses a preparation that would make more of a mesh than can be worked with, before any of it is begun.
 * @param path of the preparation, whose setting has to change
 */
export function refuseTooLarge(mesh: Mesh, { scale, edge, maps }: Preparation, path = 'the preparation'): void {
  const triangles = mesh.indices.length / 3
  const refined = edge === null ? triangles : refinedTriangles(mesh, scale, edge)
  if (edge !== null && refined > MOST_TRIANGLES && refined > triangles) {
    const enough = edgeThatFits(mesh, scale, edge * Math.sqrt(refined / MOST_TRIANGLES))
    throw new UsageError(
      `${path}: an edge of ${edge} m would split the mesh into about ${about(refined)} triangles; ${count(MOST_TRIANGLES)} is the limit. Set "edge" to ${enough} or more, or "scale" to the file's units.`,
    )
  }
  const rays = raysOf(maps, refined / 2)
  if (rays > MOST_RAYS)
    throw new UsageError(
      `${path}: its geometry maps would cast about ${about(rays)} rays, which takes days. Set "rays" lower, or "edge" higher.`,
    )
}

/** What will be computed before pictures leave, in one line, with a guess at memory and time. */
export function aheadOf(piece: Workpiece, settings: DeliverySettings, pictures: number, threads: number): string {
  const { preparation, analysis } = piece
  const triangles = analysis.mesh.indices.length / 3
  const texels = pictures * settings.size ** 2
  const runs = texels * settings.samples ** 2
  const seconds = runs / (TEXELS * Math.max(1, threads) * 0.8)
  const megabytes = MEGABYTES.alone + triangles * MEGABYTES.ofTriangle * (threads + 1)
  const fine = preparation.edge === null ? '' : `, refined to edges of ${preparation.edge} m`
  const baked = pictures ? `; ${plural(pictures, 'picture')} of ${settings.size} × ${settings.size} to bake` : ''
  const guess = pictures ? `, about ${about(megabytes)} MB and ${inWords(seconds * 1000)}` : ''
  return `${plural(triangles, 'triangle')} in ${plural(piece.parts.parts.length, 'part')}${fine}${baked}${guess}`
}

/** A guess at the time that the geometry maps of a preparation take on this thread, in words. */
export function mapsAhead(piece: Workpiece, missing: Preparation['maps']): string {
  const vertices = piece.analysis.mesh.positions.length / 3
  const rays = raysOf(missing, vertices)
  const time = rays ? `, ${about(rays)} rays, about ${inWords((rays / RAYS) * 1000)}` : ''
  return `${plural(missing.length, 'geometry map')} on ${count(vertices)} vertices${time}`
}
