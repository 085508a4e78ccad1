import type { WebGLRenderTarget } from 'three'
import type { WholeValues } from '#core/evaluate/gather'
import type { OfMesh } from '#core/evaluate/ofMesh'
import type { MeshTables } from '#core/evaluate/tables'
import type { ChannelPicture } from '#core/evaluate/visible'
import type { Look } from '#core/graph/look'
import type { Channel } from '#core/graph/types'
import type { Box } from '#core/mesh/mesh'
import type { Program } from '#core/program/lower'
import type { Probed } from '#core/program/probe'
import type { Ref } from '#core/program/ops'
import type { LookSlot, Slot } from './slots'
import type { Camera, Sample } from './sample'

/** A look of some shape, made ready to be evaluated at points of the surface. */
export interface LoweredLook {
  shape: string
  look: Look
  port?: string
  program: Program
  normal: readonly Ref[]
  pictures: readonly ChannelPicture[]
  sets: ReadonlySet<Channel>
  /** What of a port is shown; undefined where the result is. */
  shows?: Probed
  /** Whether values have to be gathered elsewhere before it can be shown. */
  waits: boolean
}

/** What an evaluation came to. */
export type Outcome =
  /** Done: points at which the look was run, points that are seen, and milliseconds that took. */
  | { evaluated: number; visible: number; ms: number }
  /** Given up, since something newer was asked for. */
  | 'stale'
  /** Not yet possible: shaders are being compiled. */
  | 'compiling'

/** A rectangle of pixels; right and top are the first ones outside. */
export interface Rectangle {
  left: number
  right: number
  bottom: number
  top: number
}

/** Who does the first two passes, finds what is seen and evaluates looks there: the graphics card, or the processor. */
export interface Backend {
  readonly name: 'card' | 'workers'
  /** Whether all pictures of channels hold whole floats. */
  readonly wholeFloats: boolean
  /** Takes a mesh. @param same whether vertices and triangles are those from before */
  setMesh(tables: MeshTables, box: Box, same: boolean): void
  /** Which parts are not seen, and whether there is a ground. */
  setHidden(hidden: ReadonlySet<number>): void
  setGround(on: boolean): void
  /** A look will be shown on a mesh that is still on its way: what can be made ready without one is. */
  expect(look: Look): void
  /** A look of another shape will come when its costly values are there. */
  prepare(slot: LookSlot, lowered: LoweredLook): void
  /** Takes a look, or new parameters of one, with costly values that were gathered for it. */
  setLook(slot: LookSlot, lowered: LoweredLook, values: WholeValues): void
  forget(slot: LookSlot): void
  /** Takes what is to be told of the mesh itself in its slot. */
  setOfMesh(what: OfMesh): void
  /** The surface pass: finds what a sample's camera sees. @param layers how many behind one another */
  see(sample: Sample, layers: number): void
  /** Whether what a sample sees is still known. */
  holds(sample: Sample): boolean
  /**
   * The evaluate pass: runs a look at what is seen in a sample, or tells of the mesh there, into its channels.
   * @param coarse a sample of the same state with fewer pixels
   */
  evaluate(slot: Slot, sample: Sample, coarse?: Sample): Promise<Outcome>
  /** What is seen in a rectangle of a sample: the words of the surface pass, row by row. */
  seenIn(sample: Sample, rectangle: Rectangle): Promise<Uint32Array>
  /**
   * Writes how far the nearest surface is from a camera without perspective, into a target of one number to a pixel.
   * @returns whether it was done
   */
  depths(camera: Camera, target: WebGLRenderTarget): Promise<boolean>
  /** Gives up what is under way. */
  cancel(): void
  /** A sample that will not be asked for again as it is. */
  drop(sample: Sample): void
  /** How often a program was handed to the graphics driver. */
  readonly compiled: number
  dispose(): void
}
