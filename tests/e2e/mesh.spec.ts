import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { WebIO } from '@gltf-transform/core'
import { draco as compress } from '@gltf-transform/functions'
import { expect, type Page } from '@playwright/test'
import draco3d from 'draco3dgltf'
import { Zip, zipSync, type ZipInputFile } from 'fflate'
import { constants, deflateRawSync } from 'node:zlib'
import { writeGlb } from '../../core/exchange/writeGlb'
import type { KeyTable } from '../../core/mesh/keys'
import type { Mesh } from '../../core/mesh/mesh'
import { boxes, row, type BoxSpec } from '../helpers'
import { test, visit } from './day'
import { add, boxProject, choose, deliverNow, newProject, openProject, port, projectNow, wire } from './support'

const chooser = (page: Page) => page.getByLabel('Mesh files')
const file = (name: string, buffer: Buffer | string) => ({
  name,
  mimeType: 'application/octet-stream',
  buffer: Buffer.from(buffer),
})
const glb = async (name: string, mesh: Mesh) => file(name, Buffer.from(await writeGlb(mesh, 'own')))
/** Opens a page of the Mesh tab. */
async function at(page: Page, name: 'Report' | 'Levels' | 'Part table' | 'Part sets' | 'Maps'): Promise<void> {
  const tab = page.getByRole('tab', { name: 'Mesh' })
  if ((await tab.getAttribute('aria-selected')) !== 'true') await tab.click()
  await page
    .getByRole('navigation', { name: 'Parts of the preparation' })
    .getByRole('button', { name, exact: true })
    .click()
}
const level = (page: Page, name: string) => page.locator(`[data-test=level-${name}]`)

/** Ten planks of one object, a little apart, and two crates. */
const pier: BoxSpec[] = [
  ...Array.from({ length: 10 }, (_, i): BoxSpec => ({ object: 'Planks', at: [i * 0.31, 0, 0], size: [0.3, 0.05, 2] })),
  { object: 'Crate', at: [0.6, 0.4, 0], size: [0.5, 0.5, 0.5] },
  { object: 'Crate left', at: [1.8, 0.4, 0.3], size: [0.4, 0.4, 0.4] },
]

test('an artist brings a mesh in, reads what is odd and mends it', async ({ page, request }) => {
  const project = await newProject(request, 'Arrival')
  const { uvs: _, ...bare } = boxes(
    pier.map(p => ({
      ...p,
      at: p.at.map(x => x * 1000) as [number, number, number],
      size: p.size!.map(x => x * 1000) as [number, number, number],
    })),
  )
  await visit(page, `/project/${project.id}`)
  // Limits are said before work begins.
  await expect(page.getByText(/Up to 512 MB and 5,000,000 triangles/)).toBeVisible()
  await chooser(page).setInputFiles(await glb('pier.glb', bare))
  await expect(page.locator('[data-test=parts]')).toHaveText('12')
  const odd = page.locator('.odd li')
  await expect(odd.filter({ hasText: 'm across' })).toContainText('sizes in patterns and radii would be far off')
  await page.getByRole('button', { name: 'Read it as millimeters' }).click()
  await expect(odd.filter({ hasText: 'm across' })).toHaveCount(0)
  await expect(page.getByText('3.09 m × 67.5 cm × 2 m')).toBeVisible()

  // No UVs: unwrapping makes them, and no part loses its key.
  const keys = (await (await request.get(`/api/projects/${project.id}/keys`)).json()) as KeyTable
  await page.getByRole('button', { name: 'Unwrap it' }).click()
  await expect(page.getByRole('dialog', { name: 'Replace the mesh' })).toContainText('12 of 12 parts are found again')
  await page.getByRole('button', { name: 'Replace', exact: true }).click()
  await expect(odd.filter({ hasText: 'no UVs' })).toHaveCount(0)
  await expect(page.getByText('pier unwrapped.glb')).toBeVisible()
  await expect(page.getByText('3.09 m × 67.5 cm × 2 m')).toBeVisible()
  const after = (await (await request.get(`/api/projects/${project.id}/keys`)).json()) as KeyTable
  expect([...after.keys].sort()).toEqual([...keys.keys].sort())
  await page.getByRole('button', { name: 'UV layout' }).click()
  await expect(page.locator('.mark', { hasText: '1001' })).toBeVisible()
})

