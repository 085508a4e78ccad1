import { expect, type Locator, type Page } from '@playwright/test'
import { kindFor, paramOf } from '../../core/graph/kinds'
import { emptyLook, type Look } from '../../core/graph/look'
import { nodeOf } from '../../core/graph/find'
import { test, visit } from './day'
import {
  add,
  boxProject,
  openProject,
  port,
  projectNow,
  rested,
  saved,
  serious,
  steady,
  striped,
  wire,
} from './support'

/**
 * A look as what leads to its result: kinds, settings that are not the default, and what is wired where. Two graphs
 * that do the same say the same.
 */
function meaning(look: Look, id = 'result'): unknown {
  const node = nodeOf(look, id)!
  const kind = kindFor(node)!
  return {
    kind: node.recipe?.title ?? node.kind,
    params: Object.fromEntries(
      Object.keys(kind.params)
        .concat(Object.keys(kind.inputs))
        .filter(n => node.params[n] !== undefined)
        .sort()
        .map(n => [n, paramOf(node, n)]),
    ),
    inputs: Object.fromEntries(
      look.wires
        .filter(w => w.to.node === id)
        .sort((a, b) => a.to.port.localeCompare(b.to.port))
        .map(w => [w.to.port, [w.from.port, meaning(look, w.from.node)]]),
    ),
  }
}
const type = async (page: Page, label: string, value: string): Promise<void> => {
  const field = page.getByRole('spinbutton', { name: label, exact: true })
  await field.fill(value)
  await field.press('Enter')
}
const hex = async (page: Page, label: string, value: string): Promise<void> => {
  const field = page.getByRole('textbox', { name: `${label}, hex code` })
  await field.fill(value)
  await field.press('Enter')
}
/** A point on the drawn line of a wire. */
const middleOf = (wire: Locator): Promise<[number, number]> =>
  wire
    .locator('path')
    .first()
    .evaluate((path: SVGPathElement) => {
      const { x, y } = path.getPointAtLength(path.getTotalLength() / 2).matrixTransform(path.getScreenCTM()!)
      return [x, y] as [number, number]
    })
const card = (page: Page, id: string) => page.locator(`[data-node=${id}] .name`)
const steps = (page: Page) => page.locator('.chip.step [data-step]')
const labels = (page: Page) => page.locator('.chip.step .name').allTextContents()
const layer = (text: string) => text.split('.') as [string, string]
/** A look with layers over one another, each with a noise as its mask. */
function layered(count: number): Look {
  const look = emptyLook('Layered')
  look.nodes.push({ id: 'base', kind: 'finish', at: [0, 0], params: { baseColor: [0.5, 0.4, 0.3] } })
  let below = 'base.finish'
  for (let i = 1; i <= count; i++) {
    look.nodes.push(
      { id: `l${i}`, kind: 'layer', at: [220 * i, 0], name: `Coat ${i}`, params: {} },
      { id: `f${i}`, kind: 'finish', at: [220 * i - 220, 260], params: { baseColor: [i / 8, 0.1, 0.2] } },
      { id: `n${i}`, kind: 'noise', at: [220 * i - 220, 520], params: { seed: i, size: 60 } },
    )
    const [node, from] = layer(below)
    look.wires.push(
      { from: { node, port: from }, to: { node: `l${i}`, port: 'below' } },
      { from: { node: `f${i}`, port: 'finish' }, to: { node: `l${i}`, port: 'above' } },
      { from: { node: `n${i}`, port: 'value' }, to: { node: `l${i}`, port: 'mask' } },
    )
    below = `l${i}.finish`
  }
  look.wires.push({ from: { node: layer(below)[0], port: 'finish' }, to: { node: 'result', port: 'finish' } })
  look.nodes = look.nodes.map(n => (n.id === 'result' ? { ...n, at: [220 * count + 220, 0] } : n))
  return look
}
async function boxes(request: Parameters<typeof boxProject>[0], look: Look, n = 3): Promise<string> {
  const project = await boxProject(request, n)
  const { revision } = await projectNow(request, project.id)
  const put = await request.put(`/api/projects/${project.id}/look`, {
    data: {
      base: revision,
      look,
      preparation: (await (await request.get(`/api/projects/${project.id}`)).json()).preparation,
    },
  })
  expect(put.status()).toBe(200)
  return project.id
}

