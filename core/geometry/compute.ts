import type { VertexMap } from '../mesh/mesh'
import type { ComputeHooks, Geometry } from './geometry'
import { declarationOf, type MapSettings } from './maps'
import type { RayPoints, RayScene } from './rays'
import { CHUNK, rounds, type Round } from './round'
import { spreadOut } from './surface'

type CastSettings = Extract<MapSettings, { rays: number }>
/** Whether a map is cast in rounds of rays. @throws Error where nobody knows its kind */
export const isCast = (settings: MapSettings): settings is CastSettings => 'cast' in declarationOf(settings)

/** Casts one round of a ray map. @throws Error where the map is not cast */
export function castRound(
  scene: RayScene,
  points: RayPoints,
  settings: CastSettings,
  round: Round,
  sums: Float32Array,
): void {
  const declared = declarationOf(settings)
  if (!('cast' in declared)) throw new Error(`The map ${settings.name} is not cast by rays.`)
  declared.cast(scene, points, settings, round, sums)
}

/**
 * Computes one geometry map.
 * @returns undefined where it was stopped
 */
export function computeMap(geometry: Geometry, settings: MapSettings, hooks: ComputeHooks = {}): VertexMap | undefined {
  const declared = declarationOf(settings)
  const values =
    'compute' in declared
      ? declared.compute(geometry, settings, hooks)
      : cast(geometry, settings as CastSettings, hooks)
  if (!values || hooks.stopped?.()) return undefined
  return { name: settings.name, components: declared.components, values }
}

/** All rounds of a ray map, one after the other. */
function cast(
  { scene, surface }: Geometry,
  settings: CastSettings,
  { progress, stopped }: ComputeHooks,
): Float32Array | undefined {
  const { rays } = settings
  const sums = new Float32Array(surface.count)
  const mean = (cast: number): Float32Array =>
    spreadOut(
      surface,
      sums.map(s => s / cast),
    )
  for (const { first, last } of rounds(rays)) {
    for (let from = 0; from < surface.count; from += CHUNK) {
      if (stopped?.()) return undefined
      castRound(scene, surface, settings, { from, to: Math.min(surface.count, from + CHUNK), first, last }, sums)
      progress?.((first + ((last - first) * from) / surface.count) / rays)
    }
    progress?.(last / rays, mean(last))
  }
  return mean(rays)
}
