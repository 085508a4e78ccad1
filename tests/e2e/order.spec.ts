import { encode } from 'fast-png'
import { expect } from '@playwright/test'
import { test } from './day'
import { add, boxProject, choose, openProject, port, projectNow, wire } from './support'

test('single parts are rolled again and given values, and the look keeps them', async ({ page, request }) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  await add(page, 'random per part', 0.1, 0.1)
  await choose(page.getByRole('combobox', { name: 'Part by name' }), 'box 2')
  await expect(page.getByText('rolled 1 time')).toBeVisible()
  await page.getByRole('button', { name: 'Roll', exact: true }).click()
  await page.getByRole('button', { name: 'Give a value' }).click()
  await page.getByRole('spinbutton', { name: 'box 2' }).fill('0.25')
  await page.getByRole('spinbutton', { name: 'box 2' }).press('Enter')
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
  const pins = async () =>
    (await projectNow(request, project.id)).look.nodes.find(n => n.id === 'partRandom1')!.params.pins
  await expect.poll(pins).toEqual([{ part: expect.any(String), value: 0.25 }])
  // Picked on the stage: whatever part is there is in the list.
  await page.getByRole('button', { name: 'Pick on the stage' }).click()
  const box = (await page.locator('.stage canvas').boundingBox())!
  await page.mouse.click(box.x + box.width * 0.575, box.y + box.height / 2)
  await expect.poll(async () => ((await pins()) as unknown[]).length).toBe(2)
  await page.getByRole('button', { name: /^Let go of box 2/ }).click()
  await expect.poll(async () => ((await pins()) as unknown[]).length).toBe(1)
})

test('recipes: taken in, folded, given settings, kept in the library, unfolded; undo brings all back', async ({
  page,
  request,
}) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  // One that ships brings the map it needs.
  await add(page, 'edge wear', 0.1, 0.1)
  await expect(page.locator('[data-node=recipe1] .name')).toContainText('Edge wear')
  await expect(page.getByRole('spinbutton', { name: 'Share' })).toBeVisible()
  await expect(page.getByRole('textbox', { name: 'What the recipe does' })).toHaveCount(0)
  await expect
    .poll(async () =>
      (
        (await (await request.get(`/api/projects/${project.id}`)).json()) as {
          preparation: { maps: { kind: string }[] }
        }
      ).preparation.maps.map(m => m.kind),
    )
    .toEqual(['convexity'])
  await wire(page, port(page, 'recipe1', 'out', 'finish'), port(page, 'result', 'in', 'finish'))
  await expect(page.locator('.vue-flow__edge')).toHaveCount(1)

  // Opened, changed inside, closed: the look and the card's own settings follow.
  await page.locator('.graph .tools').getByRole('button', { name: 'Open', exact: true }).click()
  await expect(page.getByRole('navigation', { name: 'Open recipes' })).toContainText('Edge wear')
  await expect(page.locator('.card')).toHaveCount(6)
  await page.locator('[data-node=cover] .name').click()
  await page.getByRole('spinbutton', { name: 'Share' }).fill('33')
  await page.getByRole('spinbutton', { name: 'Share' }).press('Enter')
  await page.locator('[data-node=layer] .name').click()
  await expect(page.getByText('from outside: Coat')).toBeVisible()
  await page.getByRole('navigation', { name: 'Open recipes' }).getByRole('button', { name: 'Close' }).click()
  await expect(page.locator('.card')).toHaveCount(2)
  await expect(page.getByRole('spinbutton', { name: 'Share' })).toHaveAttribute('aria-valuenow', '33')

  await page.getByRole('button', { name: 'Unfold', exact: true }).first().click()
  await expect(page.locator('.card')).toHaveCount(7)
  await page.locator('.graph').focus()
  await page.keyboard.press('r')
  await expect(page.locator('.card')).toHaveCount(2)
  await page.getByRole('textbox', { name: 'Name of the node' }).fill('My wear')
  await page.getByRole('textbox', { name: 'Name of the node' }).press('Enter')
  // A recipe that does not say what it does asks for it.
  const words = page.getByRole('textbox', { name: 'What the recipe does' })
  await words.fill('Wears edges off.')
  await words.press('Enter')
  await expect(page.locator('.help').getByText('Wears edges off.')).toBeVisible()
  await page.getByRole('button', { name: 'Choose its settings' }).click()
  await page.locator('fieldset', { hasText: 'How much' }).getByRole('checkbox', { name: 'Share' }).check()
  await page.getByRole('button', { name: 'Done choosing' }).click()
  await page.getByRole('spinbutton', { name: 'Share' }).fill('40')
  await page.getByRole('spinbutton', { name: 'Share' }).press('Enter')
  await page.getByRole('button', { name: 'Keep in the library' }).click()
  await expect(page.getByText('It is in the library')).toBeVisible()
  const library = (await (await request.get('/api/recipes')).json()) as {
    recipe: { title: string; settings: { title: string }[] }
  }[]
  expect(library.map(l => [l.recipe.title, l.recipe.settings.map(s => s.title)])).toEqual([['My wear', ['Share']]])
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
  expect((await projectNow(request, project.id)).look.nodes.find(n => n.recipe)!.params.share).toBe(40)

  // Another project finds it.
  const other = await boxProject(request)
  await openProject(page, other.id)
  await add(page, 'my wear', 0.1, 0.1)
  await expect(page.locator('[data-node=recipe1] .name')).toContainText('My wear')
  await page.keyboard.press('Control+z')
  await expect(page.locator('.card')).toHaveCount(1)
})

