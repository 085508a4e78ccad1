import type { Mesh } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { stiffness, type Stiffness } from './curvature'
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