test('the kiosk roof is weathered from nothing, by steps and by wires, and both are the same look', async ({
  page,
  request,
}) => {
  test.setTimeout(240_000)
  const demo = (await (await request.post('/api/demo', { data: {} })).json()) as { id: string }
  const all = (await (await request.get('/api/projects')).json()) as { id: string; name: string }[]
  const roof = all.find(p => p.name === 'Ferry pier: kiosk roof')!
  expect(demo.id).toBeTruthy()
  const begin = async (): Promise<void> => {
    // What is open is saved, and not any more afterwards.
    await visit(page, '/settings')
    const { revision, preparation } = (await (await request.get(`/api/projects/${roof.id}`)).json()) as {
      revision: number
      preparation: object
    }
    expect(
      (
        await request.put(`/api/projects/${roof.id}/look`, {
          data: { base: revision, look: emptyLook('Weathered'), preparation },
        })
      ).status(),
    ).toBe(200)
    await openProject(page, roof.id)
  }

  // With a base that differs from part to part, which is nodes like all else.
  await begin()
  await page.getByRole('button', { name: 'Each part its own' }).click()
  await expect(page.getByText('Hue drift')).toBeVisible()
  await expect(page.locator('[data-step=base]')).toContainText('Each part its own')
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Nothing is laid down yet.')).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await page.locator('[data-step=base]').click()
  await page.getByRole('button', { name: 'Unfold', exact: true }).first().click()
  await expect(page.locator('.card')).toHaveCount(5)

  // By steps.
  await begin()
  await page.getByRole('button', { name: 'Start with a base' }).click()
  await hex(page, 'Base color', '#3f6f6a')
  await type(page, 'Roughness', '0.35')
  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.getByRole('button', { name: /^Empty step/ }).click()
  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.getByRole('button', { name: /^Damp foot/ }).click()
  await expect(steps(page)).toHaveCount(2)
  await page.keyboard.press('g')
  await card(page, 'finish2').click()
  await hex(page, 'Base color', '#6b5a40')
  await type(page, 'Roughness', '0.8')
  await card(page, 'coverage1').click()
  await type(page, 'Share', '10 + 20')
  await expect(steps(page).first()).toHaveAccessibleName(/covers (29|30|31) %/)
  await saved(page)
  const bySteps = (await projectNow(request, roof.id)).look
  expect(bySteps.nodes.filter(n => n.kind === 'layer')).toHaveLength(1)

  // By nodes and wires, with room for them.
  await begin()
  const graph = (await page.locator('.graph').boundingBox())!
  await page.mouse.move(graph.x + graph.width / 2, graph.y + graph.height / 2)
  for (let i = 0; i < 2; i++) await page.mouse.wheel(0, 300)
  await steady(() => page.locator('.vue-flow__transformationpane').getAttribute('style'))
  await add(page, 'material', 0.2, 0.1)
  await hex(page, 'Base color', '#3f6f6a')
  await type(page, 'Roughness', '0.35')
  await add(page, 'layer', 0.4, 0.1)
  await add(page, 'clouds', 0.04, 0.6)
  await add(page, 'how much', 0.24, 0.65)
  await type(page, 'Share', '30')
  await add(page, 'material', 0.66, 0.1)
  await hex(page, 'Base color', '#6b5a40')
  await type(page, 'Roughness', '0.8')
  await add(page, 'damp foot', 0.7, 0.7)
  for (const [from, to] of [
    ['finish1/out/finish', 'layer1/in/below'],
    ['finish2/out/finish', 'layer1/in/above'],
    ['noise1/out/value', 'coverage1/in/value'],
    ['coverage1/out/value', 'layer1/in/mask'],
    ['layer1/out/finish', 'recipe1/in/below'],
    ['recipe1/out/finish', 'result/in/finish'],
  ] as const) {
    const [a, b] = [from, to].map(p => port(page, ...(p.split('/') as [string, 'in' | 'out', string])))
    await wire(page, a!, b!)
  }
  await expect(page.locator('.vue-flow__edge')).toHaveCount(6)
  await expect(steps(page)).toHaveCount(2)
  await saved(page)
  expect(meaning((await projectNow(request, roof.id)).look)).toEqual(meaning(bySteps))
})

