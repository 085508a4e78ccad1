import { spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { weld as gltfWeld } from '@gltf-transform/functions'
import { Document } from '@gltf-transform/core'
import { meshTables } from '../../core/evaluate/tables'
import { Evaluator } from '../../core/evaluate/evaluator'
import { setParam } from '../../core/graph/edit'
import { loadKernels } from '../../core/kernels/kernels'
import type { Mesh } from '../../core/mesh/mesh'
import { findParts } from '../../core/mesh/parts'
import { lower, readParam } from '../../core/program/lower'
import { plan } from '../../core/program/plan'
import { floatRack } from '../../demo/floatRack'
import { floatRackLook } from '../../demo/floatRackLook'
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
  const count = 2 ** 20, block = 1024
  const x = Float32Array.from({ length: count }, (_, i) => (i * 0.61803) % 64), y = x.map(v => v * 0.7 + 3), z = x.map(v => v * 0.3 + 11)
  const out = new Float32Array(count), plain = new Float32Array(count)
  const { floats } = kernels.reserve(8 * block * 4), at = (i: number) => kernels.arena + i * block * 4
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
    plain: () => { for (let i = 0; i < count; i++) plain[i] = fractal3(x[i]!, y[i]!, z[i]!, 5, 2, 0.5) },
  })
  const worst = out.reduce((m, v, i) => Math.max(m, Math.abs(v - plain[i]!)), 0)
  return { points: count, kernelsMs: round(t.kernels!), plainMs: round(t.plain!), timesAsFast: round(t.plain! / t.kernels!), largestDifference: round(worst) }
}

/** Balls of 2,000 triangles in a grid, split at a seam: a million triangles in 500 parts. */
function million(): Mesh {
  const rows = 32, columns = 32, balls = 512, ring = columns + 1
  const positions = new Float32Array(balls * (rows + 1) * ring * 3), indices = new Uint32Array(balls * rows * columns * 6)
  for (let b = 0, v = 0, k = 0; b < balls; b++) {
    const base = v
    for (let j = 0; j <= rows; j++) {
      for (let i = 0; i <= columns; i++, v++) {
        const a = i % columns / columns * 2 * Math.PI, p = j / rows * Math.PI
        positions.set([Math.sin(p) * Math.cos(a) + b % 8 * 3, Math.cos(p) + (b >> 3) % 8 * 3, Math.sin(p) * Math.sin(a) + (b >> 6) * 3], v * 3)
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
    positions, normals: positions.slice(), indices, maps: [], materials: [], warnings: [],
    objects: [{ name: 'balls', firstVertex: 0, vertices: positions.length / 3, firstTriangle: 0, triangles: indices.length / 3 }],
  }
}

async function parts() {
  const mesh = million(), document = new Document(), buffer = document.createBuffer()
  const t = await medians(3, {
    parts: () => findParts(mesh),
    baseline: async () => {
      const primitive = document.createPrimitive()
        .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(mesh.positions.slice()).setBuffer(buffer))
        .setIndices(document.createAccessor().setType('SCALAR').setArray(mesh.indices.slice()).setBuffer(buffer))
      const owner = document.createMesh().addPrimitive(primitive)
      await document.transform(gltfWeld({ overwrite: true }))
      owner.dispose()
      primitive.dispose()
    },
  })
  return { triangles: mesh.indices.length / 3, parts: findParts(mesh).parts.length, findPartsMs: round(t.parts!), weldOfGltfTransformMs: round(t.baseline!), timesAsLong: round(t.parts! / t.baseline!) }
}

/** What a drag costs before anything is handed to the stage: reading parameters, uniform and part stages. */
async function drag() {
  const { mesh } = floatRack(), tables = meshTables(mesh, findParts(mesh)), look = floatRackLook()
  const program = lower(look, mesh.maps), evaluator = new Evaluator(kernels, plan(program, [...program.result.baseColor, ...program.result.metalness, ...program.result.roughness]), tables)
  evaluator.refresh(ref => readParam(look, ref), 'parts')
  const time = (change: (i: number) => typeof look) => median(Array.from({ length: 60 }, (_, i) => {
    const next = change(i), from = performance.now()
    evaluator.refresh(ref => readParam(next, ref), 'parts')
    return performance.now() - from
  }))
  return {
    surfaceParameterMs: round(time(i => setParam(look, 'salt', 'size', 4 + i * 0.1))),
    partParameterMs: round(time(i => setParam(look, 'glassDrift', 'hue', i))),
    vertexParameterMs: round(time(i => setParam(look, 'fade', 'gamma', 0.5 + i * 0.01))),
  }
}

/**
 * In the browser, on the demo: script time from a number's change to the end of the animation frame that submits it. The
 * graphics card's share is left out: in a frame, only the calls into WebGL count.
 */
async function browser() {
  const { chromium } = await import('@playwright/test')
  const port = 4399, address = `http://127.0.0.1:${port}`
  const server = spawn(process.execPath, ['.output/server/index.mjs'], { stdio: 'ignore', env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), UBBLET_DATABASE: `file:${join(mkdtempSync(join(tmpdir(), 'ubblet-bench-')), 'b.db')}` } })
  try {
    for (let i = 0; ; i++) {
      if (await fetch(`${address}/api/projects`).then(r => r.ok, () => false)) break
      if (i > 100) throw new Error('the server does not start')
      await new Promise(resolve => setTimeout(resolve, 100))
    }
    const { id } = await (await fetch(`${address}/api/demo`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' })).json() as { id: string }
    const app = await chromium.launch({ executablePath: process.env.CHROMIUM!, args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist', '--disable-background-networking', '--no-first-run', '--disable-quic'] })
    const page = await app.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto(`${address}/project/${id}`)
    await page.locator('[data-node=salt] .name').click()
    await page.locator('.readings svg').first().waitFor({ timeout: 60_000 })
    const result = await page.evaluate(async () => {
      const input = [...document.querySelectorAll<HTMLInputElement>('.panel input[role=spinbutton]')].find(i => i.getAttribute('aria-valuemax') === '10000')!
      const canvas = document.querySelector<HTMLCanvasElement>('.stage canvas')!
      const frame = () => new Promise<number>(resolve => requestAnimationFrame(resolve))
      const times: number[] = [], updates: number[] = [], renders: number[] = []
      const gl = canvas.getContext('webgl2')!, pixel = new Uint8Array(4)
      // Software rendering takes both cores of a small machine: wait until it is done before the next change.
      for (let i = 0; i < 40; i++) {
        const before = canvas.dataset.frames
        const from = performance.now()
        input.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }))
        await Promise.resolve()
        await new Promise<void>((resolve) => { queueMicrotask(() => resolve()) })
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
      return { changeToSubmitMs: mid(times), ofWhichProgramMs: mid(updates), ofWhichSubmitMs: mid(renders), compiled: Number(canvas.dataset.compiled) }
    })
    await app.close()
    return Object.fromEntries(Object.entries(result).map(([k, v]) => [k, round(v)]))
  }
  finally {
    server.kill()
  }
}

const report: Record<string, unknown> = { node: process.version, noise: await noise(), parts: await parts(), drag: await drag() }
if (process.env.CHROMIUM) report.frame = await browser()
console.log(JSON.stringify(report, null, 2))
