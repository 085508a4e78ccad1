import type { WebGLRenderer } from 'three'
import type { Box } from '#core/mesh/mesh'
import type { Backend } from './backend'
import type { ContactPass } from './contactPass'
import type { InspectPass } from './inspectPass'
import type { LightPass } from './lightPass'
import type { FullPass } from './passes'
import type { PresentPass } from './presentPass'
import type { ShadowPass } from './shadowPass'
import type { ShownLook } from './shownLook'
import type { ShownMesh } from './shownMesh'
import type { LookSlot } from './slots'

/** What the passes share: one renderer, one mesh, and all that is drawn of it. */
export interface Passes {
  readonly renderer: WebGLRenderer
  readonly full: FullPass
  readonly backend: Backend
  readonly light: LightPass
  readonly inspect: InspectPass
  readonly shadow: ShadowPass
  readonly contact: ContactPass
  readonly present: PresentPass
  readonly looks: { now: ShownLook } & Partial<Record<LookSlot, ShownLook>>
  readonly mesh: ShownMesh
  readonly box: Box
  /** Half the diagonal of the mesh, in meters. */
  readonly reach: number
  /** A length of a part of middling size, in meters: how far light goes through what lets it. */
  readonly typical: number
  /** Where the kept state ends, 0 to 1 from the left. */
  readonly wipe: number
  /** Pictures with shifted pixels that make the final one. */
  readonly samples: number
  /** What tells one surface (mesh, hidden parts, ground) and one light from another. */
  readonly surfaceKey: string
  readonly lightKey: string
  nextKey(): number
}

/** How the picture of the stage stands. */
export interface Standing {
  /** Pixels of the canvas for each that is evaluated; 1 where the picture is sharp. */
  step: number
  /** How many pictures with shifted pixels are in it, of how many. */
  samples: number
  of: number
  final: boolean
  /** Whether the last good picture stays while shaders are being compiled. */
  compiling: boolean
  /** Points evaluated for this picture, points seen in it, and points evaluated since the stage began. */
  evaluated: number
  visible: number
  ever: number
  /** Milliseconds of script that putting it onto the canvas took. */
  submitMs: number
}

/**
 * What is drawn for the eyes alone: shadows of the key light, darkening near contacts, the ground, and edges made
 * smooth at rest.
 */
export interface Switches {
  shadows: boolean
  contact: boolean
  ground: boolean
  smooth: boolean
}
