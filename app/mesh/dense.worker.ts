import * as Comlink from 'comlink'
import { zlibSync } from 'fflate'
import * as z from 'zod'
import type { Compressor } from '#core/bake/compress'
import { curvatureOfNormals } from '#core/dense/curvature'
import { normalsOfPictures, type NormalSource } from '#core/dense/normalPicture'
import { occlusionOfPictures } from '#core/dense/occlusionPicture'
import { findPartners, partedDense, type Parted } from '#core/dense/partners'
import { takeSchema } from '#core/dense/setup'
import { takeDetail, type Taken } from '#core/dense/take'
import { reachOf, type CageSettings } from '#core/dense/transfer'
import { MeshFileError, readMesh } from '#core/exchange/readMesh'
import { loadKernels } from '#core/kernels/kernels'
import { inheritKeys, keyTable, matchKeys, parseKeyTable, scaleTable, type KeyTable } from '#core/mesh/keys'
import { boundsOf, type Box, type Mesh } from '#core/mesh/mesh'
import type { Parts } from '#core/mesh/parts'
import { inspectUvs } from '#core/mesh/uvs'
import { draco } from './draco'
import { tangentMaker } from './tangents'

const fileSchema = z.object({
  name: z.string(),
  limits: z.object({ bytes: z.number().positive(), triangles: z.number().positive() }),
})
const scaleSchema = z.number().positive()
const sizeSchema = z.number().int().min(16).max(8192)

