import { expect, type Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { unzipSync, zipSync } from 'fflate'
import { decode, encode } from 'fast-png'
import validator from 'gltf-validator'
import { packLook } from '../../core/exchange/lookFile'
import { manifestSchema } from '../../core/deliver/manifest'
import type { KeyTable } from '../../core/mesh/keys'
import { emptyLook, type Look } from '../../core/graph/look'
import { test } from './day'
import { boxProject, choose, openProject, projectNow, saveLook, serious, striped } from './support'

/** A look with a color for each part, rough across, on boxes. */
function colored(): Look {
  const look = emptyLook('Crates')
  look.nodes.push(
    { id: 'random1', kind: 'partRandom', at: [0, 0], params: {} },
    { id: 'vary1', kind: 'varyColor', at: [200, 0], params: { hue: 300, lightness: 40 } },
    { id: 'x1', kind: 'positionGradient', at: [0, 200], params: { axis: 'Y', space: 'part' } },
    { id: 'finish1', kind: 'finish', at: [400, 0], params: {} },
  )
  const wire = (from: [string, string], to: [string, string]) =>
    look.wires.push({ from: { node: from[0], port: from[1] }, to: { node: to[0], port: to[1] } })
  wire(['random1', 'value'], ['vary1', 'hueBy'])
  wire(['vary1', 'color'], ['finish1', 'baseColor'])
  wire(['x1', 'value'], ['finish1', 'roughness'])
  wire(['finish1', 'finish'], ['result', 'finish'])
  return look
}
async function begin(page: Page, request: Parameters<typeof boxProject>[0], look = colored()): Promise<string> {
  const { id } = await boxProject(request, 4)
  await saveLook(request, id, look)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  return id
}
const deliver = (page: Page) => page.getByRole('button', { name: 'Deliver', exact: true }).click()
const newest = (page: Page) => page.getByRole('region', { name: 'Deliveries' }).locator('li').first()

test('a delivery of many kinds leaves as one zip, whose files are what its manifest says; its settings are kept under a name', async ({
  page,
  request,
}) => {
  await begin(page, request)
  for (const name of [/^PLY/, /^USD$/, /^Baked/, 'Roughness', /Part table, CSV/, /The look with its pictures/])
    await page.getByRole('checkbox', { name }).first().check()
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '256')
  await choose(page.getByRole('combobox', { name: 'Picture format' }), '16-bit PNG')
  // A mask of a node, and a vertex map of the same.
  await page.getByText('A mask, or another packing').click()
  await choose(page.getByRole('combobox', { name: 'Output of a node' }), 'Position gradient: Value')
  await page.getByRole('button', { name: 'Add as picture' }).click()
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('textbox', { name: 'Name for these settings' }).fill('For the short')
  await page.getByRole('button', { name: 'Keep', exact: true }).last().click()
  await expect(page.getByRole('combobox', { name: 'Settings' })).toHaveText('For the short')
  await deliver(page)
  await expect(newest(page)).toHaveAttribute('data-state', 'done', { timeout: 60_000 })
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    newest(page).getByRole('link', { name: 'Download zip' }).click(),
  ])
  expect(download.suggestedFilename()).toBe('crates.zip')
  const files = unzipSync(new Uint8Array(await readFile(await download.path())))
  const manifest = manifestSchema.parse(JSON.parse(new TextDecoder().decode(files['manifest.json'])))
  expect(Object.keys(files).sort()).toEqual(['manifest.json', ...manifest.files.map(f => f.path)].sort())
  expect(Object.keys(files)).toEqual(
    expect.arrayContaining([
      'crates.glb',
      'crates.ply',
      'crates.usda',
      'crates.mtlx',
      'crates.csv',
      'crates.look.zip',
      'contact.png',
      'textures/crates_roughness.png',
      'textures/crates_Position_gradient_Value.png',
    ]),
  )
  expect((await validator.validateBytes(files['crates.glb']!)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
  const mask = decode(files['textures/crates_Position_gradient_Value.png']!)
  expect([mask.width, mask.depth, mask.channels]).toEqual([256, 16, 1])
  expect(new TextDecoder().decode(files['crates.usda'])).toMatch(/float\[\] primvars:Position_gradient_Value = \[/)
  expect(await serious(page)).toEqual([])

  // The same settings again on a fresh page, and what has not changed is there at once.
  await page.reload()
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await expect(newest(page)).toHaveAttribute('data-state', 'done')
  await choose(page.getByRole('combobox', { name: 'Settings' }), 'For the short')
  await expect(page.getByRole('checkbox', { name: 'USD', exact: true })).toBeChecked()
  await expect(page.getByRole('combobox', { name: 'Picture format' })).toHaveText('16-bit PNG')
  await page.getByRole('button', { name: 'Forget', exact: true }).click()
  await expect(page.getByRole('option', { name: 'For the short' })).toHaveCount(0)
})

test('the proof: the delivered GLB looks like the stage, and light is traced on it until it is stopped', async ({
  page,
  request,
}) => {
  test.setTimeout(240_000)
  const look = colored()
  // Light passes through, which the loader alone does not know.
  Object.assign(look.nodes.find(n => n.id === 'finish1')!.params, {
    sets: ['baseColor', 'metalness', 'roughness', 'translucency'],
    translucency: 0.7,
    throughColor: [0.9, 0.1, 0.05],
  })
  await begin(page, request, look)
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '512')
  // The page's loader unpacks what it is given, and so does the tracer.
  await choose(page.getByRole('combobox', { name: 'Packing of the GLB' }), 'Meshopt, as whole numbers')
  await choose(page.getByRole('combobox', { name: 'Pictures of the GLB' }), 'WebP, without loss')
  await deliver(page)
  await newest(page).getByRole('button', { name: 'Prove' }).click({ timeout: 60_000 })
  const numbers = page.locator('[data-test=proof]')
  await expect(numbers).toBeVisible({ timeout: 90_000 })
  const mean = async () => Number((await numbers.locator('dd').first().textContent())!)
  const first = await mean()
  expect(first).toBeLessThan(1)
  expect(parseFloat((await numbers.locator('[data-test=alike]').textContent())!)).toBeGreaterThan(90)
  // All is as it was delivered, and nothing is still on its way.
  await expect(page.getByRole('region', { name: 'Proof' }).locator('.ub-warn')).toHaveCount(0)
  // Nothing has moved, so whoever compares again is told the same.
  await page.getByRole('button', { name: 'Compare again' }).click()
  await expect(numbers).toBeHidden()
  await expect(numbers).toBeVisible({ timeout: 90_000 })
  expect(await mean()).toBeCloseTo(first, 1)
  const pixelsOf = (c: HTMLCanvasElement): string =>
    c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data.join()
  const drawn = (name: string) =>
    page
      .getByRole('img', { name, exact: true })
      .evaluate((c: HTMLCanvasElement) => new Set(c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data).size)
  for (const name of ['The stage', 'The delivery', 'The difference']) expect(await drawn(name), name).toBeGreaterThan(8)
  await page.getByRole('radio', { name: 'Base color alone' }).check()
  await expect(numbers).toBeHidden()
  await expect(numbers).toBeVisible({ timeout: 90_000 })
  const plain = await mean()
  expect(plain).toBeLessThan(0.6)
  // Who thinks better of it while they are drawn sees what was asked for last, and nothing of the others after it.
  const seen = () => page.getByRole('img', { name: 'The stage', exact: true }).evaluate(pixelsOf)
  const ofFew = await seen()
  await choose(page.getByRole('combobox', { name: 'Samples a pixel' }), '256 samples a pixel')
  await page.getByRole('radio', { name: 'Finished, lit' }).check()
  await page.getByRole('radio', { name: 'Base color alone' }).check()
  await choose(page.getByRole('combobox', { name: 'Samples a pixel' }), '16 samples a pixel')
  await expect(numbers).toBeVisible({ timeout: 90_000 })
  expect(await seen()).toBe(ofFew)
  await expect(page.getByRole('region', { name: 'Proof' }).getByRole('status')).toHaveCount(0)
  // More samples tell more of each pixel, and nothing else.
  await choose(page.getByRole('combobox', { name: 'Samples a pixel' }), '64 samples a pixel')
  await expect(numbers).toBeHidden()
  // The stage is turned meanwhile: both are seen as it is then.
  await expect(page.getByRole('region', { name: 'Proof' }).getByRole('status')).toContainText('Drawing both')
  await page.waitForTimeout(1000)
  await page.locator('.stage canvas').press('ArrowLeft')
  await expect(numbers).toBeVisible({ timeout: 90_000 })
  expect(Math.abs((await mean()) - plain)).toBeLessThan(0.1)

  await page.getByRole('button', { name: 'Trace', exact: true }).click()
  await expect
    .poll(async () => Number(await page.locator('[data-test=samples]').textContent()), { timeout: 90_000 })
    .toBeGreaterThan(1)
  await page.getByRole('button', { name: 'Stop' }).click()
  expect(await drawn('Traced picture')).toBeGreaterThan(20)
  const [exr] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save EXR' }).click(),
  ])
  expect((await readFile(await exr.path())).readUInt32LE(0)).toBe(20000630)
  expect(await serious(page)).toEqual([])
  await page.getByRole('button', { name: 'Back to deliveries' }).click()
  await expect(newest(page)).toBeVisible()
})

