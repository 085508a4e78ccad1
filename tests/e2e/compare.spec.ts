import { readFile } from 'node:fs/promises'
import { expect, test, type Locator, type Page } from '@playwright/test'
import { encode } from 'fast-png'
import { boxProject, openProject, projectNow, saveLook, steady } from './support'

/** Boxes whose color is drawn, and a second draw that nothing is wired to. */
async function drawn(page: Page): Promise<string> {
  const { request } = page.context()
  const { id } = await boxProject(request, 5)
  await saveLook(request, id, {
    nodes: [
      { id: 'draw', kind: 'partRandom', at: [0, 0], params: { seed: 4 } },
      { id: 'spare', kind: 'partRandom', at: [0, 300], params: { seed: 8 }, name: 'Spare' },
      { id: 'hue', kind: 'varyColor', at: [200, 0], params: { color: [0.6, 0.2, 0.1], hue: 300 } },
      { id: 'finish', kind: 'finish', at: [400, 0], params: {} },
    ],
    wires: [
      { from: { node: 'draw', port: 'value' }, to: { node: 'hue', port: 'hueBy' } },
      { from: { node: 'hue', port: 'color' }, to: { node: 'finish', port: 'baseColor' } },
      { from: { node: 'finish', port: 'finish' }, to: { node: 'result', port: 'finish' } },
    ],
  })
  return id
}

/** Chooses in a field, and waits until its list is gone. */
async function takeChoice(page: Page, field: string, option: string): Promise<void> {
  const box = page.getByRole('combobox', { name: field, exact: true })
  await box.click()
  await page.getByRole('option', { name: option, exact: true }).click()
  await expect(page.getByRole('option', { name: option, exact: true })).toBeHidden()
  await expect(box).toContainText(option)
}
const sheet = (page: Page) => page.getByRole('listbox', { name: 'Rolls of the draws' })
/** A digest of every picture of a sheet by its tile, once none of them changes any more. */
const picturesOf = (list: Locator): Promise<Record<string, string>> =>
  steady(async () => {
    await expect(list).toHaveAttribute('aria-busy', 'false', { timeout: 60_000 })
    return list.page().evaluate(() =>
      Object.fromEntries(
        [...document.querySelectorAll<HTMLElement>('[data-tile]')].map(tile => {
          const canvas = tile.querySelector('canvas')!
          const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
          let sum = 0
          for (let i = 0; i < data.length; i++) sum = (sum * 31 + data[i]!) % 2147483647
          return [tile.dataset.tile!.replace('roll ', ''), `${canvas.width} ${sum}`]
        }),
      ),
    )
  })
const pictures = (page: Page) => picturesOf(sheet(page))
const seedsIn = async (page: Page, id: string) =>
  (await projectNow(page.context().request, id)).look.nodes
    .filter(n => n.kind === 'partRandom')
    .map(n => (n.params as { seed: number }).seed)

test('sixteen rolls stand side by side, are judged by keys, and one is kept as one step back', async ({ page }) => {
  test.setTimeout(180_000)
  const id = await drawn(page)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await expect(sheet(page).getByRole('option')).toHaveCount(16)
  const before = await pictures(page)
  // Every roll is another picture.
  expect(new Set(Object.values(before)).size).toBe(16)

  await sheet(page).focus()
  for (const key of ['ArrowRight', 'ArrowRight', 'ArrowRight', 's', 'ArrowLeft', 'x']) await page.keyboard.press(key)
  await expect(page.getByRole('option', { name: 'Roll 3, starred' })).toBeVisible()
  await expect(page.getByRole('option', { name: 'Roll 2, set aside' })).toHaveAttribute('aria-selected', 'true')
  await takeChoice(page, 'Order of the tiles', 'Starred first')
  await expect(page.getByRole('option').first()).toHaveAccessibleName('Roll 3, starred')
  await expect(page.getByRole('option').last()).toHaveAccessibleName('Roll 2, set aside')

  // Kept: it is the look now, saved, and the others are counted from it.
  await sheet(page).focus()
  await page.keyboard.press('Home')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('option', { name: 'As it is, starred' })).toBeVisible()
  await expect.poll(() => seedsIn(page, id)).toEqual([4 + 3 * 7919, 8 + 3 * 7919])
  const after = await pictures(page)
  expect([after['0'], after['1']]).toEqual([before['3'], before['4']])
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(() => seedsIn(page, id)).toEqual([4, 8])
  expect((await pictures(page))['0']).toBe(before['0'])
})