/** A zip of one file of zeros: one run of them, packed once, as often as it takes. Its sum is not theirs. */
function zipOfZeros(filename: string, runs: number): Buffer {
  const written: Uint8Array[] = []
  const zip = new Zip((error, piece) => {
    if (error) throw error
    written.push(piece)
  })
  const one: ZipInputFile = { filename, size: runs * RUN, crc: 0, compression: 8 }
  zip.add(one)
  const run = deflateRawSync(new Uint8Array(RUN), { finishFlush: constants.Z_FULL_FLUSH })
  for (let i = 0; i < runs; i++) one.ondata!(null, run, false)
  one.ondata!(null, deflateRawSync(new Uint8Array(0)), true)
  zip.end()
  return Buffer.concat(written)
}
const RUN = 10 * 2 ** 20

test('every kind of file comes in, and a broken one changes nothing', async ({ page, request }) => {
  const project = await newProject(request, 'Files')
  await visit(page, `/project/${project.id}`)
  // At once, before the project is open: the file waits for it.
  const square = 'v 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 1 1 0 0 0 1\nv 0 1 0 0 0 1\n'
  await chooser(page).setInputFiles([
    file('sign.obj', `mtllib sign.mtl\no Board\n${square}usemtl enamel\nf -4 -3 -2 -1\n`),
    file('sign.mtl', 'newmtl enamel\nKd 0.1 0.2 0.3\n'),
  ])
  await expect(page.locator('[data-test=parts]')).toHaveText('1')
  await expect(page.locator('tr', { hasText: 'enamel' })).toBeVisible()
  const replaced = async (files: Parameters<ReturnType<Page['locator']>['setInputFiles']>[0], parts: string) => {
    await chooser(page).setInputFiles(files)
    await page.getByRole('button', { name: 'Replace', exact: true }).click()
    await expect(page.locator('[data-test=parts]')).toHaveText(parts)
  }
  await replaced(
    file(
      'sign.ply',
      `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty float salt\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 0.25\n1 0 0 0.5\n0 1 0 0.75\n3 0 1 2\n`,
    ),
    '1',
  )
  await at(page, 'Maps')
  await expect(page.getByRole('textbox', { name: 'Name of salt' })).toBeVisible()
  await at(page, 'Report')
  await replaced(file('boxes.zip', Buffer.from(zipSync({ 'deep/boxes.glb': await writeGlb(row(3), 'x') }))), '3')
  const io = new WebIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'draco3d.encoder': await draco3d.createEncoderModule() })
  const document = await new WebIO().readBinary(await writeGlb(row(5), 'x'))
  await document.transform(compress())
  await replaced(file('packed.glb', Buffer.from(await io.writeBinary(document))), '5')

  const good = (await projectNow(request, project.id)).mesh
  for (const [broken, message] of [
    [file('sign.obj', `${square}f 1 2 9\n`), /sign\.obj: .*9/],
    [
      file('cut.ply', 'ply\nformat binary_little_endian 1.0\nelement vertex 400\nproperty float x\nend_header\n'),
      /cut\.ply: /,
    ],
    [file('empty.zip', Buffer.from(zipSync({ 'readme.txt': Buffer.from('nothing') }))), /empty\.zip: /],
    [file('picture.png', 'x'), /picture\.png: /],
    [file('bomb.zip', zipOfZeros('a.obj', 70)), /bomb\.zip: .*MB/],
  ] as const) {
    await chooser(page).setInputFiles(broken)
    await expect(page.getByRole('alert')).toContainText(message)
    await expect(page.getByRole('alert')).toContainText('The project is as it was.')
    await expect(page.locator('[data-test=parts]')).toHaveText('5')
  }
  expect((await projectNow(request, project.id)).mesh).toEqual(good)
})

