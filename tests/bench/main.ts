import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads'
import { weld as gltfWeld } from '@gltf-transform/functions'
import { WebIO } from '@gltf-transform/core'
import type { Page } from '@playwright/test'
import { DoubleSide, Ray } from 'three'
import { meshTables } from '../../core/evaluate/tables'
import { LoneEvaluator } from '../../core/evaluate/loneEvaluator'
import { setParam } from '../../core/graph/edit'
import { loadKernels } from '../../core/kernels/kernels'
import type { Mesh } from '../../core/mesh/mesh'
import { Workpiece } from '../../core/evaluate/workpiece'
import { readMesh } from '../../core/exchange/readMesh'
import { writeGlb } from '../../core/exchange/writeGlb'
import { castRound } from '../../core/geometry/compute'
import { Geometry } from '../../core/geometry/geometry'
import { CHUNK } from '../../core/geometry/round'
import { standOut } from '../../core/geometry/curvature'
import { findContacts } from '../../core/mesh/contacts'
import { findParts } from '../../core/mesh/parts'
import { emptyPreparation } from '../../core/mesh/preparation'
import { lower, reader } from '../../core/program/lower'
import { plan } from '../../core/program/plan'
import { floatRack } from '../../demo/floatRack'
import { floatRackLook } from '../../demo/floatRackLook'
import { boxesOf } from './boxes'
import { packageTree } from '../packageTree'
import { bakeMemory, delivered, delivery } from './delivery'
import { dense, detailMemory } from './dense'
import { serving } from './serving'
import { sheet } from './sheet'
import { shareThread, sixty } from './sixty'
import { pictures } from './pictures'
import { stage } from './stage'
import { workbench } from './workbench'
import { fractal3 } from '../reference/noise'

/** Runs each a few times in turn, so that a noisy moment falls on all of them, and takes medians. Milliseconds. */
async function medians(rounds: number, tasks: Record<string, () => unknown>): Promise<Record<string, number>> {
  const times = new Map(Object.keys(tasks).map(name => [name, [] as number[]]))
  for (let i = 0; i < rounds; i++) {
    for (const [name, task] of Object.entries(tasks)) {
      const from = performance.now()
      await task()
      times.get(name)!.push(performance.now() - from)
    }
  }
  return Object.fromEntries([...times].map(([name, list]) => [name, median(list)]))
}
const median = (list: number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]!
const round = (x: number): number => Number(x.toPrecision(4))

const kernels = await loadKernels()

/** Five octaves at a million points: the kernel block by block, and plain JavaScript with doubles. */
async function noise() {
  const count = 2 ** 20
  const block = 1024
  const x = Float32Array.from({ length: count }, (_, i) => (i * 0.61803) % 64)
  const y = x.map(v => v * 0.7 + 3)
  const z = x.map(v => v * 0.3 + 11)
  const out = new Float32Array(count)
  const plain = new Float32Array(count)
  const { floats } = kernels.reserve(8 * block * 4)
  const at = (i: number) => kernels.arena + i * block * 4
  ;[5, 2, 0.5].forEach((v, i) => floats.fill(v, at(4 + i) >> 2, (at(4 + i) >> 2) + 4))
  const t = await medians(5, {
    kernels: () => {
      for (let s = 0; s < count; s += block) {
        floats.set(x.subarray(s, s + block), at(1) >> 2)
        floats.set(y.subarray(s, s + block), at(2) >> 2)
        floats.set(z.subarray(s, s + block), at(3) >> 2)
        kernels.run.fractal3(at(0), at(1), -1, at(2), -1, at(3), -1, at(4), 0, at(5), 0, at(6), 0, block)
        out.set(floats.subarray(at(0) >> 2, (at(0) >> 2) + block), s)
      }
    },
    plain: () => {
      for (let i = 0; i < count; i++) plain[i] = fractal3(x[i]!, y[i]!, z[i]!, 5, 2, 0.5)
    },
  })
  const worst = out.reduce((m, v, i) => Math.max(m, Math.abs(v - plain[i]!)), 0)
  return {
    points: count,
    kernelsMs: round(t.kernels!),
    plainMs: round(t.plain!),
    timesAsFast: round(t.plain! / t.kernels!),
    largestDifference: round(worst),
  }
}