test('steps are moved by hand and by keys, switched off, seen alone, copied, named and removed; undo goes back to the start and redo to the end', async ({
  page,
  request,
}) => {
  const id = await boxes(request, layered(3))
  const start = (await projectNow(request, id)).look
  await openProject(page, id)
  await expect(steps(page)).toHaveCount(3)
  await expect(steps(page).first()).toHaveAccessibleName(/Step 1: Coat 1 covers \d+ %/)

  const [a, c] = [(await steps(page).first().boundingBox())!, (await steps(page).nth(2).boundingBox())!]
  await page.mouse.move(a.x + 30, a.y + 20)
  await page.mouse.down()
  await page.mouse.move(c.x + 20, c.y + 20, { steps: 5 })
  await page.mouse.move(c.x + c.width - 8, c.y + 20, { steps: 3 })
  await page.mouse.up()
  expect(await labels(page)).toEqual(['Coat 2', 'Coat 3', 'Coat 1'])
  await steps(page).nth(2).focus()
  await page.keyboard.press('Control+ArrowLeft')
  await expect.poll(() => labels(page)).toEqual(['Coat 2', 'Coat 1', 'Coat 3'])
  // The same as nodes: the chain runs in that order.
  await saved(page)
  const chain = (await projectNow(request, id)).look.wires
    .filter(w => w.to.port === 'below' || w.to.node === 'result')
    .map(w => `${w.from.node} ${w.to.node}`)
    .sort()
  expect(chain).toEqual(['base l2', 'l1 l3', 'l2 l1', 'l3 result'])

  await page.getByRole('checkbox', { name: 'Coat 1 is laid' }).uncheck()
  await expect(page.locator('[data-node=l1]')).toContainText('off')
  await steps(page).nth(2).click()
  await page.getByRole('button', { name: 'Solo' }).click()
  await expect(page.getByText('Only Coat 3')).toBeVisible()
  await page.getByRole('button', { name: 'Show all steps' }).click()
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click()
  await expect(steps(page)).toHaveCount(4)
  await page.getByRole('button', { name: 'Rename' }).click()
  await page.getByRole('textbox', { name: 'Name of the step' }).fill('Top coat')
  await page.keyboard.press('Enter')
  await expect.poll(() => labels(page)).toEqual(['Coat 2', 'Coat 1', 'Coat 3', 'Top coat'])
  await steps(page).nth(0).click()
  await page.getByRole('button', { name: 'Remove', exact: true }).click()
  await expect.poll(() => labels(page)).toEqual(['Coat 1', 'Coat 3', 'Top coat'])
  await expect(page.locator('[data-node=n2]')).toHaveCount(0)
  await saved(page)
  const end = (await projectNow(request, id)).look

  // All the way back and forth, by keys and by the list.
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
  await saved(page)
  expect((await projectNow(request, id)).look).toEqual(start)
  await page.getByRole('button', { name: 'History' }).click()
  const newest = page.getByRole('region', { name: 'History' }).getByRole('button').first()
  // Each step says what it changed, in the words of all differences.
  await expect(newest).toContainText('Coat 2 was removed.')
  await newest.click()
  await expect(page.getByRole('button', { name: 'Redo' })).toBeDisabled()
  await saved(page)
  expect((await projectNow(request, id)).look).toEqual(end)
})

