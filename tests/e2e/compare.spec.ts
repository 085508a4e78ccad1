import { readFile } from 'node:fs/promises'
import { expect, type Locator, type Page } from '@playwright/test'
import { decode, encode } from 'fast-png'
import { unzipSync } from 'fflate'
import type { Triple } from '../../core/color/convert'
import { Workpiece } from '../../core/evaluate/workpiece'
import { readMesh } from '../../core/exchange/readMesh'
import { writeGlb } from '../../core/exchange/writeGlb'
import { reseed } from '../../core/graph/recipe'
import { emptyPreparation } from '../../core/mesh/preparation'
import { stills } from '../../core/light/still'
import { colorDifferences, shareBelow } from '../colorDifferences'
import { kernels, row } from '../helpers'
import { test } from './day'
import { boxProject, enter, openProject, projectNow, saveLook, serious, steady } from './support'

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
  // One key keeps a roll and goes on with it where looks are built.
  await sheet(page).focus()
  for (const key of ['End', 'Shift+Enter']) await page.keyboard.press(key)
  await expect(page.locator('.graph')).toBeVisible()
  await expect.poll(async () => (await seedsIn(page, id))[0]).not.toBe(4)
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
  await page.getByRole('button', { name: 'Draws that are rolled: All draws' }).click()
  await page.getByRole('checkbox', { name: 'Spare' }).click()
  await page.keyboard.press('Escape')
  expect(new Set(Object.values(await pictures(page))).size).toBe(1)
  const measured = page.locator('[data-test=difference]')
  await sheet(page).focus()
  for (const key of ['Home', 'm', 'ArrowRight']) await page.keyboard.press(key)
  await expect(measured).toHaveText(/^0\.0 from As it is/)
  await page.getByRole('button', { name: 'Draws that are rolled: Spare' }).click()
  // A second one is rolled with it.
  await page.getByRole('checkbox', { name: 'Part random' }).first().click()
  await expect.poll(async () => new Set(Object.values(await pictures(page))).size).toBe(4)
  await expect(page.getByRole('button', { name: 'Draws that are rolled: 2 nodes' })).toBeVisible()
  await page.getByRole('checkbox', { name: 'All draws' }).click()
  await page.keyboard.press('Escape')
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

test('a part is dragged from one roll onto another, and selected parts are taken over into the look', async ({
  page,
}) => {
  test.setTimeout(180_000)
  const id = await drawn(page)
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await takeChoice(page, 'Number of rolls', '4')
  const before = await pictures(page)
  const option = (name: RegExp) => sheet(page).getByRole('option', { name })
  // The middle one of five boxes in a row is in the middle of every picture.
  const middleOf = async (name: RegExp): Promise<[number, number]> => {
    const box = (await option(name).locator('canvas').boundingBox())!
    return [box.x + box.width / 2, box.y + box.height / 2]
  }
  const drag = async (from: RegExp, to: RegExp): Promise<void> => {
    await page.mouse.move(...(await middleOf(from)))
    await page.mouse.down()
    const [x, y] = await middleOf(to)
    // What lies under the press has to be found before the part can be carried.
    await expect(async () => {
      await page.mouse.move(x + 1, y)
      await page.mouse.move(x, y)
      await expect(page.getByText(/ of Roll 2$/)).toBeVisible({ timeout: 500 })
    }).toPass()
    await page.mouse.up()
  }
  await drag(/^Roll 2/, /^Roll 1/)
  await expect(option(/^Roll 1, 1 part of others/)).toBeVisible()
  const mixed = await pictures(page)
  expect(mixed['1']).not.toBe(before['1'])
  expect([mixed['0'], mixed['2'], mixed['3']]).toEqual([before['0'], before['2'], before['3']])

  // Onto the look itself it is a pin at once, and one step back.
  await drag(/^Roll 2/, /^As it is/)
  const pinsNow = async () =>
    (await projectNow(page.context().request, id)).look.nodes
      .filter(n => n.kind === 'partRandom')
      .map(n => ((n.params as { pins?: { part: string; value: number }[] }).pins ?? []).length)
  await expect.poll(pinsNow).toEqual([1, 1])
  const pinned = await pictures(page)
  expect(pinned['0']).not.toBe(before['0'])
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect.poll(pinsNow).toEqual([0, 0])

  // Without a mouse: what is selected on the stage comes from the current tile.
  const stage = page.locator('.stage canvas')
  await stage.click()
  await sheet(page).focus()
  for (const key of ['Home', 'ArrowRight', 'ArrowRight']) await page.keyboard.press(key)
  await page.getByRole('button', { name: 'Take 1 selected part from it' }).click()
  await expect.poll(pinsNow).toEqual([1, 1])
  expect((await pictures(page))['0']).toBe(pinned['0'])
})

