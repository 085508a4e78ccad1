import { decode } from 'fast-png'
import { expect, type Locator, type Page } from '@playwright/test'
import type { Mesh } from '../../core/mesh/mesh'
import { row } from '../helpers'
import { exrFile, lampIn } from '../lightFiles'
import { alone, test } from './day'
import { seenWith } from './seenWith'
import { boxProject, dragNumber, enter, openProject, saveLook, steady } from './support'

// The picture itself is what is looked at here.
test.use({
  deviceScaleFactor: 1,
  storageState: seenWith({ shadows: true, contact: false, ground: true, smooth: false }),
})

const canvasOf = (page: Page): Locator => page.locator('.stage canvas')
const told = async (page: Page, name: string): Promise<number> =>
  Number(await canvasOf(page).getAttribute(`data-${name}`))
const final = (page: Page) => expect(canvasOf(page)).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })

/** Boxes with patterns in every channel that a drag and a light can touch. */
async function patterned(page: Page, mesh?: Mesh): Promise<string> {
  const { request } = page.context()
  const { id } = await boxProject(request, 4, mesh)
  await saveLook(request, id, {
    nodes: [
      { id: 'noise', kind: 'noise', at: [0, 0], params: { size: 60 } },
      { id: 'levels', kind: 'levels', at: [200, 0], params: {} },
      { id: 'draw', kind: 'partRandom', at: [0, 300], params: { seed: 4 } },
      { id: 'hue', kind: 'varyColor', at: [200, 300], params: { color: [0.6, 0.2, 0.1] } },
      { id: 'finish', kind: 'finish', at: [400, 0], params: {} },
    ],
    wires: [
      { from: { node: 'noise', port: 'value' }, to: { node: 'levels', port: 'value' } },
      { from: { node: 'levels', port: 'value' }, to: { node: 'finish', port: 'roughness' } },
      { from: { node: 'draw', port: 'value' }, to: { node: 'hue', port: 'hueBy' } },
      { from: { node: 'hue', port: 'color' }, to: { node: 'finish', port: 'baseColor' } },
      { from: { node: 'finish', port: 'finish' }, to: { node: 'result', port: 'finish' } },
    ],
  })
  return id
}

/** Opens a project whose looks are evaluated by the processor or by the card, and waits for the final picture. */
async function openBy(page: Page, id: string, by: 'cpu' | 'gpu'): Promise<void> {
  await enter(page, id, `?stage=${by}`)
  await expect(canvasOf(page)).toHaveAttribute('data-backend', by === 'cpu' ? 'workers' : 'card')
  await final(page)
}

async function pixels(
  page: Page,
): Promise<{ data: ArrayLike<number>; channels: number; width: number; height: number }> {
  return decode(await canvasOf(page).screenshot())
}
/** The final picture, once nothing changes it any more. */
async function steadyPixels(page: Page): ReturnType<typeof pixels> {
  const png = await steady(async () => {
    await final(page)
    return (await canvasOf(page).screenshot()).toString('base64')
  })
  return decode(Buffer.from(png, 'base64'))
}

test('every visible point is evaluated once, and none when light, channel, rig or wipe change', async ({ page }) => {
  const id = await patterned(page)
  await openProject(page, id)
  await final(page)
  expect(await told(page, 'visible')).toBeGreaterThan(3000)
  expect((await told(page, 'evaluated')) / (await told(page, 'visible'))).toBeLessThanOrEqual(1.05)
  const ever = await told(page, 'ever')
  const after = async (act: () => Promise<unknown>): Promise<void> => {
    const frames = await told(page, 'frames')
    const before = (await pixels(page)).data
    await act()
    await expect.poll(() => told(page, 'frames')).toBeGreaterThan(frames)
    await final(page)
    await expect
      .poll(async () => [...((await pixels(page)).data as Uint8Array)].some((x, i) => x !== before[i]))
      .toBe(true)
    expect(await told(page, 'ever')).toBe(ever)
  }
  await after(() => page.getByText('Roughness', { exact: true }).first().click())
  await after(() => page.getByText('Finished', { exact: true }).first().click())
  await page.getByRole('button', { name: 'Light', exact: true }).click()
  await after(() => page.getByText('Low sun').click())
  await after(() => page.getByRole('spinbutton', { name: 'Turned' }).press('PageUp'))
  await page.keyboard.press('Escape')
  await expect(page.getByRole('spinbutton', { name: 'Turned' })).toBeHidden()
  // A number of the look is something else.
  await page.locator('[data-node=noise] .name').click()
  await dragNumber(page, 'Size', 60)
  await expect.poll(() => told(page, 'ever')).toBeGreaterThan(ever)
  await final(page)
  // A kept state is evaluated once; the wipe over it is not.
  const single = await steady(() => told(page, 'ever'))
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByRole('slider', { name: /Wipe/ })).toBeVisible()
  await expect.poll(() => told(page, 'ever')).toBeGreaterThan(single)
  await final(page)
  const kept = await told(page, 'ever')
  await page.getByRole('slider', { name: /Wipe/ }).press('Home')
  await final(page)
  await page.getByRole('slider', { name: /Wipe/ }).press('End')
  await final(page)
  expect(await told(page, 'ever')).toBe(kept)
})

