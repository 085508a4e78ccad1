import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { bandsOf, PICTURE_DEFAULTS } from '../../core/bake/band'
import { mapOf, type MapName } from '../../core/bake/maps'
import { deliverySchema } from '../../core/deliver/settings'
import { Workpiece } from '../../core/evaluate/workpiece'
import { writeGlb } from '../../core/exchange/writeGlb'
import { DEMOS } from '../../demo'
import { bakeWorkOf } from '../../node/bake/bakeMissing'
import { BakePool, type Effort } from '../../node/bake/bakePool'
import { openWork } from '../../node/bake/work'
import { deliver } from '../../node/bake/deliver'
import type { Work } from '../../node/bake/workSchema'

const SETS: Record<string, MapName[]> = {
  colorAndRoughness: ['baseColor', 'orm'],
  all: [
    'baseColor',
    'metalness',
    'roughness',
    'orm',
    'normal',
    'height',
    'emission',
    'opacity',
    'translucency',
    'translucencyColor',
    'parts',
  ],
}

/** A demo, its geometry maps from few rays: how they were made is not what is measured. */
async function workOf(demo: (typeof DEMOS)[number], look: number, settings: object): Promise<Work> {
  const { mesh } = demo.make()
  const preparation = { ...demo.preparation() }
  const quick = { ...preparation, maps: preparation.maps.map(m => ('rays' in m ? { ...m, rays: 4 } : m)) }
  const piece = new Workpiece(mesh, quick)
  piece.computeAll()
  return {
    mesh: { name: 'mesh.glb', bytes: await writeGlb(mesh, demo.title) },
    preparation: quick,
    maps: piece.tables.mesh.maps.filter(m => quick.maps.some(q => q.name === m.name)),
    pictures: [],
    look: demo.looks[look]!(),
    settings: deliverySchema.parse(settings),
  }
}

/** Shares of a thread's time. */
function shares(round: (x: number) => number, before: Effort, after: Effort): object {
  const all = after.all - before.all
  const kernels = (after.kernels - before.kernels) / all
  const compressing = (after.compressing - before.compressing) / all
  return {
    shareOutsideKernels: round(1 - kernels),
    shareCompressing: round(compressing),
    shareOfTheRest: round(1 - kernels - compressing),
  }
}

/**
 * Texels a second of the demo looks, one and two threads, rounds taken in turn (the ratio is the median of those of
 * neighboring rounds); and the share of time outside the kernels. Names of demo meshes on the command line measure
 * those alone.
 */
export async function delivery(round: (x: number) => number, size = 2048): Promise<object> {
  const report: Record<string, object> = {}
  const named = DEMOS.filter(d => process.argv.includes(d.file))
  for (const demo of named.length ? named : DEMOS) {
    for (const [set, maps] of Object.entries(SETS)) {
      // The second look of a mesh sets a height, or emission and translucency.
      const look = set === 'all' ? demo.looks.length - 1 : 0
      const work = await workOf(demo, look, { meshes: [], maps, size })
      const specs = maps.map(mapOf)
      const open = await openWork(work)
      open.subjects[0]!.subject.baker.makeReady(specs)
      const pools = await Promise.all([1, 2].map(n => BakePool.open(bakeWorkOf(work, open), n)))
      const times: number[][] = [[], []]
      const tiles = [1001]
      const run = async (pool: BakePool): Promise<number> => {
        const from = performance.now()
        await Promise.all(
          tiles.flatMap(tile =>
            bandsOf(size).map((_, band) =>
              pool.bake({ variant: 0, tile, band, specs, picture: { ...PICTURE_DEFAULTS, size } }),
            ),
          ),
        )
        return performance.now() - from
      }
      // Once for what is made on first use.
      for (const pool of pools) await run(pool)
      const before = pools.map(p => p.effort)
      const begun = performance.now()
      for (let i = 0; i < 5 || (i < 15 && performance.now() - begun < 60_000); i++)
        for (const [k, pool] of pools.entries()) times[k]!.push(await run(pool))
      const middle = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!
      const [one, two] = times.map(middle) as [number, number]
      const after = pools.map(p => p.effort)
      const worked = after.map((a, k) => a.all - before[k]!.all)
      await Promise.all(pools.map(p => p.close()))
      report[`${demo.file}, ${set}`] = {
        look: work.look.name,
        pictures: maps.length,
        size,
        texelsPerSecondOneThread: Math.round(((size * size * tiles.length) / one) * 1000),
        texelsPerSecondTwoThreads: Math.round(((size * size * tiles.length) / two) * 1000),
        timesAsFastOnTwo: round(middle(times[0]!.map((t, i) => t / times[1]![i]!))),
        shareOfTheTwoThatWorks: round(worked[1]! / 2 / times[1]!.reduce((a, b) => a + b)),
        timesAsLongForTheSameWork: round(worked[1]! / worked[0]!),
        ...shares(round, before[0]!, after[0]!),
      }
    }
  }
  return report
}

/** A delivery of all channels at growing sizes: what it holds at most, and how its time grows. */
export function delivered(round: (x: number) => number): object {
  return [2048, 4096, 8192].map(side => {
    const done = spawnSync(process.execPath, [process.argv[1]!, '--bake-memory', String(side)], {
      encoding: 'utf8',
      maxBuffer: 2 ** 26,
    })
    const m = JSON.parse(done.stdout) as {
      size: number
      residentMegabytes: number
      seconds: number
      bakingSeconds: number
    }
    return { ...m, bakingSecondsPerMegatexel: round(m.bakingSeconds / (m.size ** 2 / 1e6)) }
  })
}

/** One delivery of all channels at a size, in a process of its own: what it needs at most. */
export async function bakeMemory(size: number): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'ubblet-bench-'))
  const demo = DEMOS.find(d => d.file === 'float-rack')!
  const work = await workOf(demo, 1, { meshes: [], maps: SETS.all, size, tiles: [1001] })
  const from = performance.now()
  const bands: number[] = []
  await deliver(work, join(folder, 'out'), {
    name: 'bench',
    cache: join(folder, 'cache'),
    progress: (_, what) => {
      if (what.startsWith('baking')) bands.push(performance.now())
    },
  })
  const seconds = (performance.now() - from) / 1000
  const bakingSeconds = (((bands.at(-1)! - bands[0]!) / (bands.length - 1)) * bands.length) / 1000
  rmSync(folder, { recursive: true, force: true })
  console.log(
    JSON.stringify({
      size,
      residentMegabytes: Math.round(process.resourceUsage().maxRSS / 1024),
      seconds: Math.round(seconds * 10) / 10,
      bakingSeconds: Math.round(bakingSeconds * 10) / 10,
    }),
  )
}
