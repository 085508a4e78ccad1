import type { Beyond } from '../mesh/mesh'
import type { MeasureName } from '../mesh/partSets'

/**
 * The primitive operations: all that a backend has to implement. Every operation maps float columns to one float
 * column, point by point. `arity` counts column operands; `constants` counts float constants that are part of the
 * operation. What each computes is written above its kernel in `core/kernels/assembly/index.ts`.
 */
export const OPS = {
  neg: { arity: 1 },
  abs: { arity: 1 },
  floor: { arity: 1 },
  fract: { arity: 1 },
  sqrt: { arity: 1 },
  cbrt: { arity: 1 },
  sin: { arity: 1 },
  cos: { arity: 1 },
  exp2: { arity: 1 },
  log2: { arity: 1 },
  add: { arity: 2 },
  sub: { arity: 2 },
  mul: { arity: 2 },
  div: { arity: 2 },
  min: { arity: 2 },
  max: { arity: 2 },
  pow: { arity: 2 },
  less: { arity: 2 },
  mix: { arity: 3 },
  clamp: { arity: 3 },
  select: { arity: 3 },
  smoothstep: { arity: 3 },
  noise3: { arity: 3 },
  fitChroma: { arity: 3 },
  row3: { arity: 3, constants: 3 },
  /** x, y, z, then octaves, lacunarity and diminish, which must be uniform. */
  fractal3: { arity: 6, uniformFrom: 3 },
  /** The hash of the cell that holds a point, 0 to 1. */
  cell3: { arity: 3 },
  /**
   * x, y, z, jitter: the way to the nearest and to the second nearest of points scattered one to a cell, and the
   * nearest's own value.
   */
  worley3: { arity: 4 },
  worley3second: { arity: 4 },
  worley3cell: { arity: 4 },
  /** Key (two words as raw bits), seed, stream. Never on the surface: a draw belongs to a part. */
  draw: { arity: 4 },
} as const satisfies Record<string, { arity: number; constants?: number; uniformFrom?: number }>

export type OpName = keyof typeof OPS

/** The domains of the design, coarse to fine. A result lives on the finest domain among its operands. */
export type Domain = 0 | 1 | 2 | 3
export const UNIFORM: Domain = 0
export const PART: Domain = 1
export const VERTEX: Domain = 2
export const SURFACE: Domain = 3

/** What a program reads per part. Lengths in meters; keys are raw 32-bit words. */
export const PART_INPUTS = [
  'keyLow',
  'keyHigh',
  'groupKeyLow',
  'groupKeyHigh',
  'objectKeyLow',
  'objectKeyHigh',
  'minX',
  'minY',
  'minZ',
  'sizeX',
  'sizeY',
  'sizeZ',
  'objectMinX',
  'objectMinY',
  'objectMinZ',
  'objectSizeX',
  'objectSizeY',
  'objectSizeZ',
  'groupMinX',
  'groupMinY',
  'groupMinZ',
  'groupSizeX',
  'groupSizeY',
  'groupSizeZ',
] as const
export type PartInput = (typeof PART_INPUTS)[number]

/** What a program reads of the mesh as a whole: its bounding box, in meters. */
export const MESH_INPUTS = ['minX', 'minY', 'minZ', 'sizeX', 'sizeY', 'sizeZ'] as const
export type MeshInput = (typeof MESH_INPUTS)[number]

/**
 * What a program reads at a point of the surface: position in meters, first UV set, normal (between those of the
 * vertices, so shorter than 1), and how wide the surface is that the point stands for, in meters and along the UVs.
 */
export const SURFACE_INPUTS = [
  'x',
  'y',
  'z',
  'u',
  'v',
  'normalX',
  'normalY',
  'normalZ',
  'footprint',
  'footprintUv',
] as const
export type SurfaceInput = (typeof SURFACE_INPUTS)[number]

/**
 * How a measure of a part is read: in its own unit (square and cubic meters, meters), as a rank, or between the
 * smallest and the largest.
 */
export type MeasureReading = 'raw' | 'rank' | 'fitted'