test('two rolls are wiped against one another, and a drag beside the mesh in one tile turns them all', async ({
  page,
}) => {
  test.setTimeout(180_000)
  await openProject(page, await drawn(page))
  await page.getByRole('tab', { name: 'Compare' }).click()
  await takeChoice(page, 'Number of rolls', '4')
  const before = await pictures(page)
  const tile = (name: RegExp) => sheet(page).getByRole('option', { name }).locator('canvas')
  /** The middle row of a tile, as text, from one share of its width to another. */
  const rowOf = (name: RegExp, from: number, to: number) =>
    tile(name).evaluate(
      (c: HTMLCanvasElement, [a, b]) => {
        const [left, right] = [Math.round(c.width * a!), Math.round(c.width * b!)]
        return [...c.getContext('2d')!.getImageData(left, c.height >> 1, right - left, 1).data].join()
      },
      [from, to],
    )
  const [first, second] = [
    [await rowOf(/^Roll 1/, 0, 0.45), await rowOf(/^Roll 1/, 0.55, 1)],
    [await rowOf(/^Roll 2/, 0, 0.45), await rowOf(/^Roll 2/, 0.55, 1)],
  ]
  await sheet(page).focus()
  for (const key of ['Home', 'ArrowRight', 'm', 'ArrowRight', 'w']) await page.keyboard.press(key)
  await expect.poll(() => rowOf(/^Roll 2/, 0, 0.45)).toBe(first[0])
  expect(await rowOf(/^Roll 2/, 0.55, 1)).toBe(second[1])
  // The line is dragged to the right end, and by keys to the left one.
  const box = (await tile(/^Roll 2/).boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width + 20, box.y + box.height / 2, { steps: 4 })
  await page.mouse.up()
  await expect.poll(() => rowOf(/^Roll 2/, 0.55, 0.95)).toBe(await rowOf(/^Roll 1/, 0.55, 0.95))
  await page.getByRole('slider', { name: 'How much of Roll 2 shows Roll 1, in percent' }).press('Home')
  await expect.poll(() => rowOf(/^Roll 2/, 0.55, 1)).toBe(second[1])
  await page.getByRole('button', { name: 'Wipe W' }).click()
  await expect.poll(() => rowOf(/^Roll 2/, 0, 0.45)).toBe(second[0])

  // Above the boxes there is no part.
  const room = (await tile(/^Roll 3/).boundingBox())!
  const [x, y] = [room.x + room.width / 2, room.y + room.height * 0.15]
  const rest = page.locator('.stage canvas')
  const frames = await rest.getAttribute('data-frames')
  await page.mouse.move(x, y)
  await page.mouse.down()
  await expect(async () => {
    await page.mouse.move(x + 60, y)
    await page.mouse.move(x + 50, y)
    await expect(rest).not.toHaveAttribute('data-frames', frames!, { timeout: 500 })
  }).toPass()
  await page.mouse.up()
  await expect(async () => {
    const after = await pictures(page)
    for (const name of ['0', '1', '2', '3']) expect(after[name]).not.toBe(before[name])
  }).toPass()
  await expect(sheet(page).getByRole('option', { name: /^Roll 3/ })).toBeVisible()
})

test('a channel of one roll goes to another, and what comes along is told', async ({ page }) => {
  test.setTimeout(180_000)
  const { request } = page.context()
  const { id } = await boxProject(request, 5)
  await saveLook(request, id, {
    nodes: [
      { id: 'tint', kind: 'partRandom', at: [0, 0], params: { seed: 4 } },
      { id: 'gloss', kind: 'partRandom', at: [0, 300], params: { seed: 8 } },
      { id: 'hue', kind: 'varyColor', at: [200, 0], params: { color: [0.6, 0.2, 0.1], hue: 300 } },
      { id: 'finish', kind: 'finish', at: [400, 0], params: {} },
    ],
    wires: [
      { from: { node: 'tint', port: 'value' }, to: { node: 'hue', port: 'hueBy' } },
      { from: { node: 'hue', port: 'color' }, to: { node: 'finish', port: 'baseColor' } },
      { from: { node: 'gloss', port: 'value' }, to: { node: 'finish', port: 'roughness' } },
      { from: { node: 'finish', port: 'finish' }, to: { node: 'result', port: 'finish' } },
    ],
  })
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await takeChoice(page, 'Number of rolls', '4')
  await pictures(page)
  await sheet(page).focus()
  for (const key of ['Home', 'ArrowRight', 'm', 'ArrowRight']) await page.keyboard.press(key)
  await page.getByRole('button', { name: 'In words' }).click()
  const words = page.getByRole('dialog', { name: 'From Roll 2 to Roll 1' })
  await expect(words.getByRole('listitem')).toHaveCount(2)
  await words.getByRole('button', { name: /^As in Roll 2: .*Seed from 15842 to 7923/ }).click()
  await expect.poll(() => seedsIn(page, id)).toEqual([4 + 2 * 7919, 8])
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await expect.poll(() => seedsIn(page, id)).toEqual([4, 8])
  await pictures(page)
  await page.getByRole('button', { name: 'Give Roll 1 a channel of it' }).click()
  await page.getByRole('menuitem', { name: 'Roughness' }).click()
  const told = page.getByRole('listitem').filter({ hasText: 'The look is Roll 1 with the roughness of roll 2' })
  await expect(told.filter({ hasText: 'Nothing else came along.' })).toBeVisible()
  await expect.poll(() => seedsIn(page, id)).toEqual([4 + 7919, 8 + 2 * 7919])
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await expect.poll(() => seedsIn(page, id)).toEqual([4, 8])
})

