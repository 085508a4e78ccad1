import * as Comlink from 'comlink'
import { zlibSync } from 'fflate'
import { z } from 'zod'
import type { Compressor } from '#core/bake/compress'
import { MATCHES } from '#core/dense/partners'
import { normalsOfPictures, type NormalSource } from '#core/dense/normalPicture'
import { DETAIL_KINDS, takeDetail, type Taken } from '#core/dense/take'
import { MeshFileError, readMesh } from '#core/exchange/readMesh'
import { loadKernels } from '#core/kernels/kernels'
import type { Mesh } from '#core/mesh/mesh'
import { findParts, type Parts } from '#core/mesh/parts'
import { inspectUvs } from '#core/mesh/uvs'
import { draco } from './draco'
import { tangentMaker } from './tangents'

const fileSchema = z.object({
  name: z.string(),
  limits: z.object({ bytes: z.number().positive(), triangles: z.number().positive() }),
})
const distance = z.number().min(0).max(1000)
const settingsSchema = z.object({
  match: z.enum(MATCHES),
  outward: distance,
  inward: distance,
  cageMap: z.string().optional(),
  size: z.number().int().min(16).max(8192),
  kinds: z.array(z.enum(DETAIL_KINDS)),
  vertexMaps: z.array(z.string()),
  dilation: z.number().int().min(0).max(254),
})

const pair = z.tuple([z.number(), z.number()])
const beyond = z.enum(['repeat', 'mirror', 'edge'])
const sourceSchema = z.object({
  picture: z.object({
    name: z.string(),
    width: z.number().int().positive(),
    height: z.number().int().positive(),
    data: z.union([z.instanceof(Uint8ClampedArray), z.instanceof(Uint8Array), z.instanceof(Float32Array)]),
  }),
  green: z.enum(['up', 'down']),
  material: z.string().optional(),
  uvSet: z.number().int().min(0).optional(),
  placed: z.object({ move: pair, turn: z.number(), scale: pair }).optional(),
  beyond: z.tuple([beyond, beyond]).optional(),
  nearest: z.literal(true).optional(),
  strength: z.number().optional(),
})
/** Share of the texels that may be used twice. */
const MOST_OVERLAPPING = 0.02

/** Fast rather than small: what is kept is compressed once and read often. */
const LEVEL = 3
const compressor: Compressor = {
  blocks: () => {
    throw new Error('only whole streams are made here')
  },
  zlib: bytes => zlibSync(bytes, { level: LEVEL }),
}

/** What a dense mesh is, in figures. Lengths in meters. */
export interface DenseSummary {
  triangles: number
  parts: number
  maps: string[]
  min: [number, number, number]
  max: [number, number, number]
}
type Answer<T> = { ok: T } | { error: string }

const loading = loadKernels()
let dense: Mesh | undefined

function summaryOf(mesh: Mesh, parts: Parts): DenseSummary {
  const list = parts.parts
  const low = (k: number): number => list.reduce((x, p) => Math.min(x, p.min[k]!), Infinity)
  const high = (k: number): number => list.reduce((x, p) => Math.max(x, p.min[k]! + p.size[k]!), -Infinity)
  return {
    triangles: mesh.indices.length / 3,
    parts: list.length,
    maps: mesh.maps.map(m => m.name),
    min: [low(0), low(1), low(2)],
    max: [high(0), high(1), high(2)],
  }
}

/** Reads dense meshes and takes their detail; ended, where it is to stop. */
const denseApi = {
  async read(bytes: unknown, file: unknown): Promise<Answer<DenseSummary>> {
    try {
      const { name, limits } = fileSchema.parse(file)
      const read = await readMesh(new Uint8Array(z.instanceof(ArrayBuffer).parse(bytes)), name, { draco, limits })
      dense = read
      return { ok: summaryOf(read, findParts(read)) }
    } catch (error) {
      const { message } = error as Error
      return { error: error instanceof MeshFileError ? message : `It could not be read (${message}).` }
    }
  },
  /** Pictures of normals in tangent space as one in the space of the mesh. */
  async normals(
    mesh: Mesh,
    asked: unknown,
    size: unknown,
    progress: (share: number, what: string) => void,
  ): Promise<Answer<Uint8Array>> {
    try {
      const sources = z.array(sourceSchema).min(1).parse(asked) as NormalSource[]
      if (!mesh.uvs) return { error: 'The mesh has no UVs, on which a picture of normals could lie.' }
      if (inspectUvs(mesh).overlapping > MOST_OVERLAPPING)
        return { error: 'Its UVs overlap, and normals of the mesh want a place of their own for all of it; unwrap it.' }
      const { texels } = await loading
      const bytes = normalsOfPictures(
        texels,
        mesh,
        sources,
        z.number().int().min(16).max(8192).parse(size),
        await tangentMaker(),
        compressor,
        share => progress(share, 'turning normals'),
      )
      return Comlink.transfer({ ok: bytes }, [bytes.buffer as ArrayBuffer])
    } catch (error) {
      return { error: (error as Error).message }
    }
  },
  /** @param scale from the dense file's units to the project's */
  async take(
    mesh: Mesh,
    parts: Parts,
    scale: unknown,
    settings: unknown,
    progress: (share: number, what: string) => void,
  ): Promise<Answer<Taken>> {
    if (!dense) return { error: 'There is no dense mesh.' }
    try {
      const factor = z.number().positive().parse(scale)
      const scaled = factor === 1 ? dense : { ...dense, positions: dense.positions.map(x => x * factor) }
      let told = -1
      const { texels } = await loading
      const taken = takeDetail(
        texels,
        { mesh, parts },
        scaled,
        settingsSchema.parse(settings),
        compressor,
        (share, what) => {
          if (share - told < 0.01) return
          told = share
          progress(share, what)
        },
      )
      return Comlink.transfer(
        { ok: taken },
        taken.pictures.map(p => p.bytes.buffer as ArrayBuffer),
      )
    } catch (error) {
      return { error: (error as Error).message }
    }
  },
}
export type DenseApi = typeof denseApi

Comlink.expose(denseApi)