test('nodes are put into wires, taken out, switched off, made another kind, cut loose, tidied, and carried to another project', async ({
  page,
  request,
  context,
}) => {
  const id = await boxes(request, layered(2))
  await openProject(page, id)
  await page.keyboard.press('g')
  const wires = () => page.locator('.vue-flow__edge')
  await expect(wires()).toHaveCount(7)
  await steady(() => page.locator('.vue-flow__transformationpane').getAttribute('style'))

  // A card dragged onto a wire goes between; removing it heals the wire.
  await add(page, 'contrast', 0.85, 0.8)
  // The graph comes to rest first: it fits itself, and cards grow with their pictures. A title is never a port.
  const from = (await steady(() => page.locator('[data-node=levels1] .name').first().boundingBox()))!
  const [a, b] = [
    (await port(page, 'n2', 'out', 'value').boundingBox())!,
    (await port(page, 'l2', 'in', 'mask').boundingBox())!,
  ]
  const path = await steady(() =>
    page
      .locator('.vue-flow__edge[data-id="n2/value>l2/mask"] path')
      .first()
      .evaluate((p: SVGPathElement) => {
        const at = p.getPointAtLength(p.getTotalLength() / 2)
        const m = p.getScreenCTM()!
        return [at.x * m.a + m.e, at.y * m.d + m.f]
      }),
  )
  expect(a.x).toBeLessThan(b.x)
  await page.mouse.move(from.x + 10, from.y + from.height / 2)
  await page.mouse.down()
  await page.mouse.move(path[0]! - 20, path[1]! + 30, { steps: 6 })
  await page.mouse.move(path[0]!, path[1]!, { steps: 4 })
  await page.mouse.up()
  await expect(page.locator('.vue-flow__edge[data-id="n2/value>levels1/value"]')).toHaveCount(1)
  await expect(page.locator('.vue-flow__edge[data-id="levels1/value>l2/mask"]')).toHaveCount(1)
  await page.keyboard.press('o')
  await expect(page.locator('[data-node=levels1]')).toContainText('off')
  await page.keyboard.press('x')
  await page.getByRole('combobox', { name: 'Search nodes' }).fill('steps')
  await expect(page.getByRole('option').first()).toContainText('Steps')
  await page.keyboard.press('Enter')
  await expect(card(page, 'levels1')).toHaveText(/^Steps/)
  await page.keyboard.press('Delete')
  await expect(page.locator('.vue-flow__edge[data-id="n2/value>l2/mask"]')).toHaveCount(1)

  // Double click on a wire puts in what fits it.
  const middle = await page
    .locator('.vue-flow__edge[data-id="n1/value>l1/mask"] path')
    .first()
    .evaluate((p: SVGPathElement) => {
      const at = p.getPointAtLength(p.getTotalLength() / 2)
      const m = p.getScreenCTM()!
      return [at.x * m.a + m.e, at.y * m.d + m.f]
    })
  await page.mouse.dblclick(middle[0]!, middle[1]!)
  await page.getByRole('combobox', { name: 'Search nodes' }).fill('flip')
  await page.keyboard.press('Enter')
  await expect(page.locator('.vue-flow__edge[data-id="n1/value>invert1/value"]')).toHaveCount(1)

  // One line cuts several wires.
  const before = await wires().count()
  const l1 = (await page.locator('[data-node=l1]').boundingBox())!
  await page.keyboard.down('Alt')
  await page.mouse.move(l1.x - 10, l1.y - 14)
  await page.mouse.down()
  await page.mouse.move(l1.x - 6, l1.y + l1.height + 24, { steps: 12 })
  await expect(page.getByText(/Takes [23] wires away/)).toBeVisible()
  await page.mouse.up()
  await page.keyboard.up('Alt')
  expect(before - (await wires().count())).toBeGreaterThanOrEqual(2)
  await page.keyboard.press('Control+z')
  await expect(wires()).toHaveCount(before)

  // Laid out in order: columns from source to result.
  await page.keyboard.press('l')
  const x = async (n: string) => (await page.locator(`[data-node=${n}]`).boundingBox())!.x
  await expect
    .poll(
      async () =>
        (await x('n1')) < (await x('invert1')) &&
        (await x('invert1')) < (await x('l1')) &&
        (await x('l1')) < (await x('l2')) &&
        (await x('l2')) < (await x('result')),
    )
    .toBe(true)

  // Copied as text, pasted into another project.
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+c')
  await expect.poll(() => page.evaluate(() => navigator.clipboard.readText())).toContain('"ubblet":"nodes"')
  const other = await boxes(request, emptyLook('Other'), 2)
  await openProject(page, other)
  await page.keyboard.press('Control+v')
  await expect(page.locator('.card')).toHaveCount(9)
  await expect(wires()).toHaveCount(7)
  await page.evaluate(() => navigator.clipboard.writeText('a shopping list'))
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('alert')).toContainText('The clipboard holds no nodes.')
})

