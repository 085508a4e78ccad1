import type { OfMesh } from '#core/evaluate/ofMesh'
import type { Picture } from '#core/evaluate/pictures'

/** What the stage shows instead of the look: a level of the mesh, a number per part, or one per vertex. */
export type Inspected =
  | { kind: 'level'; level: 'object' | 'group' | 'part' | 'patch' }
  /** How red each part is, from 0 to 1. */
  | { kind: 'astray'; shares: Float32Array }
  /** The parts that are alone in gray, the others each in a color of its own. */
  | { kind: 'partners'; alone: Uint8Array }
  /** One number of a surface map. */
  | { kind: 'surface'; picture: Picture; lane: number; span: [number, number]; falseColors: boolean }
  | {
      kind: 'values'
      values: Float32Array
      stride: number
      offset: number
      span: [number, number]
      falseColors: boolean
    }

/** The mesh laid out by its UVs. */
export interface Layout {
  overlapping: Uint32Array
  borders: Uint32Array
  tiles: readonly number[]
}

/** What has to be found out of the mesh at each point for that. */
export function ofMeshFor(inspected: Inspected): OfMesh {
  if (inspected.kind === 'surface') return { kind: 'uv' }
  if (inspected.kind === 'level' && inspected.level === 'patch') return { kind: 'patch' }
  if (inspected.kind !== 'values') return { kind: 'part' }
  const { values, stride, offset } = inspected
  if (stride === 1) return { kind: 'values', values }
  return {
    kind: 'values',
    values: Float32Array.from({ length: values.length / stride }, (_, v) => values[v * stride + offset]!),
  }
}