/** Balls of 2,048 triangles in a grid, `apart` meters from middle to middle, each split along a seam. */
function ballsOf(balls: number, apart = 3): Mesh {
  const rows = 32
  const columns = 32
  const ring = columns + 1
  const positions = new Float32Array(balls * (rows + 1) * ring * 3)
  const normals = new Float32Array(positions.length)
  const indices = new Uint32Array(balls * rows * columns * 6)
  for (let b = 0, v = 0, k = 0; b < balls; b++) {
    const base = v
    for (let j = 0; j <= rows; j++) {
      for (let i = 0; i <= columns; i++, v++) {
        const a = ((i % columns) / columns) * 2 * Math.PI
        const p = (j / rows) * Math.PI
        const n = [Math.sin(p) * Math.cos(a), Math.cos(p), Math.sin(p) * Math.sin(a)] as const
        normals.set(n, v * 3)
        positions.set([n[0] + (b % 8) * apart, n[1] + ((b >> 3) % 8) * apart, n[2] + (b >> 6) * apart], v * 3)
      }
    }
    for (let j = 0; j < rows; j++) {
      for (let i = 0; i < columns; i++, k += 6) {
        const a = base + j * ring + i
        indices.set([a, a + ring, a + 1, a + 1, a + ring, a + ring + 1], k)
      }
    }
  }
  return {
    positions,
    normals,
    indices,
    maps: [],
    materials: [{ name: 'plain', firstTriangle: 0, triangles: indices.length / 3 }],
    warnings: [],
    objects: [
      {
        name: 'balls',
        firstVertex: 0,
        vertices: positions.length / 3,
        firstTriangle: 0,
        triangles: indices.length / 3,
      },
    ],
  }
}

/** A million triangles: from the bytes of a GLB to its parts, and what `weld()` takes on the same document alone. */
async function parts() {
  const bytes = await writeGlb(ballsOf(512), 'balls')
  const t = await medians(3, {
    read: async () => {
      await readMesh(bytes, 'balls.glb')
    },
    readAndParts: async () => {
      findParts(await readMesh(bytes, 'balls.glb'))
    },
  })
  const welds: number[] = []
  for (let i = 0; i < 3; i++) {
    const document = await new WebIO().readBinary(bytes)
    const from = performance.now()
    await document.transform(gltfWeld({ overwrite: true }))
    welds.push(performance.now() - from)
  }
  const mesh = await readMesh(bytes, 'balls.glb')
  const weldMs = median(welds)
  return {
    triangles: mesh.indices.length / 3,
    parts: findParts(mesh).parts.length,
    readMs: round(t.read!),
    readAndFindPartsMs: round(t.readAndParts!),
    weldOfGltfTransformMs: round(weldMs),
    timesAsLong: round(t.readAndParts! / weldMs),
  }
}

const OCCLUSION = { kind: 'occlusion', name: 'o', distance: 2, among: 'all', rays: 32 } as const
/** Rays from every point of 64 balls against all of them: our loop, and the tree's own on rays that lie ready. */
async function occlusion() {
  const mesh = ballsOf(64, 2.1)
  const { scene, surface } = new Geometry(mesh, findParts(mesh))
  const tree = scene.all()
  const bvh = packageTree(surface.positions, surface.triangles)
  const points = 16_384
  const rays = 16
  const ray = new Ray()
  // (1) The very rays that are cast, written down.
  const directions = new Float64Array(points * rays * 3)
  const origins = new Float64Array(points * 3)
  let at = 0
  const original = tree.meets.bind(tree)
  tree.meets = (...[x, y, z, dx, dy, dz]) => {
    origins.set([x, y, z], Math.floor(at / rays) * 3)
    directions.set([dx, dy, dz], at++ * 3)
    return false
  }
  castRound(scene, surface, OCCLUSION, { from: 0, to: points, first: 0, last: rays }, new Float32Array(points))
  tree.meets = original
  // (2) The race.
  let bareHits = 0
  const sums = new Float32Array(points)
  const t = await medians(5, {
    ours: () => {
      sums.fill(0)
      castRound(scene, surface, OCCLUSION, { from: 0, to: points, first: 0, last: rays }, sums)
    },
    bare: () => {
      bareHits = 0
      for (let i = 0, k = 0; i < points; i++) {
        ray.origin.fromArray(origins, i * 3)
        for (let n = 0; n < rays; n++, k++) {
          ray.direction.fromArray(directions, k * 3)
          if (bvh.raycastFirst(ray, DoubleSide, 0, OCCLUSION.distance)) bareHits++
        }
      }
    },
  })
  const cast = points * rays
  return {
    triangles: mesh.indices.length / 3,
    rays: cast,
    raysPerSecond: Math.round((cast / t.ours!) * 1000),
    bareRaysPerSecond: Math.round((cast / t.bare!) * 1000),
    shareOfBareRate: round(t.bare! / t.ours!),
    hitsAgree: sums.reduce((a, b) => a + b, 0) === bareHits,
    workers: await threads(),
  }
}