test('maps that come while the proof is open are part of what is compared', async ({ page, request }) => {
  const { id } = await boxProject(request, 4)
  const { revision, look, preparation } = await projectNow(request, id)
  look.nodes.push(
    { id: 'height1', kind: 'geometryMap', at: [0, 0], params: { map: 'place' } },
    { id: 'ramp1', kind: 'ramp', at: [200, 0], params: {} },
    { id: 'finish1', kind: 'finish', at: [400, 0], params: {} },
  )
  look.wires.push(
    { from: { node: 'height1', port: 'value' }, to: { node: 'ramp1', port: 'value' } },
    { from: { node: 'ramp1', port: 'color' }, to: { node: 'finish1', port: 'baseColor' } },
    { from: { node: 'finish1', port: 'finish' }, to: { node: 'result', port: 'finish' } },
  )
  const maps = [{ kind: 'position', name: 'place', space: 'world' }]
  const data = { base: revision, look, preparation: { ...preparation, maps } }
  expect((await request.put(`/api/projects/${id}/look`, { data })).status()).toBe(200)
  const asked = { name: 'Placed', revision: (await projectNow(request, id)).revision }
  const settings = { size: 512, maps: [], meshes: ['glb'] }
  const made = await request.post(`/api/projects/${id}/deliveries`, { data: { ...asked, settings } })
  expect(made.ok()).toBe(true)
  const stateNow = async () =>
    ((await (await request.get(`/api/projects/${id}/deliveries`)).json()) as { state: string }[])[0]!.state
  await expect.poll(stateNow, { timeout: 60_000 }).toBe('done')

  let release = (): void => {}
  const held = new Promise<void>(resolve => (release = resolve))
  // The browser computes it itself, and later.
  await page.route('**/api/maps/**', route => route.fulfill({ status: 204 }))
  await page.route('**/geometry.worker*', async route => {
    await held
    await route.continue()
  })
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await newest(page).getByRole('button', { name: 'Prove' }).click()
  const mean = async () => Number(await page.locator('[data-test=proof] dd').first().textContent())
  expect(await mean()).toBeGreaterThan(5)
  const warning = page.getByRole('region', { name: 'Proof' }).locator('.ub-warn')
  await expect(warning).toContainText('The stage does not have all maps yet. Computing place')
  release()
  await expect.poll(mean, { timeout: 60_000 }).toBeLessThan(1)
  await expect(warning).toHaveCount(0)
})