alone(
  'the light comes with the application, and is made by the stage, the same to the eye, where it does not come',
  async ({ page }) => {
    const id = await patterned(page)
    const [came] = await Promise.all([page.waitForResponse(/overcast[^/]*\.bin$/), openProject(page, id)])
    expect([came.status(), (await came.body()).length]).toEqual([200, 6 * (64 ** 2 + 32 ** 2 + 16 ** 2 + 8 ** 2) * 8])
    const given = (await steadyPixels(page)).data as Uint8Array
    await page.route(/\.bin$/, route => route.abort())
    await page.reload()
    const made = (await steadyPixels(page)).data
    expect(made).toHaveLength(given.length)
    expect(given.filter((x, i) => Math.abs(x - made[i]!) > 2).length / given.length).toBeLessThan(0.001)
  },
)

test('while the light is turned a coarse picture follows, and at rest the light is as fine as before', async ({
  page,
}) => {
  const id = await patterned(page)
  await openProject(page, id)
  await final(page)
  await page.getByRole('button', { name: 'Light', exact: true }).click()
  const turned = page.getByRole('spinbutton', { name: 'Turned' })
  await expect(turned).toBeVisible()
  const before = (await steadyPixels(page)).data
  await canvasOf(page).evaluate(canvas => {
    const seen: string[] = []
    Object.assign(window, { seenPictures: seen })
    new MutationObserver(() => seen.push((canvas as HTMLCanvasElement).dataset.picture ?? '')).observe(canvas, {
      attributeFilter: ['data-picture'],
    })
  })
  await turned.press('PageUp')
  const seen = () => page.evaluate(() => (window as unknown as { seenPictures: string[] }).seenPictures)
  await expect.poll(seen).toContain('coarse')
  await final(page)
  expect((await seen()).at(-1)).toBe('final')
  const away = (await steadyPixels(page)).data
  expect([...(away as Uint8Array)].filter((x, i) => x !== before[i]).length).toBeGreaterThan(1000)
  await turned.press('PageDown')
  await final(page)
  const back = (await steadyPixels(page)).data
  expect([...(back as Uint8Array)].filter((x, i) => Math.abs(x - before[i]!) > 1)).toHaveLength(0)
})

test('the graphics card and the processor show the same channels, and a drag on the card compiles nothing', async ({
  page,
}) => {
  test.setTimeout(180_000)
  const id = await patterned(page)
  const shown: Record<string, Awaited<ReturnType<typeof pixels>>> = {}
  for (const by of ['cpu', 'gpu'] as const) {
    await openBy(page, id, by)
    for (const view of ['Base color', 'Roughness']) {
      await page.getByText(view, { exact: true }).first().click()
      await page.mouse.move(5, 5)
      shown[`${by} ${view}`] = await steadyPixels(page)
    }
  }
  for (const view of ['Base color', 'Roughness']) {
    const a = shown[`cpu ${view}`]!
    const b = shown[`gpu ${view}`]!
    let off = 0
    const values = new Set<number>()
    for (let i = 0; i < a.data.length; i++) {
      if (Math.abs(a.data[i]! - b.data[i]!) > 3) off++
      values.add(a.data[i]!)
    }
    expect(values.size, view).toBeGreaterThan(30)
    expect(off / a.data.length, view).toBeLessThan(0.01)
  }
  await page.locator('[data-node=noise] .name').click()
  const compiled = await told(page, 'compiled')
  const frames = await told(page, 'frames')
  expect(compiled).toBeGreaterThan(0)
  await dragNumber(page, 'Size', 80)
  await expect.poll(() => told(page, 'frames')).toBeGreaterThan(frames)
  await final(page)
  expect(await told(page, 'compiled')).toBe(compiled)
})