test('the keyboard alone builds a small look', async ({ page, request }) => {
  const id = await boxes(request, emptyLook('By keys'), 2)
  await openProject(page, id)
  const put = async (words: string): Promise<void> => {
    await page.keyboard.press('a')
    await page.keyboard.type(words)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('combobox', { name: 'Search nodes' })).toBeHidden()
  }
  const join = async (words: string): Promise<void> => {
    const wires = await page.locator('.vue-flow__edge').count()
    await page.keyboard.press('c')
    await page.getByRole('combobox', { name: 'Connect' }).waitFor()
    await page.keyboard.type(words)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog')).toBeHidden()
    await expect(page.locator('.vue-flow__edge')).toHaveCount(wires + 1)
  }
  await put('material')
  await join('finish result')
  await put('random per part')
  await join('part random: value roughness')
  await expect(page.locator('.vue-flow__edge')).toHaveCount(2)
  // An action found by a word that is not in its name, and a number set without the mouse.
  await page.keyboard.press('/')
  await page.keyboard.type('mute')
  await expect(page.getByRole('option').first()).toContainText('Switch off or on')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-node=partRandom1]')).toContainText('off')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('o')
  await expect(page.locator('[data-node=partRandom1]')).not.toContainText('off')
  await saved(page)
  expect(meaning((await projectNow(request, id)).look)).toMatchObject({
    inputs: { finish: ['finish', { kind: 'finish', inputs: { roughness: ['value', { kind: 'partRandom' }] } }] },
  })
  for (let i = 0; i < 8 && (await page.getByRole('button', { name: 'Undo' }).isEnabled()); i++)
    await page.keyboard.press('Control+z')
  await saved(page)
  expect((await projectNow(request, id)).look.nodes).toEqual(emptyLook().nodes)
})