test('what cannot leave is said before, a delivery under way is stopped and leaves nothing, and another try is a click', async ({
  page,
  request,
}) => {
  const id = await begin(page, request)
  await page.getByRole('checkbox', { name: /^GLB/ }).uncheck()
  await expect(page.getByRole('alert')).toContainText('Choose at least one thing that leaves.')
  await page.getByRole('checkbox', { name: /^GLB/ }).check()
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '8192')
  await deliver(page)
  await newest(page).getByRole('button', { name: 'Stop' }).click()
  await expect(newest(page)).toHaveAttribute('data-state', 'canceled')
  const { id: delivery } = (
    (await (await request.get(`/api/projects/${id}/deliveries`)).json()) as { id: string }[]
  )[0]!
  expect((await request.get(`/api/projects/${id}/deliveries/${delivery}/zip`)).status()).toBe(404)
  // Of the same delivery, smaller: settings belong to it, so a new one is asked for.
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '256')
  await deliver(page)
  await expect(newest(page)).toHaveAttribute('data-state', 'done', { timeout: 60_000 })
  await newest(page).getByRole('button', { name: 'Remove' }).click()
  await newest(page).getByRole('button', { name: 'Remove with its files?' }).click()
  await expect(newest(page)).toHaveAttribute('data-state', 'canceled')
  await newest(page).getByRole('button', { name: 'Try again' }).click()
  await expect(newest(page)).toHaveAttribute('data-state', /waiting|running/)
  await newest(page).getByRole('button', { name: 'Stop' }).click()
  await expect(newest(page)).toHaveAttribute('data-state', 'canceled')
})

