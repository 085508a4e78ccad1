import { expect } from '@playwright/test'
import validator from 'gltf-validator'
import { test } from './day'
import {
  add,
  boxProject,
  choose,
  deliverNow,
  dragNumber,
  seenByLoader,
  openProject,
  port,
  projectNow,
  saved,
  wire,
} from './support'

test('an artist builds a look from an empty graph, comes back to it, and takes it away', async ({ page, request }) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  await expect(page.getByRole('button', { name: /finding/ })).toContainText('1 finding')

  // Add, connect, drag.
  await add(page, 'random per part', 0.05, 0.05)
  await add(page, 'hue', 0.36, 0.05)
  await add(page, 'material', 0.68, 0.05)
  await page.getByRole('button', { name: 'Fit graph' }).click()
  await wire(page, port(page, 'partRandom1', 'out', 'value'), port(page, 'varyColor1', 'in', 'hueBy'))
  await wire(page, port(page, 'varyColor1', 'out', 'color'), port(page, 'finish1', 'in', 'baseColor'))
  await wire(page, port(page, 'partRandom1', 'out', 'second'), port(page, 'finish1', 'in', 'roughness'))
  await wire(page, port(page, 'finish1', 'out', 'finish'), port(page, 'result', 'in', 'finish'))
  await expect(page.locator('.vue-flow__edge')).toHaveCount(4)
  await page.locator('[data-node=varyColor1] .name').click()
  await expect(page.getByRole('textbox', { name: 'Name of the node' })).toHaveAttribute('placeholder', 'Vary color')
  const stage = page.locator('.stage canvas')
  await expect(stage).toHaveAttribute('data-picture', 'final')
  const frames = Number(await stage.getAttribute('data-frames'))
  await dragNumber(page, 'Hue', 150)
  const hue = Number(await page.getByRole('spinbutton', { name: 'Hue', exact: true }).getAttribute('aria-valuenow'))
  expect(hue).toBeGreaterThan(60)
  await expect.poll(async () => Number(await stage.getAttribute('data-frames'))).toBeGreaterThan(frames)
  await expect(page.locator('.readings svg').first()).toBeVisible()
  await expect(page.getByText('Checks are clear').or(page.getByText('1 finding'))).toBeVisible()

  // It is kept, and comes back the same.
  await saved(page)
  const kept = await projectNow(request, project.id)
  expect(kept.look.nodes.find(n => n.id === 'varyColor1')!.params.hue).toBe(hue)
  const picture = () => page.locator('.stage canvas').screenshot()
  await page.mouse.move(5, 5)
  await expect(stage).toHaveAttribute('data-picture', 'final')
  const first = await picture()
  await page.reload()
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-update-ms', /\d/, { timeout: 60_000 })
  await expect(page.locator('.card')).toHaveCount(4)
  await expect.poll(async () => (await picture()).equals(first), { timeout: 20_000 }).toBe(true)

  // Out: a file that another program shows with a color for each part.
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await choose(page.getByRole('combobox', { name: 'Texture size' }), '512')
  const { name, bytes: glb } = await deliverNow(page, request, project.id, '.glb')
  expect(name).toBe('look.glb')
  expect((await validator.validateBytes(new Uint8Array(glb))).issues).toMatchObject({ numErrors: 0, numWarnings: 0 })
  const seen = await seenByLoader(page, glb)
  expect(seen).toHaveLength(6)
  expect(seen.every(s => s.hasColorMap && s.hasRoughnessMap && s.colorSpace === 'srgb' && s.triangles === 12)).toBe(
    true,
  )
  expect(new Set(seen.map(s => s.texels[0]!.color.map(x => x.toFixed(3)).join())).size).toBe(6)
  expect(new Set(seen.map(s => s.texels[0]!.roughness.toFixed(3))).size).toBe(6)
})