test('the stage shows ports, channels, lights, parts alone, and two states side by side', async ({ page, request }) => {
  const id = await boxes(request, layered(1), 3)
  await openProject(page, id)
  const canvas = page.locator('.stage canvas')
  /** The mean of a part of the stage, as red, green and blue from 0 to 255. */
  const mean = async (x0 = 0.25, x1 = 0.75): Promise<number[]> => {
    await page.mouse.move(5, 5)
    return steady(() => meanNow(x0, x1))
  }
  const meanNow = async (x0: number, x1: number): Promise<number[]> => {
    await expect(canvas).toHaveAttribute('data-picture', 'final')
    const png = (await canvas.screenshot()).toString('base64')
    return page.evaluate(
      async ([data, a, b]) => {
        const bitmap = await createImageBitmap(await (await fetch(`data:image/png;base64,${data}`)).blob())
        const c = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!
        c.drawImage(bitmap, 0, 0)
        const { data: d } = c.getImageData(
          bitmap.width * (a as number),
          bitmap.height * 0.42,
          bitmap.width * ((b as number) - (a as number)),
          bitmap.height * 0.16,
        )
        const sum = [0, 0, 0]
        for (let i = 0; i < d.length; i++) if (i % 4 < 3) sum[i % 4]! += d[i]!
        return sum.map(s => s / (d.length / 4))
      },
      [png, x0, x1] as const,
    )
  }
  const finished = await mean()

  // A port: in gray, which has no hue, with its figures; in false colors, which have.
  await card(page, 'n1').click()
  await page.keyboard.press('p')
  await expect(page.getByRole('status').filter({ hasText: 'Noise: Value' })).toContainText(
    /mean 0\.\d+ · above ½ on \d+ %/,
  )
  const gray = await mean()
  expect(Math.max(...gray) - Math.min(...gray)).toBeLessThan(3)
  await page.getByText('False colors').click()
  const colored = await mean()
  expect(Math.max(...colored) - Math.min(...colored)).toBeGreaterThan(10)
  await page.getByRole('button', { name: 'Back to the result' }).click()
  await page.keyboard.press('2')
  await expect(page.getByRole('radio', { name: 'Base color' })).toBeChecked()
  await page.keyboard.press('1')
  expect((await mean()).every((x, k) => Math.abs(x - finished[k]!) < 3)).toBe(true)

  // Another light.
  await page.getByRole('button', { name: 'Light', exact: true }).click()
  await page.getByRole('radio', { name: /Night lamp/ }).check()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('radio', { name: /Night lamp/ })).toBeHidden()
  expect((await mean())[2]).toBeLessThan(finished[2]! - 15)
  await page.keyboard.press('/')
  await page.keyboard.type('overcast')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog')).toBeHidden()
  expect((await mean()).every((x, k) => Math.abs(x - finished[k]!) < 3)).toBe(true)

  // Kept beside the next state: left of the wipe it stays as it was.
  await page.keyboard.press('k')
  await expect(page.getByRole('slider', { name: /Wipe/ })).toBeVisible()
  await page.getByRole('checkbox', { name: 'Coat 1 is laid' }).uncheck()
  await card(page, 'base').click()
  await hex(page, 'Base color', '#0030ff')
  const wiped = await mean(0.55, 0.75)
  const kept = await mean(0.25, 0.45)
  expect(wiped[2]! - wiped[0]!).toBeGreaterThan(30)
  expect(kept[2]! - kept[0]!).toBeLessThan(10)
  await page.getByRole('slider', { name: /Wipe/ }).focus()
  await page.keyboard.press('End')
  const all = await mean(0.55, 0.75)
  expect(all[2]! - all[0]!).toBeLessThan(10)
  await page.keyboard.press('k')

  // One part alone.
  const box = (await canvas.boundingBox())!
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
  await expect(page.locator('.chosen')).toContainText('box 1')
  await page.keyboard.press('i')
  await expect(page.getByText('2 parts hidden')).toBeVisible()
  await page.keyboard.press('Shift+H')
  await expect(page.getByText('2 parts hidden')).toBeHidden()

  // A color from the stage.
  await page.getByRole('button', { name: 'Pick base color from the stage or a picture' }).click()
  await expect(page.getByText('Click the color for Base color')).toBeVisible()
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
  await expect(page.getByText('Click the color for Base color')).toBeHidden()
  await expect(page.getByRole('textbox', { name: 'Base color, hex code' })).toHaveValue('#0030ff')
})