test('parts are chosen on the stage and in the table, as one selection', async ({ page, request }) => {
  const project = await newProject(request, 'Choosing')
  await request.put(`/api/projects/${project.id}/mesh?name=pier.glb`, {
    data: (await glb('pier.glb', boxes(pier))).buffer,
  })
  await openProject(page, project.id)
  await at(page, 'Part table')
  const chosen = page.locator('.shown h3')
  const table = page.getByRole('grid', { name: 'Parts' })
  await expect(table.getByRole('row')).toHaveCount(13)
  await table.getByRole('row').nth(1).click()
  await expect(chosen).toHaveText('1 part selected')
  await table
    .getByRole('row')
    .nth(3)
    .click({ modifiers: ['Shift'] })
  await expect(chosen).toHaveText('3 parts selected')
  await table
    .getByRole('row')
    .nth(2)
    .click({ modifiers: ['Control'] })
  await expect(chosen).toHaveText('2 parts selected')
  await table.press('Control+a')
  await expect(chosen).toHaveText('12 parts selected')
  await page.getByRole('textbox', { name: 'Search the parts' }).fill('crate')
  await expect(table.getByRole('row')).toHaveCount(3)
  await page.getByRole('textbox', { name: 'Search the parts' }).fill('')
  await table.getByRole('button', { name: 'Volume' }).click()
  await expect(table.getByRole('row').nth(1)).toContainText('Crate')
  await expect(table.getByRole('row').nth(1)).toContainText('0.125 m³')

  // Alike, neighbors, levels.
  await table.getByRole('row').nth(1).click()
  await page.getByRole('button', { name: 'Select alike by size' }).click()
  await expect(chosen).toHaveText('1 part selected')
  await table.getByRole('row').nth(3).click()
  await page.getByRole('button', { name: 'Select alike by size' }).click()
  await expect(chosen).toHaveText('10 parts selected')
  await at(page, 'Levels')
  const contact = page.getByRole('spinbutton', { name: 'Contact distance' })
  await contact.click()
  await contact.fill('12')
  await contact.press('Enter')
  await page.getByRole('button', { name: 'Clear', exact: true }).click()
  await expect(chosen).toHaveText('Nothing selected')
  await at(page, 'Part table')
  await table.getByRole('button', { name: 'Part', exact: true }).click()
  await table.getByRole('row').filter({ hasText: 'Planks/1 ' }).first().click()
  await page.getByRole('button', { name: 'Grow to neighbors' }).click()
  await expect(chosen).toHaveText('2 parts selected')
  await page.getByRole('button', { name: 'Invert' }).click()
  await expect(chosen).toHaveText('10 parts selected')

  // On the stage: a click, a box, hiding.
  const box = (await page.locator('.stage canvas').boundingBox())!
  await page.mouse.click(box.x + 4, box.y + 4)
  await expect(chosen).toHaveText('Nothing selected')
  await page.keyboard.down('Shift')
  await page.mouse.move(box.x + 2, box.y + 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width - 4, box.y + box.height - 4, { steps: 4 })
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await expect(chosen).toHaveText('12 parts selected')
  await page.mouse.click(box.x + 4, box.y + 4)
  await choose(page.getByRole('combobox', { name: 'Level at which is picked' }), 'object')
  await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.55)
  await expect(chosen).toHaveText('10 parts selected')
  await page.getByRole('button', { name: 'Isolate' }).click()
  await expect(page.getByText('2 parts hidden')).toBeVisible()
  await page.keyboard.press('h')
  await expect(page.getByText('12 parts hidden')).toBeVisible()
  await page.getByRole('button', { name: 'Show all' }).first().click()
  await expect(page.getByText('parts hidden')).toBeHidden()
})