test('notes, frames and echoes put the page in order', async ({ page, request }) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  await add(page, 'noise', 0.05, 0.1)
  await add(page, 'invert', 0.5, 0.1)
  await wire(page, port(page, 'noise1', 'out', 'value'), port(page, 'invert1', 'in', 'value'))
  await page.locator('.vue-flow__edge').click({ force: true })
  await page.keyboard.press('e')
  await expect(page.locator('[data-node=echo1]')).toBeVisible()
  await expect(page.locator('.vue-flow__edge')).toHaveCount(1)

  await page.locator('[data-node=noise1] .name').click()
  await page.keyboard.press('Shift+N')
  await page.getByRole('textbox', { name: 'Title of the frame' }).fill('Patterns')
  await page.getByRole('textbox', { name: 'Title of the frame' }).press('Tab')
  await page.getByRole('button', { name: 'Note', exact: true }).click()
  await page.getByRole('textbox', { name: 'Text' }).last().fill('Broad first, fine second.')
  await page.getByRole('textbox', { name: 'Text' }).last().press('Tab')
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
  const notes = async () => (await projectNow(request, project.id)).look.notes!
  await expect
    .poll(async () => (await notes()).map(n => [n.frame, n.title, n.text]))
    .toEqual([
      [true, 'Patterns', ''],
      [false, '', 'Broad first, fine second.'],
    ])

  // A frame takes along what lies on it.
  const before = await projectNow(request, project.id)
  const at = (look: typeof before.look, id: string) => look.nodes.find(n => n.id === id)!.at
  const frame = (await page.locator('[data-note=note1]').boundingBox())!
  await page.mouse.move(frame.x + frame.width - 30, frame.y + frame.height - 12)
  await page.mouse.down()
  await page.mouse.move(frame.x + frame.width - 30, frame.y + frame.height + 40, { steps: 6 })
  await page.mouse.up()
  await expect
    .poll(async () => at((await projectNow(request, project.id)).look, 'noise1')[1])
    .toBeGreaterThan(at(before.look, 'noise1')[1] + 20)
  const after = await projectNow(request, project.id)
  expect(at(after.look, 'noise1')[1] - at(before.look, 'noise1')[1]).toBe(
    after.look.notes![0]!.at[1] - before.look.notes![0]!.at[1],
  )
  expect(at(after.look, 'invert1')).toEqual(at(before.look, 'invert1'))
})

test('a picture comes into the project, lies on the mesh, and a wrong file says so', async ({ page, request }) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  await add(page, 'picture', 0.1, 0.1)
  await expect(page.locator('[data-node=picture1] .name')).toContainText('Picture')
  const file = page.getByLabel('Picture file')
  const red = encode({
    width: 2,
    height: 2,
    channels: 3,
    depth: 8,
    data: Uint8Array.of(255, 0, 0, 255, 0, 0, 255, 0, 0, 255, 0, 0),
  })
  await file.setInputFiles({ name: 'broken.png', mimeType: 'image/png', buffer: Buffer.from('no picture') })
  await expect(page.getByRole('alert')).toContainText('broken.png: this is not a picture that can be read')
  await file.setInputFiles({ name: 'red.png', mimeType: 'image/png', buffer: Buffer.from(red) })
  await expect(page.getByRole('combobox', { name: 'Picture' })).toHaveText('red.png (2 x 2)')
  await wire(page, port(page, 'picture1', 'out', 'red'), port(page, 'result', 'in', 'finish'), true)
  await page.getByRole('button', { name: /Put a Finish between/ }).click()
  await wire(page, port(page, 'picture1', 'out', 'color'), port(page, 'finish1', 'in', 'baseColor'))
  // The stage and the readings see it, and it is still there after the page has been loaded again.
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
  await page.reload()
  await page.locator('[data-node=picture1] .name').click()
  await expect(page.getByRole('img', { name: /Histogram: Red, from 1 to 1/ })).toBeVisible({ timeout: 60_000 })
  expect(
    ((await (await request.get(`/api/projects/${project.id}/pictures`)).json()) as { name: string }[]).map(p => p.name),
  ).toEqual(['red.png'])
  const refused = await request.put(`/api/projects/${project.id}/pictures?name=x.png`, { data: Buffer.from('nothing') })
  expect([refused.status(), ((await refused.json()) as { message: string }).message]).toEqual([
    422,
    'x.png is not a PNG, JPEG, WebP or EXR picture.',
  ])
})

test('channels that a finish sets are shown on the stage, and a curve is bent by keys', async ({ page, request }) => {
  const project = await boxProject(request)
  await openProject(page, project.id)
  await add(page, 'material', 0.3, 0.1)
  await wire(page, port(page, 'finish1', 'out', 'finish'), port(page, 'result', 'in', 'finish'))
  const view = (name: string) => page.locator('.views').getByText(name, { exact: true })
  await expect(view('Height')).toBeHidden()
  await page.locator('[data-node=finish1] .name').click()
  await expect(page.getByRole('spinbutton', { name: 'Height', exact: true })).toBeHidden()
  await page.getByRole('group', { name: 'Sets' }).getByRole('checkbox', { name: 'Height' }).check()
  await expect(view('Height')).toBeVisible()
  await page.getByRole('spinbutton', { name: 'Height', exact: true }).fill('2')
  await page.getByRole('spinbutton', { name: 'Height', exact: true }).press('Enter')

  await add(page, 'tone curve', 0.05, 0.6)
  const point = page.getByRole('button', { name: /^Point 1 at/ })
  await point.focus()
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowUp')
  await expect(page.getByRole('button', { name: 'Point 1 at 0, 0.05' })).toBeFocused()
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
  await expect
    .poll(async () =>
      (await projectNow(request, project.id)).look.nodes.map(n => n.params.points ?? n.params.height).filter(Boolean),
    )
    .toEqual([
      2,
      [
        { x: 0, y: 0.05 },
        { x: 1, y: 1 },
      ],
    ])
})