/**
 * The same points on one thread and on two, each with a tree of its own, in the chunks that the application hands out.
 */
async function threads() {
  const start = () =>
    new Promise<Worker>(resolve => {
      const worker = new Worker(process.argv[1]!)
      worker.once('message', () => resolve(worker))
    })
  const both = await Promise.all([start(), start()])
  const total = 32_768
  const run = async (workers: Worker[]) => {
    let next = 0
    await Promise.all(
      workers.map(async worker => {
        while (next < total) {
          const from = next
          next += CHUNK
          await new Promise(resolve => {
            worker.once('message', resolve)
            worker.postMessage([from, from + CHUNK])
          })
        }
      }),
    )
  }
  // Once before the clock starts: both threads have their code compiled then.
  await run(both)
  const t = await medians(5, { one: () => run(both.slice(0, 1)), two: () => run(both) })
  await Promise.all(both.map(w => w.terminate()))
  return {
    cores: availableParallelism(),
    oneMs: round(t.one!),
    twoMs: round(t.two!),
    timesAsFast: round(t.one! / t.two!),
  }
}
/** What one of the threads does. */
function thread(): void {
  const mesh = ballsOf(64, 2.1)
  const { scene, surface } = new Geometry(mesh, findParts(mesh))
  scene.all()
  parentPort!.on('message', ([from, to]: [number, number]) => {
    const round = { from, to: Math.min(to, surface.count), first: 0, last: 16 }
    castRound(scene, surface, OCCLUSION, round, new Float32Array(to))
    parentPort!.postMessage('done')
  })
  parentPort!.postMessage('ready')
}

/**
 * Convexity at three radii on half a million vertices, and as many bare passes over the same graph as it took steps.
 */
async function convexity() {
  const mesh = ballsOf(504)
  const { surface, stiffness } = new Geometry(mesh, findParts(mesh))
  const { starts, neighbors, weights } = stiffness
  const { count } = surface
  const radii = [0.05, 0.1, 0.2]
  const from = Float64Array.from(surface.positions)
  const to = new Float64Array(from.length)
  let steps = 0
  const t = await medians(3, {
    convexity: () => {
      steps = standOut(surface, stiffness, radii).steps.reduce((a, b) => a + b, 0)
    },
    bare: () => {
      for (let n = 0; n < steps; n++) {
        for (let i = 0, q = 0; i < count; i++, q += 3) {
          let x = 0
          let y = 0
          let z = 0
          for (let k = starts[i]!; k < starts[i + 1]!; k++) {
            const w = weights[k]!
            const j = neighbors[k]! * 3
            x += w * from[j]!
            y += w * from[j + 1]!
            z += w * from[j + 2]!
          }
          to[q] = x
          to[q + 1] = y
          to[q + 2] = z
        }
      }
    },
  })
  return {
    vertices: count,
    radii: radii.length,
    steps,
    ms: round(t.convexity!),
    barePassesMs: round(t.bare!),
    timesAsLong: round(t.convexity! / t.bare!),
  }
}

/** Which of 256 balls touch: half a million triangles, each ball just reaching its neighbors. */
async function contacts() {
  const mesh = ballsOf(256, 2.0005)
  const found = findParts(mesh)
  let pairs = 0
  const t = await medians(3, {
    contacts: () => {
      pairs = findContacts(mesh, found, 0.001).pairs.length / 2
    },
  })
  const many = boxesOf(100_000)
  const crowd = findParts(many)
  const from = performance.now()
  findContacts(many, crowd, 0.001)
  return {
    triangles: mesh.indices.length / 3,
    parts: found.parts.length,
    touching: pairs,
    ms: round(t.contacts!),
    of100000PartsMs: round(performance.now() - from),
  }
}