test('states of all sorts and distances stand side by side, a sheet is kept by name, and a turntable is saved', async ({
  page,
}) => {
  test.setTimeout(240_000)
  const { request } = page.context()
  const { id } = await boxProject(request, 1)
  const plain = (color: number[]) => ({
    nodes: [{ id: 'finish', kind: 'finish', at: [0, 0], params: { baseColor: color } }],
    wires: [{ from: { node: 'finish', port: 'finish' }, to: { node: 'result', port: 'finish' } }],
  })
  await saveLook(request, id, plain([0.5, 0.05, 0.05]))
  const { look } = await projectNow(request, id)
  const other = (await (await request.post(`/api/projects/${id}/looks`, { data: { name: 'Blue' } })).json()) as {
    id: string
    looks: { id: string }[]
  }
  await saveLook(request, id, plain([0.05, 0.05, 0.5]))
  const red = other.looks.find(l => l.id !== other.id)!.id
  const changed = { ...look, nodes: look.nodes.map(n => ({ ...n, at: [50, 50] })) }
  expect((await request.put(`/api/projects/${id}/look?look=${red}`, { data: { base: 4, look: changed } })).ok()).toBe(
    true,
  )
  await enter(page, `${id}?look=${red}`)
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })
  await page.getByRole('tab', { name: 'Compare' }).click()

  await page.getByText('States', { exact: true }).click()
  const states = page.getByRole('listbox', { name: 'States of the project' })
  await expect(states.getByRole('option')).toHaveCount(2)
  await page.getByRole('button', { name: '1 state beside the look' }).click()
  await page.getByRole('checkbox', { name: /^Revision 2/ }).click()
  await page.keyboard.press('Escape')
  await expect(states.getByRole('option')).toHaveCount(3)
  await picturesOf(states)
  // Blue is another look; the revision differs only in where its cards lie.
  const measured = page.locator('[data-test=difference]')
  await states.focus()
  for (const key of ['Home', 'm', 'ArrowRight']) await page.keyboard.press(key)
  await expect(measured).toHaveText(/^[1-9]\d*\.\d from As it is/)
  await page.keyboard.press('End')
  await expect(measured).toHaveText(/^0\.0 from As it is/)

  expect(await serious(page)).toEqual([])
  // In gray, red and blue differ by their values alone.
  const colorful = (await measured.textContent())!
  await page.getByRole('checkbox', { name: 'Gray' }).click()
  expect(Object.values(await picturesOf(states))[1]).toMatch(/^\d+ /)
  const hues = await states.evaluate(list =>
    [...list.querySelectorAll('canvas')].map(canvas => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height)
      let most = 0
      for (let i = 0; i < data.length; i += 4) most = Math.max(most, Math.abs(data[i]! - data[i + 2]!))
      return most
    }),
  )
  expect(hues).toEqual([0, 0, 0])
  expect(await measured.textContent()).toBe(colorful)
  await page.getByRole('checkbox', { name: 'Gray' }).click()

  await page.getByText('Distances', { exact: true }).click()
  const far = page.getByRole('listbox', { name: 'The look from far away' })
  expect(new Set(Object.values(await picturesOf(far))).size).toBe(9)
  const pixels = async (name: RegExp): Promise<number> =>
    Number(/about ([\d.]+) pixels/.exec((await far.getByRole('option', { name }).getAttribute('aria-label'))!)![1])
  expect((await pixels(/^As on the stage/)) / (await pixels(/^4 times/))).toBeCloseTo(4, 0)

  await page.getByRole('button', { name: 'Sheets', exact: true }).click()
  await page.getByRole('textbox', { name: 'Name of this sheet' }).fill('Far and near')
  await page.getByRole('button', { name: 'Keep the sheet' }).click()
  await expect(page.getByRole('button', { name: 'Far and near', exact: true })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByText('Lights', { exact: true }).click()
  await expect(page.getByRole('listbox', { name: 'The look in every light' })).toBeVisible()
  await page.reload()
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })
  await page.getByRole('tab', { name: 'Compare' }).click()
  await page.getByRole('button', { name: 'Sheets', exact: true }).click()
  await page.getByRole('button', { name: 'Far and near', exact: true }).click()
  await expect(far.getByRole('option')).toHaveCount(9)
  await picturesOf(far)

  const turntable = async (as: string): Promise<Buffer> => {
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByRole('menuitem', { name: /turntable/ }).click()
    await takeChoice(page, 'Frames of a turn', '12')
    await takeChoice(page, 'Size of the frames', 'Half of it')
    await takeChoice(page, 'What the turntable is saved as', as)
    const [download] = await Promise.all([
      page.waitForEvent('download', { timeout: 120_000 }),
      page.getByRole('button', { name: 'Make it' }).click(),
    ])
    await expect(page.getByRole('dialog', { name: 'Turntable' })).toBeHidden()
    return readFile(await download.path())
  }
  const frames = Object.values(unzipSync(await turntable('Pictures (PNG in a ZIP)'))).map(png => decode(png))
  expect(frames).toHaveLength(12)
  const apart = (a: number, b: number): number =>
    Array.from(frames[a]!.data).reduce((sum, x, i) => sum + Math.abs(x - frames[b]!.data[i]!), 0) /
    frames[a]!.data.length
  // A cube is the same after a quarter of a turn, where the light stays; in between it is not.
  expect(apart(0, 3)).toBeLessThan(0.4)
  expect(apart(0, 1)).toBeGreaterThan(1.5)
  expect(apart(1, 2)).toBeGreaterThan(0.8)

  const film = await turntable('Film (WebM)')
  // In a page of its own: ours plays nothing.
  const player = await page.context().newPage()
  const played = await player.evaluate(
    async bytes => {
      const video = document.createElement('video')
      video.src = URL.createObjectURL(new Blob([new Uint8Array(bytes)], { type: 'video/webm' }))
      await new Promise((resolve, reject) => {
        video.onloadedmetadata = resolve
        video.onerror = () => reject(new Error('The film cannot be played.'))
      })
      return { width: video.videoWidth, height: video.videoHeight, seconds: video.duration }
    },
    [...film],
  )
  const even = (n: number): number => 2 * Math.floor(n / 2)
  expect(played).toMatchObject({ width: even(frames[0]!.width), height: even(frames[0]!.height) })
  expect(played.seconds).toBeCloseTo(12 / 24, 1)
})