test('one draw can be rolled alone, more rolls come, and one stands beside the look on the stage', async ({ page }) => {
  test.setTimeout(180_000)
  const id = await drawn(page)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await page.getByRole('combobox', { name: 'Number of rolls' }).click()
  await page.getByRole('option', { name: '4', exact: true }).click()
  await expect(sheet(page).getByRole('option')).toHaveCount(4)
  // A draw that leads nowhere changes nothing.
  await page.getByRole('combobox', { name: 'Draws that are rolled' }).click()
  await page.getByRole('option', { name: 'Spare' }).click()
  expect(new Set(Object.values(await pictures(page))).size).toBe(1)
  const measured = page.locator('[data-test=difference]')
  await sheet(page).focus()
  for (const key of ['Home', 'm', 'ArrowRight']) await page.keyboard.press(key)
  await expect(measured).toHaveText(/^0\.0 from As it is/)
  await page.getByRole('combobox', { name: 'Draws that are rolled' }).click()
  await page.getByRole('option', { name: 'All draws' }).click()
  const first = await pictures(page)
  // Another roll differs by a good deal, and the key that is held shows the one that is measured from in its place.
  await expect(measured).toHaveText(/^[1-9]\d*\.\d from As it is/)
  await sheet(page).focus()
  await page.keyboard.down('f')
  await expect.poll(async () => (await pictures(page))['1']).toBe(first['0'])
  await page.keyboard.up('f')
  await expect.poll(async () => (await pictures(page))['1']).toBe(first['1'])
  for (const key of ['Home', 'm']) await page.keyboard.press(key)
  await expect(measured).toBeHidden()
  await page.getByRole('button', { name: 'More rolls' }).click()
  await expect(page.getByRole('option', { name: 'Roll 6' })).toBeVisible()
  const more = await pictures(page)
  expect(Object.keys(more)).toEqual(['0', '4', '5', '6'])
  expect(more['0']).toBe(first['0'])
  await sheet(page).focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press(' ')
  await expect(page.getByRole('slider', { name: /Wipe/ })).toBeVisible()
  await page.keyboard.press(' ')
  await expect(page.getByRole('slider', { name: /Wipe/ })).toBeHidden()
  // Another channel is another sheet.
  const finished = await pictures(page)
  await page.getByText('Roughness', { exact: true }).first().click()
  await expect.poll(async () => (await pictures(page))['0']).not.toBe(finished['0'])
})

test('a look without draws says what to do', async ({ page }) => {
  const { id } = await boxProject(page.context().request, 2)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await expect(page.getByText('Nothing in this look is drawn.')).toBeVisible()
})

test('two settings are swept over columns and rows, sorted by how close they come to a picture, and one is kept', async ({
  page,
}) => {
  test.setTimeout(180_000)
  const { request } = page.context()
  const id = await drawn(page)
  const reference = encode({
    width: 4,
    height: 4,
    data: Uint8Array.from({ length: 48 }, (_, i) => [40, 60, 200][i % 3]!),
    channels: 3,
    depth: 8,
  })
  const put = await request.put(`/api/projects/${id}/pictures?name=blue.png`, { data: Buffer.from(reference) })
  expect(put.status()).toBeLessThan(300)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await page.getByText('Sweep', { exact: true }).click()
  await expect(page.getByText('Choose a setting for the columns')).toBeVisible()
  const take = (field: string, option: string) => takeChoice(page, field, option)
  const write = async (field: Locator, text: string) => {
    await field.fill(text)
    await field.press('Enter')
  }
  await take('Setting of the columns', 'Vary color · Color')
  await write(page.getByRole('textbox', { name: 'Columns from, hex code' }), '#c83c28')
  await write(page.getByRole('textbox', { name: 'Columns to, hex code' }), '#283cc8')
  await take('Steps of the columns', '3')
  await take('Setting of the rows', 'Vary color · Hue')
  await write(page.getByRole('spinbutton', { name: 'Rows to' }), '20')
  await take('Steps of the rows', '2')
  const swept = page.getByRole('listbox', { name: 'Values of the sweep' })
  await expect(swept.getByRole('option')).toHaveCount(6)
  await expect(swept.getByRole('option').nth(0)).toHaveAccessibleName('Color #c83c28 · Hue 0°')
  await expect(swept.getByRole('option').nth(5)).toHaveAccessibleName('Color #283cc8 · Hue 20°')
  const made = await picturesOf(swept)
  expect(new Set(Object.values(made)).size).toBe(6)

  // The blue ones come first, the red ones last, and the numbers say so.
  await take('Picture to come close to', 'blue.png')
  await take('Order of the tiles', 'Closest to a picture')
  await page.getByRole('checkbox', { name: 'Numbers' }).click()
  await expect(swept.getByRole('option').nth(0)).toHaveAccessibleName(/^Color #283cc8 · Hue 0°, .* away$/)
  await expect(swept.getByRole('option').nth(5)).toHaveAccessibleName(/^Color #c83c28/)
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page
      .getByRole('button', { name: 'Save' })
      .click()
      .then(() => page.getByRole('menuitem', { name: 'As a table (CSV)' }).click()),
  ])
  const lines = (await readFile(await download.path(), 'utf8')).trim().split('\n')
  expect(lines).toHaveLength(7)
  expect(lines[1]).toMatch(/^Color #283cc8 · Hue 0°,/)

  await swept.focus()
  await page.keyboard.press('Home')
  await page.keyboard.press('Enter')
  const settingsNow = async () => (await projectNow(request, id)).look.nodes.find(n => n.id === 'hue')!.params
  await expect.poll(async () => (await settingsNow()).hue).toBe(0)
  const color = (await settingsNow()).color as number[]
  expect(color[2]!).toBeGreaterThan(color[0]! * 5)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(settingsNow).toEqual({ color: [0.6, 0.2, 0.1], hue: 300 })
})

test('the look stands in every light, evaluated once, and a light is taken over to the stage', async ({ page }) => {
  test.setTimeout(180_000)
  const id = await drawn(page)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await page.getByText('Lights', { exact: true }).click()
  const lights = page.getByRole('listbox', { name: 'The look in every light' })
  await expect(lights.getByRole('option')).toHaveCount(8)
  const made = await picturesOf(lights)
  expect(new Set(Object.values(made)).size).toBe(8)
  await lights.focus()
  for (const key of ['ArrowDown', 'ArrowRight', 'Enter']) await page.keyboard.press(key)
  await page.getByRole('button', { name: 'Light', exact: true }).click()
  await expect(page.getByRole('spinbutton', { name: 'Turned' })).toHaveAttribute('aria-valuenow', '180')
  await expect(page.getByRole('radio', { name: /Low sun/ })).toBeChecked()
})