test('groups and part sets are made, used by a node, and survive a changed export with the same draws', async ({
  page,
  request,
}) => {
  const project = await newProject(request, 'Sets')
  await request.put(`/api/projects/${project.id}/mesh?name=pier.glb`, {
    data: (await glb('pier.glb', boxes(pier))).buffer,
  })
  await openProject(page, project.id)
  await at(page, 'Levels')
  await expect(level(page, 'group')).toHaveText('3')
  await choose(page.getByRole('combobox', { name: 'Parts belong together' }), 'material')
  await expect(level(page, 'group')).toHaveText('1')
  await page.getByRole('button', { name: 'New group' }).click()
  await page.getByRole('textbox', { name: 'Name of the group' }).fill('Crates')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Add a rule' }).click()
  await page.getByRole('textbox', { name: 'Text of rule 1' }).fill('crate')
  await expect(level(page, 'group')).toHaveText('2')
  await expect(page.locator('.groups')).toContainText('Crates')
  // The weld distance joins parts, live; undo takes it back.
  const weld = page.getByRole('spinbutton', { name: 'Weld distance' })
  await weld.click()
  await weld.fill('20')
  await weld.press('Enter')
  await expect(level(page, 'part')).toHaveText('3')
  await page.keyboard.press('Control+z')
  await expect(level(page, 'part')).toHaveText('12')

  await at(page, 'Part sets')
  await page.getByRole('button', { name: 'New part set' }).click()
  await page.getByRole('textbox', { name: 'Name of the part set' }).fill('Boxes to mend')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Add a rule' }).click()
  await choose(page.getByRole('combobox', { name: 'Rule 1 of Boxes to mend' }), 'Group name')
  await page.getByRole('textbox', { name: 'Text of rule 1' }).fill('Crates')
  await expect(page.locator('[data-test=members]')).toHaveText('2 parts')
  await at(page, 'Part table')
  await page.getByRole('grid', { name: 'Parts' }).getByRole('row').filter({ hasText: 'Planks' }).first().click()
  await at(page, 'Part sets')
  await page.getByRole('button', { name: 'Add the selection' }).click()
  await expect(page.locator('[data-test=members]')).toHaveText('3 parts')

  // The look: draws vary the color, the set the roughness.
  await page.getByRole('tab', { name: 'Build' }).click()
  await add(page, 'random per part', 0.05, 0.05)
  await add(page, 'color stops', 0.36, 0.05)
  await add(page, 'material', 0.68, 0.05)
  await add(page, 'part set', 0.05, 0.6)
  await page.locator('[data-node=partSet1] .name').click()
  await choose(page.getByRole('combobox', { name: 'Set' }), 'Boxes to mend')
  await page.getByRole('button', { name: 'Fit graph' }).click()
  await wire(page, port(page, 'partRandom1', 'out', 'value'), port(page, 'ramp1', 'in', 'value'))
  await wire(page, port(page, 'ramp1', 'out', 'color'), port(page, 'finish1', 'in', 'baseColor'))
  await wire(page, port(page, 'partSet1', 'out', 'value'), port(page, 'finish1', 'in', 'roughness'))
  await wire(page, port(page, 'finish1', 'out', 'finish'), port(page, 'result', 'in', 'finish'))
  await expect(page.locator('.vue-flow__edge')).toHaveCount(4)
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')

  // A name that changes takes the node with it.
  await at(page, 'Part sets')
  await page.getByRole('textbox', { name: 'Name of the part set' }).fill('To mend')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await projectNow(request, project.id)).look.nodes.find(n => n.kind === 'partSet')?.params.set)
    .toBe('To mend')
  await expect(page.getByText('Checks are clear')).toBeVisible()

  const deliveredParts = async () => {
    await page.getByRole('tab', { name: 'Deliver' }).click()
    await page.getByRole('checkbox', { name: /CSV/ }).check()
    const { bytes: table } = await deliverNow(page, request, project.id, '.csv')
    const [head, ...rows] = table
      .toString()
      .trim()
      .split('\r\n')
      .map(line => line.split(','))
    return rows.map(cells => Object.fromEntries(head!.map((name, i) => [name, cells[i]!])))
  }
  const before = await deliveredParts()
  const keysBefore = (await (await request.get(`/api/projects/${project.id}/keys`)).json()) as KeyTable
  // The new export: reordered, jittered, a crate gone, one plank more.
  const changed = [...pier]
    .reverse()
    .filter(p => p.object !== 'Crate left')
    .map((p, i): BoxSpec => ({
      ...p,
      at: p.at.map((x, k) => x + 1e-6 * Math.sin(i * 7 + k)) as [number, number, number],
    }))
  await chooser(page).setInputFiles(
    await glb('pier v2.glb', boxes([...changed, { object: 'Planks', at: [10 * 0.31, 0, 0], size: [0.3, 0.05, 2] }])),
  )
  const dialog = page.getByRole('dialog', { name: 'Replace the mesh' })
  await expect(dialog.locator('[data-test=kept]')).toHaveText('11')
  await expect(dialog).toContainText('Crate left')
  await expect(dialog).toContainText('New 1')
  await dialog.getByRole('button', { name: 'Keep the mesh as it is' }).click()
  expect((await projectNow(request, project.id)).mesh!.name).toBe('pier.glb')
  await chooser(page).setInputFiles(
    await glb('pier v2.glb', boxes([...changed, { object: 'Planks', at: [10 * 0.31, 0, 0], size: [0.3, 0.05, 2] }])),
  )
  await dialog.getByRole('button', { name: 'Replace', exact: true }).click()
  await expect(page.locator('.mesh .file')).toHaveText('pier v2.glb')
  const keysAfter = (await (await request.get(`/api/projects/${project.id}/keys`)).json()) as KeyTable
  const known = new Set(keysBefore.keys)
  expect(keysAfter.keys.filter(k => known.has(k))).toHaveLength(11)
  const after = new Map((await deliveredParts()).map(p => [p.key, p]))
  const kept = before.filter(p => after.has(p.key))
  expect(kept).toHaveLength(11)
  const color = (p: Record<string, string>) => ['r', 'g', 'b'].map(k => p[`baseColor.${k}`]).join()
  for (const p of kept)
    expect([color(after.get(p.key)!), after.get(p.key)!.roughness], p.name).toEqual([color(p), p.roughness])
  expect(new Set(kept.map(color)).size).toBe(11)
  expect(kept.filter(p => Number(p.roughness) === 1)).toHaveLength(2)
})

