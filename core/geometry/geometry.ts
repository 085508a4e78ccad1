import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { standOut, stiffness, type Stiffness } from './curvature'
import { RayScene } from './rays'
import { surfaceOf, type Surface } from './surface'

/** Told now and then; `partial` is the map as far as it is, where a rough one can be shown. */
export interface ComputeHooks {
  progress?: (share: number, partial?: Float32Array) => void
  stopped?: () => boolean
}

/** What several maps of one mesh share, each made when it is first needed. */
export class Geometry {
  private known?: Surface
  private matrix?: Stiffness
  private rays?: RayScene
  private stood?: { radius: number; values: Float32Array }
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
  /**
   * How far each vertex of the surface stands out at the size of a radius in meters, as {@link standOut} finds it. What
   * was found last stays: one map shows the edges of it, another one the hollows.
   * @returns undefined where it was stopped
   */
  standingOut(radius: number, progress?: (share: number) => void, stopped?: () => boolean): Float32Array | undefined {
    if (this.stood?.radius === radius) return this.stood.values
    const [values] = standOut(this.surface, this.stiffness, [radius], progress, stopped).values
    if (stopped?.()) return undefined
    this.stood = { radius, values: values! }
    return values
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