test('a wire that does not fit says why while it is drawn, and offers the node that makes it right', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 2)
  await openProject(page, project.id)
  await add(page, 'color stops', 0.1, 0.1)
  await page.getByRole('button', { name: 'Fit graph' }).click()
  await wire(page, port(page, 'ramp1', 'out', 'color'), port(page, 'result', 'in', 'finish'), false)
  await expect(page.getByText('Finish takes a finish; Color is a color.')).toBeVisible()
  await page.mouse.up()
  await page.getByRole('button', { name: 'Put a Finish between' }).click()
  await expect(page.locator('.vue-flow__edge')).toHaveCount(2)
  await expect(page.locator('[data-node=finish1]')).toBeVisible()

  // One step back takes the whole of it away; one forward brings it back.
  await page.keyboard.press('Control+z')
  await expect(page.locator('.vue-flow__edge')).toHaveCount(0)
  await page.keyboard.press('Control+Shift+z')
  await expect(page.locator('.vue-flow__edge')).toHaveCount(2)

  // A loop is refused as well.
  await add(page, 'contrast', 0.1, 0.5)
  await add(page, 'arithmetic', 0.7, 0.1)
  await wire(page, port(page, 'levels1', 'out', 'value'), port(page, 'math1', 'in', 'a'))
  await expect(page.locator('.vue-flow__edge')).toHaveCount(3)
  await wire(page, port(page, 'math1', 'out', 'value'), port(page, 'levels1', 'in', 'value'), false)
  await expect(page.getByText('That would make a loop')).toBeVisible()
  await page.mouse.up()
  await expect(page.locator('.vue-flow__edge')).toHaveCount(3)
})

test('nodes move, are copied, deleted and brought back', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  await openProject(page, project.id)
  await add(page, 'clouds', 0.1, 0.1)
  await saved(page)
  const first = (await projectNow(request, project.id)).look.nodes[1]!.at
  const card = page.locator('[data-node=noise1]')
  const from = (await card.boundingBox())!
  await page.mouse.move(from.x + 60, from.y + 8)
  await page.mouse.down()
  await page.mouse.move(from.x + 160, from.y + 128, { steps: 6 })
  await page.mouse.up()
  const to = (await card.boundingBox())!
  expect(Math.abs(to.x - from.x - 100)).toBeLessThan(20)
  const placeNow = async () => (await projectNow(request, project.id)).look.nodes[1]?.at
  await expect.poll(placeNow).not.toEqual(first)
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Duplicate')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  const at = (await placeNow())!
  await page.keyboard.press('Control+d')
  await expect(page.locator('.card')).toHaveCount(3)
  await page.keyboard.press('Delete')
  await expect(page.locator('.card')).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect(page.locator('.card')).toHaveCount(3)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => Math.round(((await card.boundingBox())?.x ?? 0) - from.x)).toBe(0)
  await page.keyboard.press('Control+y')
  await expect.poll(placeNow).toEqual(at)
  // Arrow keys move a card as well, and that is kept like any move.
  await page.locator('.vue-flow__node[data-id=noise1]').focus()
  await page.keyboard.press('Enter')
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await expect.poll(async () => (await placeNow())![0]).toBeGreaterThan(at[0])
})

test('a wire dropped on the empty canvas offers what fits, already connected', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  await openProject(page, project.id)
  const end = (await page.locator('.graph').boundingBox())!
  const [x, y] = [end.x + end.width * 0.2, end.y + end.height * 0.8]
  const start = (await port(page, 'result', 'in', 'finish').boundingBox())!
  await page.mouse.move(start.x + 8, start.y + 8)
  await page.mouse.down()
  await page.mouse.move(x + 40, y - 40, { steps: 5 })
  await page.mouse.move(x, y, { steps: 5 })
  await page.mouse.up()
  // What puts out a finish, and nothing else.
  await expect(page.getByRole('option').locator('[data-slot=itemLabelBase]')).toHaveText([
    /^Finish/,
    /^Layer/,
    /^By part set/,
    /^Edge wear/,
    /^Recess dirt/,
    /^Damp foot/,
    /^Dust on top/,
    /^Drips/,
    /^Each part its own/,
    /^Scratched coat/,
  ])
  await page.keyboard.press('Enter')
  await expect(page.locator('.vue-flow__edge')).toHaveCount(1)
  await expect.poll(async () => (await projectNow(request, project.id)).look.wires).toHaveLength(1)
})