/** A process of its own: the most memory that reading, finding parts and preparing takes, and what is kept. */
function memory(triangles: number): unknown {
  const out = spawnSync(
    process.execPath,
    ['--expose-gc', '--max-old-space-size=12000', process.argv[1]!, '--memory', String(triangles)],
    { encoding: 'utf8', maxBuffer: 1e6 },
  )
  return out.status === 0 ? (JSON.parse(out.stdout) as unknown) : { triangles, failed: out.stderr.slice(-300) }
}
async function measureMemory(triangles: number): Promise<void> {
  const bytes = await writeGlb(ballsOf(Math.round(triangles / 2048)), 'balls')
  // Array buffers are given back a little after the collection that finds them.
  const collect = async () => {
    for (let i = 0; i < 4; i++) {
      ;(globalThis as unknown as { gc(): void }).gc()
      await new Promise(resolve => setTimeout(resolve, 50))
    }
  }
  await collect()
  const before = process.memoryUsage()
  const from = performance.now()
  const piece = new Workpiece(await readMesh(bytes, 'balls.glb'), emptyPreparation())
  const ms = performance.now() - from
  const most = process.resourceUsage().maxRSS / 1024
  await collect()
  const after = process.memoryUsage()
  const megabytes = (x: number) => Math.round(x / 2 ** 20)
  // Both are still held here.
  console.log(
    JSON.stringify({
      triangles: piece.tables.mesh.indices.length / 3,
      fileMB: megabytes(bytes.length),
      readAndPrepareMs: round(ms),
      keptMB: megabytes(after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers),
      mostResidentMB: Math.round(most),
    }),
  )
}

/** What a drag costs before anything is handed to the stage: reading parameters, uniform and part stages. */
async function drag() {
  const { mesh } = floatRack()
  const tables = meshTables(mesh, findParts(mesh))
  const look = floatRackLook()
  const program = lower(look, mesh.maps)
  const evaluator = new LoneEvaluator(
    kernels,
    plan(program, [...program.result.baseColor, ...program.result.metalness, ...program.result.roughness]),
    tables,
  )
  evaluator.refresh(reader(look), 'parts')
  const time = (change: (i: number) => typeof look) =>
    median(
      Array.from({ length: 60 }, (_, i) => {
        const next = change(i)
        const from = performance.now()
        evaluator.refresh(reader(next), 'parts')
        return performance.now() - from
      }),
    )
  return {
    surfaceParameterMs: round(time(i => setParam(look, 'salt', 'size', 4 + i * 0.1))),
    partParameterMs: round(time(i => setParam(look, 'glassDrift', 'hue', i))),
    vertexParameterMs: round(time(i => setParam(look, 'fade', 'gamma', 0.5 + i * 0.01))),
  }
}

/**
 * In the browser, on the demo: script time from a number's change to the end of the animation frame that submits it.
 * The graphics card's share is left out: in a frame, only the calls into WebGL count.
 */
