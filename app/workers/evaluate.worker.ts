import * as Comlink from 'comlink'
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { z } from 'zod'
import { BAKE_DEFAULTS, BAKE_SIZES } from '#core/bake/textures'
import { partValues, partValuesCsv } from '#core/bake/values'
import { Analyzer, type Analysis } from '#core/evaluate/analysis'
import { Evaluator } from '#core/evaluate/evaluator'
import { meshTables, type MeshTables } from '#core/evaluate/tables'
import { deliverGlb, DeliveryError } from '#core/exchange/deliver'
import { MeshFileError, readGlb } from '#core/exchange/readGlb'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import { parseLook } from '#core/graph/look'
import { loadKernels } from '#core/kernels/kernels'
import type { Mesh } from '#core/mesh/mesh'
import { findParts, type Parts } from '#core/mesh/parts'
import { pointSet } from '#core/mesh/sample'
import { lower, readParam, signature } from '#core/program/lower'
import { plan } from '#core/program/plan'

const deliverySchema = z.strictObject({
  format: z.enum(['glb', 'csv']), size: z.literal([...BAKE_SIZES]), colorIn: z.enum(['texture', 'vertices']),
})
export type DeliverySettings = z.infer<typeof deliverySchema>
const raySchema = z.strictObject({ origin: z.tuple([z.number(), z.number(), z.number()]), direction: z.tuple([z.number(), z.number(), z.number()]) })

/** What lies under the cursor. Channel values are linear. */
export interface Picked { part: number, name: string, channels: Record<Channel, number[]> }

/** Either an answer, or one sentence for the artist. Errors do not keep their class across threads. */
export type Answer<T> = { ok: T } | { error: string }

// Not awaited here: a message that comes before the script has run to its end would be lost.
const loading = loadKernels()
let tables: MeshTables | undefined
let analyzer: Analyzer | undefined
let bvh: MeshBVH | undefined
let picking: { shape: string, evaluator: Evaluator } | undefined

const evaluatorApi = {
  /** Reads a mesh file, keeps it here and hands a copy back. */
  async open(bytes: ArrayBuffer): Promise<Answer<{ mesh: Mesh, parts: Parts }>> {
    try {
      const kernels = await loading, mesh = await readGlb(new Uint8Array(bytes)), parts = findParts(mesh)
      tables = meshTables(mesh, parts)
      analyzer = new Analyzer(kernels, tables)
      bvh = undefined
      return { ok: { mesh, parts } }
    }
    catch (error) {
      return { error: error instanceof MeshFileError ? error.message : `The mesh could not be read (${(error as Error).message}).` }
    }
  },

  analyze(look: unknown, focus?: string): Analysis | null {
    const analysis = analyzer?.analyze(parseLook(look), focus)
    return analysis ? Comlink.transfer(analysis, Object.values(analysis.swatches).map(s => s.buffer)) : null
  },

  /** The part and the channels where a ray first meets the mesh. */
  async pick(look: unknown, ray: unknown): Promise<Picked | null> {
    if (!tables) return null
    const kernels = await loading
    const { origin, direction } = raySchema.parse(ray), document = parseLook(look), { mesh, parts } = tables
    if (!bvh) {
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
      geometry.setIndex(new BufferAttribute(mesh.indices, 1))
      bvh = new MeshBVH(geometry, { indirect: true })
    }
    const hit = bvh.raycastFirst(new Ray(new Vector3(...origin), new Vector3(...direction).normalize()), DoubleSide)
    if (!hit || hit.faceIndex == null) return null
    const corner = (c: number) => new Vector3().fromArray(mesh.positions, mesh.indices[hit.faceIndex! * 3 + c]! * 3)
    const a = corner(0), ab = corner(1).sub(a), ac = corner(2).sub(a), ap = hit.point.clone().sub(a)
    const n = ab.clone().cross(ac), area = n.lengthSq() || 1
    const points = pointSet(1)
    points.triangle[0] = hit.faceIndex
    points.u[0] = ap.clone().cross(ac).dot(n) / area
    points.v[0] = ab.clone().cross(ap).dot(n) / area
    // Kept from one move of the cursor to the next: part and vertex values are computed again only when they change.
    const shape = signature(document)
    if (picking?.shape !== shape || picking.evaluator.tables !== tables) {
      const lowered = lower(document, mesh.maps)
      picking = { shape, evaluator: new Evaluator(kernels, plan(lowered, CHANNEL_NAMES.flatMap(c => lowered.result[c])), tables) }
    }
    const { evaluator } = picking
    evaluator.refresh(ref => readParam(document, ref))
    const columns = evaluator.plan.roots.map(() => new Float32Array(1)), { result } = evaluator.plan.program
    evaluator.evaluate(points, columns)
    const values = columns.map(c => c[0]!), part = parts.partOfTriangle[hit.faceIndex]!
    return {
      part, name: parts.parts[part]!.name,
      channels: Object.fromEntries(CHANNEL_NAMES.map(c => [c, values.splice(0, result[c].length)])) as Record<Channel, number[]>,
    }
  },

  async deliver(look: unknown, settings: unknown, progress: (share: number) => void): Promise<Answer<Uint8Array>> {
    if (!tables) return { error: 'The project has no mesh yet.' }
    const kernels = await loading
    try {
      const document = parseLook(look), { format, size, colorIn } = deliverySchema.parse(settings)
      if (format === 'csv') {
        const rows = partValues(kernels, tables, lower(document, tables.mesh.maps), ref => readParam(document, ref))
        return { ok: new TextEncoder().encode(partValuesCsv(rows)) }
      }
      const glb = await deliverGlb(kernels, tables, document, { ...BAKE_DEFAULTS, size, colorIn, progress })
      return { ok: Comlink.transfer(glb, [glb.buffer as ArrayBuffer]) }
    }
    catch (error) {
      return { error: error instanceof DeliveryError ? error.message : `The delivery could not be made (${(error as Error).message}).` }
    }
  },
}
export type EvaluatorApi = typeof evaluatorApi

Comlink.expose(evaluatorApi)