/** Where a uniform value comes from: one number of one parameter of one node. `stop` counts along a list of stops. */
/** `listed` counts along a list as it is stored, not by position. */
export interface ParamRef {
  node: string
  param: string
  stop?: number
  listed?: true
  component?: number | 'at' | 'x' | 'y'
}

/**
 * How a picture is read: whether its colors are linear, what lies beyond its sides and beyond its top and bottom, and
 * whether the nearest texel alone counts. `exact` where the numbers name things, so that their last bits count.
 */
export interface PictureReading {
  linear: boolean
  across: Beyond
  down: Beyond
  nearest: boolean
  exact?: true
}

export type Instruction =
  | { op: OpName; args: number[]; constants?: number[] }
  /** A channel of a picture at u and v; where four are given, over so much along u and along v. */
  | { op: 'picture'; args: number[]; name: string; channel: number; reading: PictureReading; constants?: undefined }
  | { op: 'constant'; value: number }
  | { op: 'param'; ref: ParamRef }
  | { op: 'mesh'; input: MeshInput }
  | { op: 'part'; input: PartInput }
  | { op: 'set'; name: string }
  | { op: 'measure'; name: MeasureName; reading: MeasureReading }
  | { op: 'map'; name: string; component: number }
  | { op: 'surface'; input: SurfaceInput }
  | GatheredInstruction

/**
 * Instructions whose value needs the whole surface, or all parts at once. Domains: uniform, part or vertex; what they
 * read may live anywhere, unless said otherwise.
 */
export type GatheredInstruction =
  /** A number that a share (0 to 1, uniform) of the surface exceeds, counting only where `where` is above a half. */
  | { op: 'quantile'; of: number; where: number; share: number }
  /** The same for each part by itself. */
  | { op: 'partQuantile'; of: number; where: number; share: number }
  /**
   * Where a part's value stands among all different values, 0 to 1: each takes the same room, or as much as its parts
   * have area. Reads a part's value.
   */
  | { op: 'rank'; of: number; by: 'count' | 'area' }
  /** The same values, handed out anew so that touching parts differ. Reads a part's value. */
  | { op: 'apart'; of: number }
  /**
   * Which entry of a list (weight and linear color each) a part's value falls to, touching parts differing by `differ`.
   * Reads a part's value; the rest is uniform.
   */
  | { op: 'pick'; of: number; by: 'count' | 'area'; differ: number; list: number[] }
  /** What a list of pinned parts says of each: whether it has a value, which one, how often it is rolled again. */
  | { op: 'pinned'; node: string; param: string; reading: 'is' | 'value' | 'roll' }
  /** How many parts each part touches: a measure that is known only where contacts are. */
  | { op: 'neighbors'; reading: MeasureReading }
  /** A draw for each patch, at its vertices. */
  | { op: 'patchDraw'; seed: number; stream: number }
  /**
   * Over the surface, by way of the vertices: softened over `amount` meters, or with the edge at one half moved by it
   * and made `edge` meters wide. Both are uniform.
   */
  | { op: 'spread'; way: 'soften' | 'move'; of: number; amount: number; edge: number }

/** What each reads, and whether it costs too much for the thread that draws. */
export const GATHERED: Record<GatheredInstruction['op'], { reads: readonly string[]; costly: boolean }> = {
  quantile: { reads: ['of', 'where', 'share'], costly: true },
  partQuantile: { reads: ['of', 'where', 'share'], costly: true },
  rank: { reads: ['of'], costly: false },
  apart: { reads: ['of'], costly: true },
  pick: { reads: ['of', 'differ'], costly: true },
  pinned: { reads: [], costly: false },
  neighbors: { reads: [], costly: true },
  patchDraw: { reads: ['seed', 'stream'], costly: true },
  spread: { reads: ['of', 'amount', 'edge'], costly: true },
}
/** The values that a gathered instruction reads. */
export const readsOf = (i: GatheredInstruction): Ref[] => [
  ...GATHERED[i.op].reads.map(name => (i as unknown as Record<string, Ref>)[name]!),
  ...(i.op === 'pick' ? i.list : []),
]
export const isGathered = (i: Instruction): i is GatheredInstruction => i.op in GATHERED

/** A value of a program: the index of the instruction that makes it. */
export type Ref = number
export type Ref3 = [Ref, Ref, Ref]