async function browser(asked: ReadonlySet<string>) {
  const { chromium } = await import('@playwright/test')
  const port = 4399
  const address = `http://127.0.0.1:${port}`
  const server = spawn(process.execPath, [join(process.env.UBBLET_BENCH_BUILD ?? '.output', 'server/index.mjs')], {
    stdio: 'ignore',
    env: {
      ...process.env,
      HOST: '127.0.0.1',
      PORT: String(port),
      UBBLET_DATABASE: `file:${join(mkdtempSync(join(tmpdir(), 'ubblet-bench-')), 'b.db')}`,
    },
  })
  try {
    for (let i = 0; ; i++) {
      if (
        await fetch(`${address}/api/projects`).then(
          r => r.ok,
          () => false,
        )
      )
        break
      if (i > 100) throw new Error('the server does not start')
      await new Promise(resolve => setTimeout(resolve, 100))
    }
    const { id } = (await (
      await fetch(`${address}/api/demo`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: '{}',
      })
    ).json()) as { id: string }
    const app = await chromium.launch({
      executablePath: process.env.CHROMIUM!,
      args: [
        '--no-sandbox',
        '--use-gl=angle',
        '--use-angle=swiftshader',
        '--disable-gpu-compositing',
        '--enable-unsafe-swiftshader',
        '--ignore-gpu-blocklist',
        '--disable-background-networking',
        '--no-first-run',
        '--disable-quic',
      ],
    })
    const page = await app.newPage({ viewport: { width: 1280, height: 800 } })
    if (asked.has('stage')) {
      const measured = await stage(page, address)
      await app.close()
      return { stage: measured }
    }
    if (asked.has('pictures')) {
      const compared = await pictures(page, address)
      await app.close()
      return { pictures: compared }
    }
    await page.goto(`${address}/project/${id}`)
    await page.locator('[data-node=salt] .name').click()
    await page.locator('.readings svg').first().waitFor({ timeout: 60_000 })
    const result = await page.evaluate(async () => {
      const input = [...document.querySelectorAll<HTMLInputElement>('.panel input[role=spinbutton]')].find(
        i => i.getAttribute('aria-valuemax') === '10000',
      )!
      const canvas = document.querySelector<HTMLCanvasElement>('.stage canvas')!
      const frame = () => new Promise<number>(resolve => requestAnimationFrame(resolve))
      const times: number[] = []
      const updates: number[] = []
      const renders: number[] = []
      const gl = canvas.getContext('webgl2')!
      const pixel = new Uint8Array(4)
      // Software rendering takes both cores of a small machine: wait until it is done before the next change.
      for (let i = 0; i < 40; i++) {
        const before = canvas.dataset.frames
        const from = performance.now()
        input.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }))
        await Promise.resolve()
        await new Promise<void>(resolve => {
          queueMicrotask(() => resolve())
        })
        const script = performance.now() - from
        for (let k = 0; k < 40 && canvas.dataset.frames === before; k++) await frame()
        updates.push(Number(canvas.dataset.updateMs))
        renders.push(Number(canvas.dataset.submitMs))
        times.push(script + Number(canvas.dataset.submitMs))
        await new Promise(resolve => setTimeout(resolve, 250))
        gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel)
        await new Promise(resolve => setTimeout(resolve, 400))
      }
      const mid = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!
      return {
        changeToSubmitMs: mid(times),
        ofWhichProgramMs: mid(updates),
        ofWhichSubmitMs: mid(renders),
        compiled: Number(canvas.dataset.compiled),
      }
    })
    const bench = await workbench(page, address, await writeGlb(boxesOf(24), 'boxes'))
    const crowd = asked.has('workbench') ? undefined : await crowded(page, address)
    await app.close()
    return {
      frame: Object.fromEntries(Object.entries(result).map(([k, v]) => [k, round(v)])),
      workbench: Object.fromEntries(Object.entries(bench).map(([k, v]) => [k, round(v)])),
      crowd,
    }
  } finally {
    server.kill()
  }
}

/**
 * 100,000 parts in the browser. From the key or the click until the table or the count of selected parts has followed,
 * with its layout; the graphics card's share is left out, and waited for in between.
 */