test('the mesh itself is seen by the same passes: card and processor agree, and the look waits as it was', async ({
  page,
}) => {
  test.setTimeout(180_000)
  const boxes = row(4)
  const values = boxes.positions.filter((_, i) => i % 3 === 0)
  const id = await patterned(page, { ...boxes, maps: [{ name: 'along', components: 1, values }] })
  const seen: Record<string, Awaited<ReturnType<typeof pixels>>> = {}
  for (const by of ['cpu', 'gpu'] as const) {
    await openBy(page, id, by)
    const evaluated = await told(page, 'ever')
    await page.getByRole('tab', { name: 'Mesh' }).click()
    for (const level of ['Parts', 'Patches', 'Map']) {
      await page.getByRole('radiogroup', { name: 'What the stage shows' }).getByText(level, { exact: true }).click()
      await page.mouse.move(5, 5)
      await final(page)
      seen[`${by} ${level}`] = await steadyPixels(page)
    }
    const { width, height } = (await canvasOf(page).boundingBox())!
    await canvasOf(page).click({ position: { x: width / 2 - width / 8, y: height / 2 } })
    await page.mouse.move(5, 5)
    await final(page)
    seen[`${by} selected`] = await steadyPixels(page)
    const ofMesh = await told(page, 'ever')
    await page.getByRole('tab', { name: 'Build' }).click()
    await final(page)
    if (by === 'cpu') expect(await told(page, 'ever')).toBe(ofMesh)
    expect(ofMesh).toBeGreaterThan(evaluated)
  }
  const apart = (a: string, b: string): number => {
    const [one, other] = [seen[a]!.data, seen[b]!.data]
    return Array.from(one).filter((x, i) => Math.abs(x - other[i]!) > 3).length / one.length
  }
  for (const what of ['Parts', 'Patches', 'Map', 'selected'])
    expect(apart(`cpu ${what}`, `gpu ${what}`)).toBeLessThan(0.005)
  for (const [a, b] of [
    ['Parts', 'Patches'],
    ['Parts', 'Map'],
    ['Map', 'selected'],
  ] as const)
    expect(apart(`cpu ${a}`, `cpu ${b}`)).toBeGreaterThan(0.005)
})

test('at rest sixteen pictures with shifted pixels become one, and the foot line says when it is final', async ({
  page,
}) => {
  const id = await patterned(page)
  await openProject(page, id)
  await final(page)
  expect(await told(page, 'samples')).toBe(1)
  const sharp = (await pixels(page)).data as Uint8Array
  // Things that touch are darker, and never everything: the middle of the boxes keeps most of its light.
  const bright = (data: Uint8Array) => data.reduce((sum, x) => sum + x, 0) / data.length
  expect(bright(sharp)).toBeGreaterThan(100)
  await page.getByRole('button', { name: 'View', exact: true }).click()
  await page.getByRole('switch', { name: 'Smooth edges at rest' }).click()
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-test=picture]')).toHaveText('Picture final')
  await expect.poll(() => told(page, 'samples')).toBe(16)
  // Along the edges there are colors between those of both sides.
  const smooth = (await pixels(page)).data as Uint8Array
  const colors = (data: Uint8Array) =>
    new Set(Array.from({ length: data.length / 3 }, (_, i) => `${data[i * 3]},${data[i * 3 + 1]},${data[i * 3 + 2]}`))
      .size
  expect(colors(smooth)).not.toBe(colors(sharp))
})

alone('a stage that changes its size while its picture is made has no room filled that is gone', async ({ page }) => {
  const complaints: string[] = []
  page.on('console', message => {
    if (message.text().includes('GL_INVALID')) complaints.push(message.text())
  })
  await openProject(page, await patterned(page))
  const width = async () => (await canvasOf(page).boundingBox())!.width
  const before = await width()
  for (let i = 0; i < 6; i++) {
    await page.keyboard.press('q')
    await expect.poll(width).toBe(1280)
    // Each time at another point of the way to the sharp picture.
    await page.waitForTimeout(i * 80)
    await page.keyboard.press('Escape')
    await expect.poll(width).toBe(before)
    await page.waitForTimeout(i * 80)
  }
  await final(page)
  expect(complaints).toEqual([])
})