const pair = z.tuple([z.number(), z.number()])
const beyond = z.enum(['repeat', 'mirror', 'edge'])
const pictureSchema = z.object({
  name: z.string(),
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  data: z.union([z.instanceof(Uint8ClampedArray), z.instanceof(Uint8Array), z.instanceof(Float32Array)]),
  lanes: z.union([z.literal(1), z.literal(4)]).optional(),
  covers: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
})
const sourceSchema = z.object({
  picture: pictureSchema,
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
export interface DenseSummary extends Box {
  triangles: number
  parts: number
  maps: string[]
}
/** Whom each part of the dense mesh belongs to: a part of the light mesh by its number, or −1. */
export interface Matched {
  partOf: Int32Array
  keys: string[]
  names: string[]
  /** Parts of the light mesh to which none belongs. */
  alone: number[]
}
/** How pictures of a file's materials become one of the whole mesh. */
export type Laying = 'normals' | 'occlusion'
type Answer<T> = { ok: T } | { error: string }
type Progress = (share: number, what: string) => void

const loading = loadKernels()
let dense: { mesh: Mesh; table: KeyTable } | undefined
/** The dense mesh in units of the project, with the keys of its table, as it was asked for last. */
let fitted: (Parted & { scale: number }) | undefined

/** The dense mesh in units that are `scale` times those of its file. @throws Error where there is none */
function denseIn(scale: number): Parted {
  if (!dense) throw new Error('There is no dense mesh.')
  if (fitted?.scale === scale) return fitted
  const { mesh, table } = dense
  const fine = partedDense(mesh, scale)
  const known = scaleTable(table, scale)
  inheritKeys(fine.parts, known, matchKeys(known, fine.mesh, fine.parts))
  fitted = { ...fine, scale }
  return fitted
}

function summaryOf(mesh: Mesh, { parts: list }: Parts): DenseSummary {
  return {
    triangles: mesh.indices.length / 3,
    parts: list.length,
    maps: mesh.maps.map(m => m.name),
    ...boundsOf(mesh.positions, mesh.indices),
  }
}

/** How detail is looked for, as it is asked for. */
function cageOf(asked: unknown): CageSettings {
  const { match, outward, inward, cages, cageMap, given } = takeSchema.parse(asked)
  return { match, outward, inward, cages, given, ...(cageMap && { cageMap }) }
}

/** Does something, and says in a sentence why it could not be done. */
async function attempt<T>(act: () => T | Promise<T>): Promise<Answer<T>> {
  try {
    return { ok: await act() }
  } catch (error) {
    return { error: (error as Error).message }
  }
}

/** Reads dense meshes and takes their detail; ended, where it is to stop. */
const denseApi = {
  /** @param keys the table that the project has of it; without one its parts have the keys of what they are */
  async read(bytes: unknown, file: unknown, keys?: unknown): Promise<Answer<DenseSummary>> {
    try {
      const { name, limits } = fileSchema.parse(file)
      const mesh = await readMesh(new Uint8Array(z.instanceof(ArrayBuffer).parse(bytes)), name, { draco, limits })
      const { parts } = partedDense(mesh)
      dense = { mesh, table: keys === undefined ? keyTable(mesh, parts) : parseKeyTable(keys) }
      fitted = undefined
      return { ok: summaryOf(mesh, parts) }
    } catch (error) {
      const { message } = error as Error
      return { error: error instanceof MeshFileError ? message : `It could not be read (${message}).` }
    }
  },
  /** Takes the keys that the project gives its parts. */
  setKeys: (keys: unknown): Promise<Answer<null>> =>
    attempt(() => {
      if (dense) dense = { ...dense, table: parseKeyTable(keys) }
      fitted = undefined
      return null
    }),
  /** Finds out which part of the light mesh each part of the dense one belongs to. */
  match: (mesh: Mesh, parts: Parts, scale: unknown, settings: unknown): Promise<Answer<Matched>> =>
    attempt(() => {
      const light = { mesh, parts }
      const fine = denseIn(scaleSchema.parse(scale))
      const cage = cageOf(settings)
      const { partOf, alone } = findPartners(light, fine, reachOf(light, cage), cage.given)
      const list = fine.parts.parts
      return { partOf, alone, keys: list.map(p => p.key), names: list.map(p => p.name) }
    }),
  /** Pictures of a file's materials as one that lies on the whole mesh. */
  lay: (how: unknown, mesh: Mesh, asked: unknown, size: unknown, progress: Progress): Promise<Answer<Uint8Array>> =>
    attempt(async () => {
      const laying = z.enum(['normals', 'occlusion']).parse(how)
      const sources = z.array(sourceSchema).min(1).parse(asked) as NormalSource[]
      if (!mesh.uvs) throw new Error('The mesh has no UVs, on which such a picture could lie.')
      if (inspectUvs(mesh).overlapping > MOST_OVERLAPPING)
        throw new Error(
          `Its UVs overlap, and ${laying} of the mesh want a place of their own for all of it; unwrap it.`,
        )
      const { texels } = await loading
      const texelsOfTile = sizeSchema.parse(size)
      const told = (share: number): void => progress(share, `laying ${laying} on the mesh`)
      if (laying === 'occlusion') return occlusionOfPictures(texels, mesh, sources, texelsOfTile, compressor, told)
      return normalsOfPictures(texels, mesh, sources, texelsOfTile, await tangentMaker(), compressor, told)
    }),
  /** Small convexity and concavity of a picture of normals. @param radius in meters */
  curvature: (
    mesh: Mesh,
    parts: Parts,
    normals: unknown,
    radius: unknown,
    progress: Progress,
  ): Promise<Answer<{ convexity: Uint8Array; concavity: Uint8Array }>> =>
    attempt(async () => {
      const { texels } = await loading
      const picture = pictureSchema.parse(normals) as Parameters<typeof curvatureOfNormals>[2]
      const far = z.number().positive().parse(radius)
      return curvatureOfNormals(texels, { mesh, parts }, picture, far, compressor, share =>
        progress(share, 'looking at the normals'),
      )
    }),
  /** @param scale from the dense file's units to the project's */
  async take(mesh: Mesh, parts: Parts, scale: unknown, asked: unknown, progress: Progress): Promise<Answer<Taken>> {
    const answer = await attempt(async () => {
      const fine = denseIn(scaleSchema.parse(scale))
      const { size, kinds, vertexMaps } = takeSchema.parse(asked)
      const settings = { ...cageOf(asked), size, kinds, vertexMaps, dilation: size >> 6 }
      let told = -1
      const { texels } = await loading
      return takeDetail(texels, { mesh, parts }, fine, settings, compressor, (share, what) => {
        if (share - told < 0.01) return
        told = share
        progress(share, what)
      })
    })
    if ('error' in answer) return answer
    return Comlink.transfer(
      answer,
      answer.ok.pictures.map(p => p.bytes.buffer as ArrayBuffer),
    )
  },
}
export type DenseApi = typeof denseApi

Comlink.expose(denseApi)