test('a palette is pulled from a picture into a node; a second window is told; the first visit is explained once', async ({
  page,
  request,
  context,
}) => {
  const id = await boxes(request, layered(1), 2)
  await visit(page, `/project/${id}`)
  await expect(page.getByRole('complementary', { name: 'First steps' })).toBeVisible()
  await page.getByRole('button', { name: 'Understood' }).click()
  await openProject(page, id)
  await expect(page.getByRole('complementary', { name: 'First steps' })).toBeHidden()

  await page.keyboard.press('d')
  const picture = await striped(page, 'image/png', 20, [
    ['#a02018', 10],
    ['#183a6b', 30],
  ])
  await page
    .getByLabel('Reference picture files')
    .setInputFiles({ name: 'boat.png', mimeType: 'image/png', buffer: Buffer.from(picture) })
  const figure = page.getByRole('figure', { name: /^boat.png/ })
  await expect(figure).toBeVisible()
  await figure.focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('complementary', { name: 'Pulled palette' })).toContainText('#183a6b75 %')
  await page.getByRole('button', { name: 'New palette' }).click()
  await figure.focus()
  await page.keyboard.press('ArrowRight')
  await saved(page)
  const { look } = await projectNow(request, id)
  expect(look.board).toMatchObject([{ picture: 'boat.png', at: [8, 0] }])
  expect(
    nodeOf(look, 'palette1')!.params.colors ?? Object.values(nodeOf(look, 'palette1')!.params).find(Array.isArray),
  ).toMatchObject([{ at: 0.75 }, { at: 0.25 }])

  const second = await context.newPage()
  await openProject(second, id)
  await expect(page.getByText('open in another window, too')).toBeVisible()
  await second.close()
  await expect(page.getByText('open in another window, too')).toBeHidden()
})

test('every state of the workbench can be read and reached by everybody, in both themes', async ({ page, request }) => {
  const id = await boxes(request, layered(2), 2)
  await openProject(page, id)
  await steps(page).first().click()
  const dialog = (): Promise<void> => expect(page.getByRole('dialog')).toBeVisible()
  const states: [name: string, open: () => Promise<unknown>, close: () => Promise<unknown>][] = [
    ['the workbench with a step selected', async () => {}, async () => {}],
    ['a port on the stage', () => page.keyboard.press('p'), () => page.keyboard.press('p')],
    ['the menu of nodes', () => page.keyboard.press('a'), () => page.keyboard.press('Escape')],
    ['the menu of actions', () => page.keyboard.press('/').then(dialog), () => page.keyboard.press('Escape')],
    ['the list of keys', () => page.keyboard.press('?').then(dialog), () => page.keyboard.press('Escape')],
    [
      'the light',
      () => page.getByRole('button', { name: 'Light', exact: true }).click(),
      () => page.keyboard.press('Escape'),
    ],
    [
      'the view',
      () => page.getByRole('button', { name: 'View', exact: true }).click(),
      () => page.keyboard.press('Escape'),
    ],
    ['the history', () => page.getByRole('button', { name: 'History' }).click(), () => page.keyboard.press('Escape')],
    [
      'steps to add',
      () => page.getByRole('button', { name: 'Add a step' }).click(),
      () => page.keyboard.press('Escape'),
    ],
    ['the wipe', () => page.keyboard.press('k'), () => page.keyboard.press('k')],
    ['the board of pictures', () => page.keyboard.press('d'), () => page.keyboard.press('d')],
  ]
  for (const theme of ['Dark theme', 'Light theme']) {
    for (const [name, open, close] of states) {
      await open()
      await rested(page)
      expect(await serious(page), `${name} before ${theme}`).toEqual([])
      await close()
      await expect(page.getByRole('dialog')).toBeHidden()
    }
    await page.getByRole('button', { name: theme }).click()
  }
})