test('geometry maps are computed with progress, can be stopped, and are there at once the next time', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 4)
  await openProject(page, project.id)
  await at(page, 'Maps')
  await choose(page.getByRole('combobox', { name: 'Refine' }), 'Until edges are short enough')
  const kind = page.getByRole('combobox', { name: 'Kind of geometry map' })
  const state = (name: string) => page.locator(`[data-map="${name}"] [data-test=map-state]`)
  await choose(kind, 'Convexity')
  await page.getByRole('button', { name: 'Add map' }).click()
  await expect(state('convexity')).toHaveText('ready', { timeout: 60_000 })
  // Edges are convex, faces are not; the legend, the histogram and the cursor read the same map.
  await expect(page.locator('[data-test=reading]')).toContainText(/^0 – (1|0\.9\d*)/)
  const box = (await page.locator('.stage canvas').boundingBox())!
  await expect
    .poll(async () => {
      await page.mouse.move(box.x + box.width * (0.3 + 0.4 * Math.random()), box.y + box.height / 2)
      return page
        .locator('[data-test=cursor-value]')
        .textContent({ timeout: 500 })
        .catch(() => '')
    })
    .toMatch(/^[01](\.\d+)? under the cursor/)

  await choose(kind, 'Occlusion')
  await page.getByRole('button', { name: 'Add map' }).click()
  const rays = page.getByRole('spinbutton', { name: 'Rays' })
  await rays.click()
  await rays.fill('1024')
  await rays.press('Enter')
  await expect(state('occlusion').getByRole('progressbar')).toBeVisible({ timeout: 60_000 })
  await state('occlusion').getByRole('button', { name: 'Stop' }).click()
  await expect(state('occlusion')).toContainText('not computed')
  await rays.click()
  await rays.fill('16')
  await rays.press('Enter')
  await expect(state('occlusion')).toHaveText('ready', { timeout: 90_000 })
  await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')

  // The next time nothing is computed: the database has both.
  const answers: number[] = []
  const stored: string[] = []
  page.on('response', r => {
    if (r.url().includes('/api/maps/') && r.request().method() === 'GET') answers.push(r.status())
  })
  page.on('request', r => {
    if (r.url().includes('/api/maps/') && r.method() === 'PUT') stored.push(r.url())
  })
  await page.reload()
  // They come with the mesh: the first picture is not made twice.
  const canvas = page.locator('.stage canvas')
  await expect(canvas).toHaveAttribute('data-picture', /sharp|final/, { timeout: 60_000 })
  const [ever, visible] = await canvas.evaluate((c: HTMLElement) => [Number(c.dataset.ever), Number(c.dataset.visible)])
  expect(visible).toBeGreaterThan(1000)
  expect(ever).toBeLessThanOrEqual(1.05 * visible!)
  await at(page, 'Maps')
  await expect(state('convexity')).toHaveText('ready')
  await expect(state('occlusion')).toHaveText('ready')
  expect(answers).toEqual([200, 200])
  expect(stored).toEqual([])

  // Where they are long in coming, the mesh is there before them.
  let letGo = (): void => {}
  const late = new Promise<void>(resolve => (letGo = resolve))
  await page.route('**/api/maps/**', async route => {
    await late
    await route.continue()
  })
  await page.reload()
  await expect(canvas).toHaveAttribute('data-picture', /sharp|final/, { timeout: 60_000 })
  await at(page, 'Maps')
  await expect(state('convexity')).toContainText('waiting')
  letGo()
  await expect(state('convexity')).toHaveText('ready')
  await expect(state('occlusion')).toHaveText('ready')

  // A map that a node reads keeps its reader through a new name.
  await page.getByRole('tab', { name: 'Build' }).click()
  await add(page, 'vertex map', 0.1, 0.1)
  await page.locator('[data-node=vertexMap1] .name').click()
  await choose(page.getByRole('combobox', { name: 'Map', exact: true }), 'convexity')
  await at(page, 'Maps')
  await page.locator('[data-map=convexity]').getByRole('textbox', { name: 'Name of the map' }).fill('edges')
  await page.keyboard.press('Enter')
  await expect(state('edges')).toHaveText('ready')
  await expect
    .poll(async () => (await projectNow(request, project.id)).look.nodes.find(n => n.kind === 'vertexMap')?.params.map)
    .toBe('edges')
  await page.keyboard.press('Control+z')
  await expect(state('convexity')).toHaveText('ready')
})

test('a part set is picked on the stage: a click puts a part in, another takes it out, and undo goes back', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 1)
  await openProject(page, project.id)
  await at(page, 'Part sets')
  await page.getByRole('button', { name: 'New part set' }).click()
  const members = page.locator('[data-test=members]')
  const box = (await page.locator('.stage canvas').boundingBox())!
  const middle = () => page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
  await page.getByRole('button', { name: 'Pick on the stage' }).click()
  await expect(page.getByText('Click parts to put them in or take them out')).toBeVisible()
  await middle()
  await expect(members).toHaveText('1 part')
  await middle()
  await expect(members).toHaveText('0 parts')
  await middle()
  await expect(members).toHaveText('1 part')
  await page.getByRole('button', { name: 'Done picking' }).click()
  await middle()
  await expect(members).toHaveText('1 part')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(members).toHaveText('0 parts')
})