test('the server refuses settings that make no sense, files that no manifest names, and revisions that are not there', async ({
  request,
}) => {
  const { id } = await boxProject(request, 2)
  const under = `/api/projects/${id}/deliveries`
  const post = (data: object) => request.post(under, { data })
  for (const [data, status] of [
    [{ name: 'x', revision: 1, settings: { size: 3 } }, 400],
    [{ name: 'x', revision: 99, settings: {} }, 422],
    [{ name: '', revision: 1, settings: {} }, 400],
    [{ name: 'x', revision: 1, settings: { wings: 2 } }, 400],
  ] as const)
    expect((await post(data)).status()).toBe(status)
  expect((await post({ name: 'x', revision: 1, settings: { size: 256 } })).status()).toBe(200)
  const list = async () => (await (await request.get(under)).json()) as { id: string; state: string }[]
  await expect.poll(async () => (await list())[0]!.state, { timeout: 30_000 }).toBe('done')
  const { id: delivery } = (await list())[0]!
  for (const path of ['..%2f..%2fpackage.json', '%2e%2e%2fcache', 'secret.txt', '%2525'])
    expect((await request.get(`${under}/${delivery}/files/${path}`)).status(), path).toBe(404)
  expect((await request.get(`${under}/nobody/zip`)).status()).toBe(404)
})

test("a photo that is no PNG is decoded here and baked by the server's threads", async ({ page, request }) => {
  const look = emptyLook('Photo')
  look.nodes.push(
    { id: 'picture1', kind: 'picture', at: [0, 0], params: { picture: 'tarp.jpg' } },
    { id: 'finish1', kind: 'finish', at: [300, 0], params: {} },
  )
  look.wires.push(
    { from: { node: 'picture1', port: 'color' }, to: { node: 'finish1', port: 'baseColor' } },
    { from: { node: 'finish1', port: 'finish' }, to: { node: 'result', port: 'finish' } },
  )
  const photo = await striped(page, 'image/jpeg', 64, [
    ['rgb(200, 40, 30)', 32],
    ['rgb(20, 60, 180)', 32],
  ])
  const { id } = await boxProject(request, 4)
  expect((await request.put(`/api/projects/${id}/pictures?name=tarp.jpg`, { data: Buffer.from(photo) })).status()).toBe(
    200,
  )
  await saveLook(request, id, look)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await page.getByRole('checkbox', { name: 'Base color' }).first().check()
  await page.getByRole('checkbox', { name: /The look with its pictures/ }).check()
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '256')
  await deliver(page)
  await expect(newest(page)).toHaveAttribute('data-state', 'done', { timeout: 60_000 })
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    newest(page).getByRole('link', { name: 'Download zip' }).click(),
  ])
  const files = unzipSync(new Uint8Array(await readFile(await download.path())))
  const { data, channels } = decode(files['textures/photo_baseColor.png']!)
  let seen = 0
  let worst = 0
  for (let y = 0; y < 256; y++) {
    for (let x = 0; x < 256; x++) {
      const texel = [0, 1, 2].map(k => Number(data[(y * 256 + x) * channels + k]))
      // Black is where no island is; around the middle the two colors run into one another.
      if (texel.every(c => c === 0) || Math.abs(x - 128) < 8) continue
      seen++
      ;(x < 128 ? [200, 40, 30] : [20, 60, 180]).forEach((c, k) => {
        worst = Math.max(worst, Math.abs(texel[k]! - c))
      })
    }
  }
  expect(seen).toBeGreaterThan(10_000)
  expect(worst).toBeLessThan(8)
  // The look carries the photo itself, not what was decoded of it.
  expect([...unzipSync(files['photo.look.zip']!)['pictures/tarp.jpg']!]).toEqual(photo)
})