test('a zone is moved by its handle on the stage, as one step back, and a gradient by the keyboard', async ({
  page,
  request,
}) => {
  const look = emptyLook('Handles')
  look.nodes.push(
    { id: 'zone1', kind: 'zone', at: [0, 0], params: { x: 0, y: 0, z: 0, radius: 60 } },
    { id: 'gradient1', kind: 'positionGradient', at: [0, 260], params: { axis: 'X', space: 'mesh' } },
  )
  const id = await boxes(request, look)
  await openProject(page, id)
  const params = async (node: string) => nodeOf((await projectNow(request, id)).look, node)!.params
  await card(page, 'zone1').click()
  const middle = page.getByRole('button', { name: 'Middle: drag, or arrow keys' })
  const before = (await middle.boundingBox())!
  await page.mouse.move(before.x + 7, before.y + 7)
  await page.mouse.down()
  await page.mouse.move(before.x + 30, before.y + 7, { steps: 4 })
  await page.mouse.move(before.x + 67, before.y + 7, { steps: 4 })
  await page.mouse.up()
  await saved(page)
  const moved = await params('zone1')
  expect(Math.hypot(Number(moved.x), Number(moved.y), Number(moved.z))).toBeGreaterThan(5)
  // The handle stays under the pointer while the mesh is redrawn.
  const after = (await middle.boundingBox())!
  expect(Math.abs(after.x - before.x - 60)).toBeLessThan(4)
  await page.keyboard.press('Control+z')
  await saved(page)
  expect(await params('zone1')).toMatchObject({ x: 0, y: 0, z: 0 })
  await card(page, 'gradient1').click()
  await page.getByRole('button', { name: 'End: drag, or arrow keys' }).press('ArrowLeft')
  await saved(page)
  expect(Number((await params('gradient1')).end)).toBeCloseTo(0.99, 3)
})

test('a right click offers what can be done with a node, a wire, the canvas, a step and a part; a right drag moves the view', async ({
  page,
  request,
}) => {
  const id = await boxes(request, layered(2))
  await openProject(page, id)
  const offers = (title: string) => page.getByRole('menuitem', { name: title })
  const right = async (x: number, y: number): Promise<void> => {
    await page.mouse.move(x, y)
    await page.mouse.down({ button: 'right' })
    await page.mouse.up({ button: 'right' })
  }

  await card(page, 'n1').click({ button: 'right' })
  await expect(offers('Duplicate')).toContainText('Ctrl')
  await offers('Switch off or on').click()
  await expect(page.locator('.card[data-node=n1]')).toHaveClass(/off/)
  await expect(page.getByRole('menu')).toBeHidden()

  const box = (await page.locator('.graph').boundingBox())!
  await right(box.x + 30, box.y + 30)
  await offers('Add a note').click()
  await expect(page.locator('.vue-flow__node .note')).toHaveCount(1)
  await expect(page.getByRole('menu')).toBeHidden()
  const [start, place] = [box.x + 40, await card(page, 'base').boundingBox()]
  await page.mouse.move(start, box.y + 40)
  await page.mouse.down({ button: 'right' })
  await page.mouse.move(start + 60, box.y + 80, { steps: 5 })
  await page.mouse.up({ button: 'right' })
  await expect(page.getByRole('menu')).toBeHidden()
  await expect
    .poll(async () => Math.round((await card(page, 'base').boundingBox())!.x - place!.x), { timeout: 5000 })
    .toBe(60)

  await page.locator('.chip.step').first().click({ button: 'right' })
  await offers('Later').click()
  await expect.poll(() => labels(page)).toEqual(['Coat 2', 'Coat 1'])

  await page.keyboard.press('Control+z')
  const [x, y] = await middleOf(page.locator('.vue-flow__edge').first())
  await right(x, y)
  await expect(offers('Put a node into the wire')).toBeVisible()
  await page.keyboard.press('Escape')

  const stage = (await page.locator('.stage canvas').boundingBox())!
  await right(stage.x + stage.width / 2, stage.y + stage.height / 2)
  await offers('Hide the selected parts').click()
  await expect(page.getByText('1 part hidden')).toBeVisible()
  await right(stage.x + 10, stage.y + 10)
  await offers('Show all parts').click()
  await expect(page.getByText('1 part hidden')).toBeHidden()
})