test('tiles of the tab and of the command are the same pictures, of a channel and of the finished surface', async ({
  page,
}) => {
  test.setTimeout(180_000)
  const id = await drawn(page)
  // As the command draws it, and everybody's stage at first: darkened near contacts, too.
  await page.evaluate(() => localStorage.removeItem('ubblet stage'))
  await openProject(page, id)
  await page.getByRole('tab', { name: 'Compare' }).click()
  await takeChoice(page, 'Number of rolls', '4')
  const { look } = await projectNow(page.context().request, id)
  const mesh = await readMesh(await writeGlb(row(5), 'boxes'), 'boxes.glb')
  const { tables } = new Workpiece(mesh, emptyPreparation())
  for (const [words, show] of [
    ['Base color', 'baseColor'],
    ['Roughness', 'roughness'],
    ['Finished', 'finished'],
  ] as const) {
    await page.getByText(words, { exact: true }).first().click()
    // At once: what is saved is smooth and of what was chosen, not what happens to be there.
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: /Each tile/ }).click(),
    ])
    const files = unzipSync(await readFile(await download.path()))
    expect(Object.keys(files)).toEqual(['01-as-it-is.png', '02-roll-1.png', '03-roll-2.png', '04-roll-3.png'])
    const tiles = Object.values(files).map(png => decode(png))
    const { width, height } = tiles[0]!
    const background = [0, 1, 2].map(k => Number(tiles[0]!.data[k]))
    const picture = stills(kernels, tables, {
      width,
      height,
      rig: 'overcast',
      show,
      background: background.map(x => x / 255) as Triple,
    })
    for (const [i, tile] of tiles.entries()) {
      const ours = picture(reseed(look, i))
      const isBackground = (p: ArrayLike<number>, at: number): boolean => background.every((x, k) => p[at + k] === x)
      expect(shareBelow(colorDifferences(tile.data, ours, isBackground), 2), `${words} ${i}`).toBeGreaterThan(0.99)
    }
  }
})
