import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { build } from 'esbuild'
import { expect, type APIRequestContext, type Locator, type Page } from '@playwright/test'
import { fileURLToPath } from 'node:url'
import { writeGlb } from '../../core/exchange/writeGlb'
import { row } from '../helpers'
import { visit } from './day'
import type { Look } from '../../core/graph/look'
import type { Mesh } from '../../core/mesh/mesh'
import type { Preparation } from '../../core/mesh/preparation'
import type { Seen } from './harness/viewer'

const root = fileURLToPath(new URL('../..', import.meta.url))

/** Bundles a harness and runs it in an empty page. */
export async function load(page: Page, name: string): Promise<void> {
  const { outputFiles } = await build({
    entryPoints: [`${root}/tests/e2e/harness/${name}.ts`],
    bundle: true,
    format: 'esm',
    write: false,
    target: 'es2022',
    logLevel: 'error',
    external: ['node:fs', 'node:path'],
    alias: { '#core': `${root}/core`, '#demo': `${root}/demo` },
  })
  await page.goto('about:blank')
  await page.addScriptTag({ content: outputFiles[0]!.text, type: 'module' })
}

/** What three.js's own loader sees of a GLB, and of each of its triangles. */
export async function seenByLoader(page: Page, glb: Uint8Array): Promise<Seen[]> {
  await load(page, 'viewer')
  await page.waitForFunction(() => 'see' in window)
  const seen = await page.evaluate(
    b => (window as unknown as { see(b: string): Promise<string> }).see(b),
    Buffer.from(glb).toString('base64'),
  )
  return JSON.parse(seen) as Seen[]
}

export interface Project {
  id: string
  name: string
  revision: number
  look: Look
  preparation: Preparation
  mesh: { hash: string; name: string } | null
}

export async function newProject(request: APIRequestContext, name = 'Test'): Promise<Project> {
  const made = (await (await request.post('/api/projects', { data: { name } })).json()) as Project
  return (await (await request.get(`/api/projects/${made.id}`)).json()) as Project
}
export const projectNow = async (request: APIRequestContext, id: string): Promise<Project> =>
  (await (await request.get(`/api/projects/${id}`)).json()) as Project

/** Saves a look, or what is added to the one that is there, in a project that nobody has open. */
export async function saveLook(
  request: APIRequestContext,
  id: string,
  look: Look | { nodes: object[]; wires: object[] },
): Promise<void> {
  const { revision, look: old, preparation } = await projectNow(request, id)
  const whole = 'ubblet' in look ? look : { ...old, nodes: [...old.nodes, ...look.nodes], wires: look.wires }
  const saved = await request.put(`/api/projects/${id}/look`, { data: { base: revision, look: whole, preparation } })
  expect(saved.status()).toBe(200)
}

/** A picture of upright stripes, each a color and a width in pixels, as the browser writes it. */
export const striped = (
  page: Page,
  type: 'image/png' | 'image/jpeg',
  height: number,
  stripes: readonly [string, number][],
): Promise<number[]> =>
  page.evaluate(
    async ({ type, height, stripes }) => {
      const canvas = new OffscreenCanvas(
        stripes.reduce((sum, [, width]) => sum + width, 0),
        height,
      )
      const context = canvas.getContext('2d')!
      let at = 0
      for (const [color, width] of stripes) {
        context.fillStyle = color
        context.fillRect(at, 0, width, height)
        at += width
      }
      return [...new Uint8Array(await (await canvas.convertToBlob({ type, quality: 0.95 })).arrayBuffer())]
    },
    { type, height, stripes },
  )

/** A project whose mesh is `n` boxes in a row, each an object and a part; or another one. */
export async function boxProject(request: APIRequestContext, n = 6, mesh: Mesh = row(n)): Promise<Project> {
  const project = await newProject(request, `${n} boxes`)
  const put = await request.put(`/api/projects/${project.id}/mesh?name=boxes.glb`, {
    data: Buffer.from(await writeGlb(mesh, 'boxes')),
  })
  expect(put.status()).toBe(200)
  return project
}

/** Opens a project, as an artist who was here before. @param query of its address */
export async function enter(page: Page, id: string, query = ''): Promise<void> {
  // The words for a first visit would lie over the canvas.
  const wasHere = (): void => localStorage.setItem('ubblet has been here', 'true')
  if (page.url().startsWith('http')) await page.evaluate(wasHere)
  else await page.addInitScript(wasHere)
  if (page.url().includes('/project/')) await visit(page, '/settings')
  // What lies there until the new page takes its place is not to be taken for it.
  await expect(page.locator('.bench')).toHaveCount(0)
  await visit(page, `/project/${id}${query}`)
}

/** Opens a project and waits until the stage has drawn it and the swatches are there. */
export async function openProject(page: Page, id: string): Promise<void> {
  await enter(page, id)
  await expect(page.getByText('All saved')).toBeVisible({ timeout: 60_000 })
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-update-ms', /\d/, { timeout: 60_000 })
  await expect(page.locator('.card').first()).toBeVisible()
  // Cards are hidden until their size is known, and a graph is fitted by the sizes that are.
  await expect(page.locator('.vue-flow__node[style*="visibility: hidden"]')).toHaveCount(0)
}