test('the stage has the whole window at a key, two views at another, and keeps the width that it is given', async ({
  page,
}) => {
  const id = await patterned(page)
  await openProject(page, id)
  await final(page)
  const width = async () => (await canvasOf(page).boundingBox())!.width
  const before = await width()
  await page.keyboard.press('q')
  await expect.poll(width).toBe(1280)
  await expect(page.getByText('Base color', { exact: true }).first()).toBeVisible()
  await page.keyboard.press('Escape')
  await expect.poll(width).toBe(before)
  await page.keyboard.press('y')
  await final(page)
  // The halves show the same boxes from different sides.
  const { data, channels, width: w, height: h } = await pixels(page)
  let differing = 0
  for (let y = 0; y < h; y += 3)
    for (let x = 0; x < w / 2 - 2; x += 3)
      if (Math.abs(data[(y * w + x) * channels]! - data[(y * w + x + Math.floor(w / 2)) * channels]!) > 12) differing++
  expect(differing).toBeGreaterThan(100)
  await page.keyboard.press('y')
  const handle = (await page.getByRole('separator', { name: 'Width of the stage' }).boundingBox())!
  await page.mouse.move(handle.x + handle.width / 2, handle.y + 200)
  await page.mouse.down()
  await page.mouse.move(handle.x + 140, handle.y + 200, { steps: 5 })
  await page.mouse.up()
  await expect.poll(width).toBeGreaterThan(before + 80)
  const wide = await width()
  // It is kept a moment after the hand rests.
  await steady(() => page.evaluate(() => JSON.stringify(localStorage)))
  await page.reload()
  await expect.poll(width).toBeCloseTo(wide, -1)
})

test("a picture of light of one's own lights the stage, stays with the project, and goes when it is removed", async ({
  page,
}) => {
  const id = await patterned(page)
  await openProject(page, id)
  await final(page)
  const light = page.getByRole('button', { name: 'Light', exact: true })
  const own = page.getByRole('radio', { name: 'dusk.exr' })
  const middle = async (): Promise<number[]> => {
    const { data, channels, width, height } = await pixels(page)
    const sums = [0, 0, 0]
    for (let y = Math.round(height * 0.4); y < height * 0.6; y++) {
      for (let x = Math.round(width * 0.3); x < width * 0.7; x++)
        for (let k = 0; k < 3; k++) sums[k]! += data[(y * width + x) * channels + k]!
    }
    return sums
  }
  const gray = await middle()
  await light.click()
  await page
    .getByLabel('Picture of light')
    .setInputFiles({ name: 'none.exr', mimeType: 'image/x-exr', buffer: Buffer.from('hello') })
  await expect(page.getByText('none.exr is no picture of light; Radiance HDR and OpenEXR files are.')).toBeVisible()
  // All blue, but for what little is in the sky.
  const dusk = exrFile(lampIn(8, 4, [5, 1, [0, 0, 60]]))
  await page
    .getByLabel('Picture of light')
    .setInputFiles({ name: 'dusk.exr', mimeType: 'image/x-exr', buffer: Buffer.from(dusk) })
  await expect(own).toBeChecked()
  await page.keyboard.press('Escape')
  const blue = async (): Promise<number> => {
    const [red, , deep] = (await middle()) as [number, number, number]
    return deep / red
  }
  await expect.poll(blue).toBeGreaterThan((1.5 * gray[2]!) / gray[0]!)

  await page.reload()
  await final(page)
  expect(await blue()).toBeLessThan((1.2 * gray[2]!) / gray[0]!)
  await light.click()
  await own.click()
  await expect(own).toBeChecked()
  await expect.poll(blue).toBeGreaterThan((1.5 * gray[2]!) / gray[0]!)
  await page.getByRole('button', { name: 'Remove dusk.exr' }).click()
  await expect(own).toBeHidden()
  await expect(page.getByRole('radio', { name: 'Overcast' })).toBeChecked()
  await expect.poll(blue).toBeLessThan((1.2 * gray[2]!) / gray[0]!)
  expect(await (await page.context().request.get(`/api/projects/${id}/lights`)).json()).toEqual([])
})

test('the edges of parts are smooth in the Mesh tab, too', async ({ page }) => {
  await openProject(page, await patterned(page))
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await expect(page.getByRole('radio', { name: 'Parts' })).toBeVisible()
  await page.waitForTimeout(500)
  const png = await steady(async () => (await canvasOf(page).screenshot()).toString('base64'))
  const { data, channels, width, height } = decode(Buffer.from(png, 'base64'))
  const away = (i: number, k: number): number =>
    Math.max(...[0, 1, 2].map(c => Math.abs(data[i * channels + c]! - data[k * channels + c]!)))
  let edges = 0
  let blended = 0
  for (let y = 20; y < height - 20; y++) {
    const background = y * width + 6
    let x = 7
    while (x < width - 8 && away(y * width + x, background) < 5) x++
    if (x >= width - 8) continue
    edges++
    // Between the background and what is two pixels further on the part.
    const [first, inside] = [y * width + x, y * width + x + 2]
    if (away(first, background) > 5 && away(first, inside) > 5 && away(inside, background) > away(first, background))
      blended++
  }
  expect(edges).toBeGreaterThan(50)
  expect(blended / edges).toBeGreaterThan(0.3)
})