async function crowded(page: Page, address: string) {
  const count = 100_000
  const bytes = await writeGlb(boxesOf(count), 'boxes')
  const json = { 'content-type': 'application/json' }
  const { id } = (await (
    await fetch(`${address}/api/projects`, { method: 'POST', headers: json, body: '{"name":"Crowd"}' })
  ).json()) as { id: string }
  const put = performance.now()
  const answer = await fetch(`${address}/api/projects/${id}/mesh?name=boxes.glb`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: bytes as Uint8Array<ArrayBuffer>,
  })
  if (!answer.ok) throw new Error(await answer.text())
  const storeMs = performance.now() - put
  const open = performance.now()
  await page.goto(`${address}/project/${id}`)
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await page.getByRole('button', { name: 'Part table' }).click()
  await page
    .getByText(`${count.toLocaleString('en-US')} parts`)
    .first()
    .waitFor({ timeout: 180_000 })
  const openMs = performance.now() - open
  await page.waitForTimeout(3000)
  const times = await page.evaluate(async () => {
    const frame = () => new Promise<number>(resolve => requestAnimationFrame(resolve))
    const found: Record<string, number> = {}
    const gl = document.querySelector<HTMLCanvasElement>('.stage canvas')!.getContext('webgl2')!
    const pixel = new Uint8Array(4)
    const timed = async (name: string, act: () => void, done: () => boolean, reset = () => {}) => {
      const list: number[] = []
      for (let i = 0; i < 3; i++) {
        const from = performance.now()
        act()
        for (let k = 0; k < 5000 && !done(); k++)
          await new Promise<void>(resolve => {
            setTimeout(resolve)
          })
        void grid.getBoundingClientRect().height
        list.push(performance.now() - from)
        await new Promise(resolve => setTimeout(resolve, 200))
        gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel)
        reset()
        await frame()
        await new Promise(resolve => setTimeout(resolve, 200))
      }
      found[name] = list.sort((a, b) => a - b)[1]!
    }
    const grid = document.querySelector<HTMLElement>('[role=grid]')!
    const search = document.querySelector<HTMLInputElement>('input[aria-label="Search the parts"]')!
    const text = () => document.querySelector('.shown h3')!.textContent!
    const key = (init: KeyboardEventInit) =>
      grid.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, cancelable: true, ...init }))
    const type = (words: string) => {
      search.value = words
      search.dispatchEvent(new Event('input', { bubbles: true }))
    }
    const column = (title: string) =>
      [...grid.querySelectorAll<HTMLButtonElement>('[role=columnheader] button')].find(b =>
        b.textContent!.startsWith(title),
      )!
    let n = 0
    let before = ''
    await timed(
      'searchMs',
      () => {
        before = grid.querySelector('.row')!.textContent!
        type(`crate ${2 + n++}`)
      },
      () => grid.querySelector('.row')!.textContent! !== before,
    )
    type('')
    await frame()
    await timed(
      'sortMs',
      () => {
        before = grid.querySelector('.row')!.textContent!
        column(n++ % 2 ? 'Area' : 'Part').click()
      },
      () => grid.querySelector('.row')!.textContent! !== before,
    )
    await timed(
      'selectOneMs',
      () => {
        before = grid.getAttribute('aria-activedescendant')!
        key({ key: 'ArrowDown' })
      },
      () => text().startsWith('1 part') && grid.getAttribute('aria-activedescendant') !== before,
    )
    await timed(
      'selectAllMs',
      () => key({ key: 'a', ctrlKey: true }),
      () => text().startsWith('100,000'),
      () => key({ key: 'ArrowDown' }),
    )
    await timed(
      'scrollMs',
      () => {
        before = grid.querySelector('.row')!.textContent!
        grid.scrollTop += 60_000
      },
      () => grid.querySelector('.row')!.textContent! !== before,
    )
    return found
  })
  return {
    parts: count,
    triangles: count * 12,
    storeMs: round(storeMs),
    openMs: round(openMs),
    ...Object.fromEntries(Object.entries(times).map(([k, v]) => [k, round(v)])),
  }
}

const asked = process.argv.indexOf('--memory')
if (!isMainThread) {
  if (workerData === 'share') shareThread(kernels, parentPort!)
  else thread()
} else if (asked > 0) await measureMemory(Number(process.argv[asked + 1]))
else if (process.argv.includes('--detail-memory')) await detailMemory()
else if (process.argv.includes('--bake-memory'))
  await bakeMemory(Number(process.argv[process.argv.indexOf('--bake-memory') + 1]))
else {
  // Names on the command line run those alone.
  const tasks: Record<string, () => unknown> = {
    noise,
    parts,
    drag,
    sixty: () => sixty(kernels, medians, round),
    occlusion,
    dense: () => dense(kernels, medians),
    sheet,
    convexity,
    contacts,
    memory: () => [memory(1e6), memory(5e6 - 2048)],
    delivery: () => delivery(round),
    delivered: () => delivered(round),
    serving: () => (existsSync('.output/server/index.mjs') ? serving() : 'needs a build'),
  }
  const inBrowser = ['stage', 'workbench', 'browser', 'pictures']
  const named = [...Object.keys(tasks), ...inBrowser].filter(name => process.argv.includes(name))
  const report: Record<string, unknown> = { node: process.version }
  for (const name of named.length ? named : Object.keys(tasks)) if (tasks[name]) report[name] = await tasks[name]()
  // `workbench` is the browser without the crowd of 100,000 parts; `stage` the stage alone,
  // `pictures` how far the pictures of the demo looks are apart. UBBLET_BENCH_BUILD measures
  // another build.
  if (process.env.CHROMIUM && (!named.length || inBrowser.some(name => named.includes(name))))
    Object.assign(report, await browser(new Set(named)))
  console.log(JSON.stringify(report, null, 2))
}
