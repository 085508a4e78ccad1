import type { Mesh, VertexMap } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { borderDistance } from './border'
import { standOut, stiffness, type Stiffness } from './curvature'
import { alongAxis, facing, position } from './places'
import { castOcclusion, castThickness, contactDistance, RayScene, type RayPoints } from './rays'
import { MAP_WORDS, type MapSettings } from './settings'
import { spreadOut, surfaceOf, type Surface } from './surface'
import { unhandled } from '../unhandled'

/** Told now and then; `partial` is the map as far as it is, where a rough one can be shown. */
export interface ComputeHooks {
  progress?: (share: number, partial?: Float32Array) => void
  stopped?: () => boolean
}

/** Rays for the first rough picture; every further round casts as many as all before it. */
export const FIRST_RAYS = 8
/** Points per call: some hundredths of a second of rays, so that stopping, progress and the last thread need not wait. */
export const CHUNK = 512

/** What several maps of one mesh share, each made when it is first needed. */
export class Geometry {
  private known?: Surface
  private matrix?: Stiffness
  private rays?: RayScene
  constructor(
    readonly mesh: Mesh,
    readonly parts: Parts,
  ) {}

  get surface(): Surface {
    return (this.known ??= surfaceOf(this.mesh, this.parts))
  }
  get stiffness(): Stiffness {
    return (this.matrix ??= stiffness(this.surface))
  }
  get scene(): RayScene {
    return (this.rays ??= new RayScene(
      Float32Array.from(this.surface.positions),
      this.surface.triangles,
      this.parts.partOfTriangle,
      this.parts.parts.length,
    ))
  }
  get boxes(): Float64Array {
    return Float64Array.from(this.parts.parts.flatMap(p => [...p.min, ...p.min.map((x, k) => x + p.size[k]!)]))
  }
}

/** Rounds of rays: 8, 8, 16, 32, … up to `rays`. */
export function* rounds(rays: number): Generator<[first: number, last: number]> {
  for (let first = 0, last = Math.min(FIRST_RAYS, rays); first < rays; first = last, last = Math.min(rays, last * 2))
    yield [first, last]
}

type CastSettings = Extract<MapSettings, { rays: number }>
/** Whether a map is cast in rounds of rays. */
export const isCast = (settings: MapSettings): settings is CastSettings => 'rays' in settings

/** Casts one round of a ray map for some of the points. */
export function castRound(
  scene: RayScene,
  points: RayPoints,
  settings: CastSettings,
  from: number,
  to: number,
  first: number,
  last: number,
  sums: Float32Array,
): void {
  switch (settings.kind) {
    case 'occlusion':
      return castOcclusion(scene, points, from, to, first, last, settings, sums)
    case 'thickness':
      return castThickness(scene, points, from, to, first, last, settings, sums)
    default:
      return unhandled(settings)
  }
}

/** Convexity and concavity of `sign` 1 and −1 from how far vertices stand out. */
export const curved = (values: Float32Array, sign: 1 | -1): Float32Array =>
  values.map(x => Math.min(1, Math.max(0, sign * x)))

/**
 * Computes one geometry map.
 * @returns undefined where it was stopped
 */
export function computeMap(geometry: Geometry, settings: MapSettings, hooks: ComputeHooks = {}): VertexMap | undefined {
  const { mesh, parts } = geometry
  const { name } = settings
  const { progress, stopped } = hooks
  const done = (values: Float32Array): VertexMap | undefined =>
    stopped?.() ? undefined : { name, components: MAP_WORDS[settings.kind].components, values }
  switch (settings.kind) {
    case 'facing':
      return done(facing(mesh, settings.direction))
    case 'position':
      return done(position(mesh, parts, settings.space))
    case 'axis':
      return done(alongAxis(mesh, parts))
    case 'border':
      return done(spreadOut(geometry.surface, borderDistance(geometry.surface, settings.distance)))
    case 'convexity':
    case 'concavity': {
      const { values } = standOut(geometry.surface, geometry.stiffness, [settings.radius], progress, stopped)
      return done(spreadOut(geometry.surface, curved(values[0]!, settings.kind === 'convexity' ? 1 : -1)))
    }
    case 'contact': {
      const { surface } = geometry
      const out = new Float32Array(surface.count)
      const { boxes } = geometry
      for (let at = 0; at < surface.count && !stopped?.(); at += CHUNK) {
        contactDistance(geometry.scene, surface, boxes, at, Math.min(surface.count, at + CHUNK), settings.distance, out)
        progress?.(at / surface.count)
      }
      return done(spreadOut(surface, out))
    }
    case 'occlusion':
    case 'thickness': {
      const { surface } = geometry
      const sums = new Float32Array(surface.count)
      for (const [first, last] of rounds(settings.rays)) {
        for (let at = 0; at < surface.count && !stopped?.(); at += CHUNK) {
          castRound(geometry.scene, surface, settings, at, Math.min(surface.count, at + CHUNK), first, last, sums)
          progress?.((first + ((last - first) * at) / surface.count) / settings.rays)
        }
        if (stopped?.()) return undefined
        progress?.(
          last / settings.rays,
          spreadOut(
            surface,
            sums.map(s => s / last),
          ),
        )
      }
      return done(
        spreadOut(
          surface,
          sums.map(s => s / settings.rays),
        ),
      )
    }
    default:
      return unhandled(settings)
  }
}
