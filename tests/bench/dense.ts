import { FrontSide, Ray } from 'three'
import { spawnSync } from 'node:child_process'
import { tilingOf } from '../../core/bake/raster'
import { partedDense } from '../../core/dense/partners'
import { DETAIL_KINDS, takeDetail } from '../../core/dense/take'
import { Transfer } from '../../core/dense/transfer'
import { readMesh } from '../../core/exchange/readMesh'
import { writeGlb } from '../../core/exchange/writeGlb'
import { refine } from '../../core/geometry/refine'
import { loadKernels, type Kernels } from '../../core/kernels/kernels'
import { keyTable } from '../../core/mesh/keys'
import { findParts } from '../../core/mesh/parts'
import { mooringWinch } from '../../demo/mooringWinch'
import { mooringWinchDense } from '../../demo/mooringWinchDense'
import { compressor } from '../../node/bake/compress'
import { packageTree } from '../packageTree'

type Medians = (rounds: number, tasks: Record<string, () => unknown>) => Promise<Record<string, number>>

const SIZE = 1024
/** The longest edge of a winch of two million triangles, in meters, and the tile onto which all of it is taken. */
const FINEST = 0.0062
const LARGE = 2048
const CAGE = { match: 'part', outward: 0.006, inward: 0.006 } as const

/**
 * Rays from the light winch to the dense one: texel by texel as they are cast, and the same rays by a bare loop over
 * the same trees.
 */
export async function dense(kernels: Kernels, medians: Medians) {
  const parted = (mesh: ReturnType<typeof mooringWinchDense>) => ({ mesh, parts: findParts(mesh) })
  const light = parted(mooringWinch().mesh)
  const fine = parted(mooringWinchDense())
  const transfer = new Transfer(light, fine, CAGE)
  const tiling = tilingOf(light.mesh)
  const rows = () => transfer.rows(kernels.texels, tiling, 1001, SIZE, 0, SIZE)
  const hits = rows()
  const count = hits.texel.length
  const trees = Array.from(light.parts.parts, (_, i) =>
    packageTree(fine.mesh.positions, transfer['scene'].part(i)!['indices']),
  )
  const ray = new Ray()
  let met = 0
  const t = await medians(5, {
    ours: rows,
    bare: () => {
      met = 0
      for (let i = 0; i < count; i++) {
        const n = hits.normals.subarray(i * 3, i * 3 + 3)
        const p = hits.places.subarray(i * 3, i * 3 + 3)
        ray.origin.set(p[0]! + n[0]! * CAGE.outward, p[1]! + n[1]! * CAGE.outward, p[2]! + n[2]! * CAGE.outward)
        ray.direction.set(-n[0]!, -n[1]!, -n[2]!)
        if (trees[hits.part[i]!]!.raycastFirst(ray, FrontSide, 0, CAGE.outward + CAGE.inward)) met++
      }
    },
  })
  const { mesh: many } = refine(fine.mesh, fine.parts, FINEST)
  const bytes = await writeGlb(many, 'dense')
  const r = await medians(3, {
    reading: () => readMesh(bytes, 'dense.glb'),
    ready: async () => {
      const mesh = await readMesh(bytes, 'dense.glb')
      keyTable(mesh, partedDense(mesh).parts)
    },
  })
  const memory = spawnSync(process.execPath, [...process.execArgv, process.argv[1]!, '--detail-memory'], {
    encoding: 'utf8',
    maxBuffer: 2 ** 24,
  })
  return {
    ready: {
      triangles: many.indices.length / 3,
      readingMs: Math.round(r.reading!),
      readyMs: Math.round(r.ready!),
      timesReading: Number((r.ready! / r.reading!).toPrecision(4)),
    },
    memory: JSON.parse(memory.stdout.trim().split('\n').at(-1)!) as unknown,
    triangles: fine.mesh.indices.length / 3,
    rays: count,
    raysPerSecond: Math.round((count / t.ours!) * 1000),
    bareRaysPerSecond: Math.round((count / t.bare!) * 1000),
    shareOfBareRate: Number((t.bare! / t.ours!).toPrecision(4)),
    hitsAgree: met === hits.met.reduce((a, b) => a + b, 0),
  }
}

/** Takes everything at once, and says how much memory that needed: in a process of its own. */
export async function detailMemory(): Promise<void> {
  const { texels } = await loadKernels()
  const parted = (mesh: ReturnType<typeof mooringWinchDense>) => ({ mesh, parts: findParts(mesh) })
  const fine = parted(mooringWinchDense())
  const settings = { ...CAGE, size: LARGE, kinds: DETAIL_KINDS, vertexMaps: ['painted'], dilation: LARGE >> 6 }
  const from = performance.now()
  const { pictures } = takeDetail(texels, parted(mooringWinch().mesh), fine, settings, compressor)
  console.log(
    JSON.stringify({
      size: LARGE,
      pictures: pictures.length,
      seconds: Math.round((performance.now() - from) / 100) / 10,
      residentMegabytes: Math.round(process.resourceUsage().maxRSS / 1024),
    }),
  )
}