/** Waits until the page has saved what it has. */
export const saved = (page: Page): Promise<void> =>
  expect(page.locator('[data-test=save-state]')).toHaveText('All saved')

export const port = (page: Page, node: string, side: 'in' | 'out', name: string): Locator =>
  page.locator(`[data-port="${node}/${side}/${name}"]`)

/** Waits until something that is read stays as it is from one look to the next. */
export async function steady<T>(read: () => Promise<T>): Promise<T> {
  let last: T | undefined
  await expect
    .poll(
      async () => {
        const before = last
        last = await read()
        return JSON.stringify(before) === JSON.stringify(last)
      },
      { intervals: [150, 250], timeout: 60_000 },
    )
    .toBe(true)
  return last!
}

/** Waits until nothing moves any more that will come to rest: what fades in is not yet as it will be seen. */
export const rested = (page: Page): Promise<void> =>
  page.evaluate(async () => {
    const ends = document.getAnimations().filter(a => Number.isFinite(a.effect?.getComputedTiming().endTime))
    await Promise.allSettled(ends.map(a => a.finished))
  })

/** Opens a field of choices and takes the first whose title has these words. */
export async function choose(field: Locator, words: string): Promise<void> {
  await field.click()
  await field.page().getByRole('option', { name: words }).first().click()
  await expect(field.page().getByRole('listbox')).toBeHidden()
}

const middle = async (target: Locator): Promise<[number, number]> => {
  const box = (await target.boundingBox())!
  return [box.x + box.width / 2, box.y + box.height / 2]
}

/** Draws a wire with the mouse. */
export async function wire(page: Page, from: Locator, to: Locator, release = true): Promise<void> {
  const [x, y] = await middle(from)
  const [tx, ty] = await middle(to)
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move((x + tx) / 2, (y + ty) / 2, { steps: 4 })
  await page.mouse.move(tx, ty, { steps: 6 })
  if (release) await page.mouse.up()
}

/** Adds a node through the menu, found by some words, at a place of the canvas (shares of its width and height). */
export async function add(page: Page, words: string, x: number, y: number): Promise<void> {
  const box = (await page.locator('.graph').boundingBox())!
  const search = page.getByRole('combobox', { name: 'Search nodes' })
  // A busy machine may take two clicks for two single ones.
  await expect(async () => {
    await page.mouse.dblclick(box.x + box.width * x, box.y + box.height * y)
    await expect(search).toBeVisible({ timeout: 2000 })
  }).toPass()
  await search.fill(words)
  await expect(page.getByRole('option').first()).not.toContainText('Nothing fits')
  await search.press('Enter')
  await expect(search).toBeHidden()
}

/** Drags a number by pixels. */
export async function dragNumber(page: Page, label: string, by: number): Promise<void> {
  const [x, y] = await middle(page.getByRole('spinbutton', { name: label, exact: true }))
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + by / 2, y, { steps: 4 })
  await page.mouse.move(x + by, y, { steps: 4 })
  await page.mouse.up()
}

const axe = await readFile(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')
interface Axe {
  run(options: object): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }>
}
/** Findings of axe-core that are serious or critical. */
export async function serious(page: Page): Promise<string[]> {
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(axe)
  // Of the thousands of words that it says, only these leave the page.
  return page.evaluate(async () => {
    const { violations } = await (window as unknown as { axe: Axe }).axe.run({ resultTypes: ['violations'] })
    return violations
      .filter(v => v.impact === 'serious' || v.impact === 'critical')
      .map(v => `${v.id}: ${v.nodes.map(n => n.html.slice(0, 160)).join(' | ')}`)
  })
}

/**
 * Presses Deliver on the Deliver tab, waits until the newest delivery is complete, and fetches one of its files by its
 * ending.
 */
export async function deliverNow(
  page: Page,
  request: APIRequestContext,
  project: string,
  ending: string,
): Promise<{ name: string; bytes: Buffer }> {
  const under = `/api/projects/${project}/deliveries`
  const list = async () =>
    (await (await request.get(under)).json()) as { id: string; state: string; message: string | null }[]
  const before = (await list()).length
  await page.getByRole('button', { name: 'Deliver', exact: true }).click()
  await expect.poll(async () => (await list()).length).toBe(before + 1)
  await expect.poll(async () => (await list())[0]!.state, { timeout: 60_000 }).toMatch(/done|failed/)
  const [newest] = await list()
  expect(newest!.message).toBeNull()
  const manifest = (await (await request.get(`${under}/${newest!.id}/files/manifest.json`)).json()) as {
    files: { path: string }[]
  }
  const { path } = manifest.files.find(f => f.path.endsWith(ending))!
  return { name: path, bytes: await (await request.get(`${under}/${newest!.id}/files/${path}`)).body() }
}