test('a look with its picture, or a material document, comes in by dropping its file; undo brings the old look back', async ({
  page,
  request,
}) => {
  const id = await begin(page, request)
  const pixel = encode({ width: 2, height: 2, data: new Uint8Array(12).fill(90), channels: 3, depth: 8 })
  const other = emptyLook('From elsewhere')
  other.nodes.push(
    { id: 'p', kind: 'picture', at: [0, 0], params: { picture: 'moss.png' } },
    { id: 'f', kind: 'finish', at: [200, 0], params: {} },
  )
  other.wires.push(
    { from: { node: 'p', port: 'color' }, to: { node: 'f', port: 'baseColor' } },
    { from: { node: 'f', port: 'finish' }, to: { node: 'result', port: 'finish' } },
  )
  const input = page.getByLabel('Look file')
  await input.setInputFiles({
    name: 'elsewhere.look.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from(zipSync(packLook(other, new Map([['moss.png', pixel]])))),
  })
  await expect.poll(async () => (await projectNow(request, id)).look.name).toBe('From elsewhere')
  expect(await (await request.get(`/api/projects/${id}/pictures`)).json()).toMatchObject([{ name: 'moss.png' }])
  // Made on another mesh: of its parts this one has all but one.
  const keys = (await (await request.get(`/api/projects/${id}/keys`)).json()) as KeyTable
  const others = { ...keys, keys: ['0123456789abcdef', ...keys.keys.slice(1)] }
  await input.setInputFiles({
    name: 'farther.look.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from(zipSync(packLook(other, new Map([['moss.png', pixel]]), others))),
  })
  await expect(
    page.getByText(`1 of ${keys.keys.length} parts have keys that the file's table does not have`),
  ).toBeVisible()
  await input.setInputFiles({
    name: 'slate.mtlx',
    mimeType: 'application/xml',
    buffer: Buffer.from(
      '<?xml version="1.0"?><materialx version="1.39"><gltf_pbr name="S" type="surfaceshader"><input name="base_color" type="color3" value="0.1, 0.2, 0.3"/><input name="sheen_color" type="color3" value="1, 1, 1"/></gltf_pbr></materialx>',
    ),
  })
  await expect(page.getByText('"S": its sheen_color is left out.')).toBeVisible()
  await expect
    .poll(async () => (await projectNow(request, id)).look.nodes.find(n => n.kind === 'finish')!.params.baseColor)
    .toEqual([0.1, 0.2, 0.3])
  await input.setInputFiles({ name: 'broken.mtlx', mimeType: 'application/xml', buffer: Buffer.from('no document') })
  await expect(page.getByRole('alert')).toContainText('broken.mtlx: This is not a MaterialX document')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await projectNow(request, id)).look.name).toBe('From elsewhere')
})

test('variants: what is exposed is kept under a name, shown again, and two leave together', async ({
  page,
  request,
}) => {
  const id = await begin(page, request)
  await page.getByRole('tab', { name: 'Build' }).click()
  await page.locator('[data-node=vary1] .name').click()
  await page.getByText('In variants').click()
  await page.getByRole('checkbox', { name: 'Hue', exact: true }).check()
  const keep = async (name: string) => {
    await page.locator('.vue-flow__pane').click({ position: { x: 5, y: 5 } })
    await page.getByRole('textbox', { name: 'Name for the look as it is now' }).fill(name)
    await page.getByRole('button', { name: 'Keep the look as it is now' }).click()
  }
  await keep('Summer')
  await page.locator('[data-node=vary1] .name').click()
  const hue = page.getByRole('spinbutton', { name: 'Hue', exact: true })
  await hue.fill('90')
  await hue.press('Enter')
  await keep('Winter')
  await page.getByRole('button', { name: 'Show Summer' }).click()
  await expect
    .poll(async () => (await projectNow(request, id)).look.nodes.find(n => n.id === 'vary1')!.params.hue)
    .toBe(300)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await page.getByRole('checkbox', { name: 'Summer' }).check()
  await page.getByRole('checkbox', { name: 'Winter' }).check()
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '256')
  await deliver(page)
  await expect(newest(page)).toHaveAttribute('data-state', 'done', { timeout: 60_000 })
  const made = ((await (await request.get(`/api/projects/${id}/deliveries`)).json()) as { id: string }[])[0]!
  const manifest = manifestSchema.parse(
    await (await request.get(`/api/projects/${id}/deliveries/${made.id}/files/manifest.json`)).json(),
  )
  expect(manifest.variants.map(v => v.name)).toEqual(['as it is', 'Summer', 'Winter'])
})
