import { expect, test, type Page } from '@playwright/test'
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

const sheet = (page: Page) => page.getByRole('listbox', { name: 'Rolls of the draws' })
/** A digest of every picture of the sheet by its roll, once none of them changes any more. */
const pictures = (page: Page): Promise<Record<string, string>> =>
  steady(async () => {
    await expect(sheet(page)).toHaveAttribute('aria-busy', 'false', { timeout: 60_000 })
    return page.evaluate(() =>
      Object.fromEntries(
        [...document.querySelectorAll<HTMLElement>('[data-roll]')].map(tile => {
          const canvas = tile.querySelector('canvas')!
          const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
          let sum = 0
          for (let i = 0; i < data.length; i++) sum = (sum * 31 + data[i]!) % 2147483647
          return [tile.dataset.roll!, `${canvas.width} ${sum}`]
        }),
      ),
    )
  })
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
  await page.getByRole('checkbox', { name: 'Starred first' }).click()
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
  await page.getByRole('combobox', { name: 'Draws that are rolled' }).click()
  await page.getByRole('option', { name: 'All draws' }).click()
  const first = await pictures(page)
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
