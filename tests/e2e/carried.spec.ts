import { expect } from '@playwright/test'
import type { DenseSetup } from '../../core/dense/setup'
import { exrPicture } from '../../core/exchange/readExr'
import { readPicture } from '../../core/evaluate/pictures'
import { writeGlb } from '../../core/exchange/writeGlb'
import type { Mesh } from '../../core/mesh/mesh'
import { boxes } from '../helpers'
import { HEIGHT, squares, texels, texture, WIDTH } from '../squares'
import { test } from './day'
import { enter, newProject, projectNow, serious } from './support'

// What a mesh brings along: its materials, and their pictures.

test('the look begins with the materials of the file, pictures included, and one undo takes them away', async ({
  page,
  request,
}) => {
  const bytes = await squares([
    (m, d) => m.setBaseColorTexture(texture(d)).setMetallicFactor(0),
    m => m.setBaseColorFactor([0.7, 0.1, 0.05, 1]).setMetallicFactor(1).setRoughnessFactor(0.25),
    (m, d) => m.setNormalTexture(texture(d)),
  ])
  const project = await newProject(request, 'Carried along')
  await enter(page, project.id)
  await page
    .getByLabel('Mesh files')
    .setInputFiles({ name: 'tiles.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) })
  await expect(page.getByRole('row', { name: /Coat A .* base color/ })).toBeVisible()
  await page.getByRole('button', { name: 'Start from these materials' }).click()

  // What it left out is told, and the look is shown, whole and drawn.
  await expect(page.locator('[data-slot=description]')).toContainText(
    'Its pictures of normals were left out. Its UVs overlap',
  )
  const steps = page.getByRole('region', { name: 'Steps', exact: true })
  await expect(steps).toContainText('Coat A')
  await expect(steps).toContainText('Coat B')
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })
  await expect(page.locator('.card').first()).toBeInViewport()
  await expect(page.locator('.card').last()).toBeInViewport()
  const kept = async () => (await projectNow(request, project.id)).look.nodes.map(n => n.kind).sort()
  await expect
    .poll(kept)
    .toEqual(['finish', 'finish', 'finish', 'layer', 'layer', 'partSet', 'partSet', 'picture', 'result'])
  const pictures = (await (await request.get(`/api/projects/${project.id}/pictures`)).json()) as { name: string }[]
  expect(pictures.map(p => p.name)).toEqual(['Coat A base color.png'])

  await page.getByRole('button', { name: 'Undo' }).last().click()
  await expect.poll(kept).toEqual(['result'])
})

test("a picture of normals of the file becomes what the look lies on, through the browser's own MikkTSpace", async ({
  page,
  request,
}) => {
  const bytes = await squares([(m, d) => m.setNormalTexture(texture(d))])
  const project = await newProject(request, 'Normals of the file')
  await enter(page, project.id)
  await page
    .getByLabel('Mesh files')
    .setInputFiles({ name: 'tile.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) })
  await page.getByRole('button', { name: 'Start from these materials' }).click()
  await expect(page.locator('[data-slot=description]')).toContainText('All that the file says')
  await expect.poll(async () => (await projectNow(request, project.id)).preparation.normals).toBe('file normals.exr')
  const kept = (await (await request.get(`/api/projects/${project.id}/pictures`)).json()) as {
    name: string
    hash: string
  }[]
  const { hash } = kept.find(p => p.name === 'file normals.exr')!
  const file = await (await request.get(`/api/projects/${project.id}/pictures/${hash}`)).body()
  const normals = exrPicture('n.exr', file)
  // The square lies in the plane of X and Y, right and upright: its tangent space is the world's.
  const n = [0, 1, 2].map(k => (texels[(1 * WIDTH + 2) * 4 + k]! / 255) * 2 - 1)
  const reading = { linear: true, across: 'edge', down: 'edge', nearest: true } as const
  n.forEach((x, k) =>
    expect(readPicture(normals, k, reading, 2.5 / WIDTH, 1.5 / HEIGHT)).toBeCloseTo(x / Math.hypot(...n), 2),
  )
})

test('detail is taken from a dense mesh, the look lies on its normals, and what does not fit is told', async ({
  page,
  request,
}) => {
  // A day's work with a dense mesh: taken four times, and the page opened anew in between.
  test.setTimeout(240_000)
  const grown = (size: number, scale = 1): Mesh => {
    const mesh = boxes(
      [0, 1, 2].map(i => ({
        object: `box ${i}`,
        at: [i * 2, 0, 0] as [number, number, number],
        size: [size, size, size],
      })),
    )
    return { ...mesh, positions: mesh.positions.map(x => x * scale) }
  }
  const glb = async (name: string, mesh: Mesh) => ({
    name,
    mimeType: 'model/gltf-binary',
    buffer: Buffer.from(await writeGlb(mesh, 'own')),
  })
  const project = await newProject(request, 'Dense and light')
  await enter(page, project.id)
  await page.getByLabel('Mesh files').setInputFiles(await glb('light.glb', grown(1)))
  await page.getByRole('button', { name: 'Detail', exact: true }).click()
  const dense = page.getByLabel('Dense mesh file')

  // What does not fit is told, and mended where it can be.
  await dense.setInputFiles({
    name: 'broken.glb',
    mimeType: 'model/gltf-binary',
    buffer: Buffer.from('glTF and no more'),
  })
  await expect(page.getByRole('alert').filter({ hasText: 'broken.glb' })).toContainText('not a GLB file')
  await dense.setInputFiles(await glb('millimeters.glb', grown(1.02, 1000)))
  await expect(page.getByText(/times as large as this mesh/)).toBeVisible()
  await page.getByRole('button', { name: /^Read it in units that fit/ }).click()
  await expect(page.getByText(/times as large as this mesh/)).toBeHidden()
  await expect(page.getByText('36 triangles, 3 parts')).toBeVisible()

  // Work that is stopped leaves nothing behind, and the dense mesh is there again.
  const texelsOf = async (size: string) => {
    await page.getByRole('combobox', { name: 'Texels of a tile' }).click()
    await page.getByRole('option', { name: `${size} × ${size}` }).click()
  }
  const names = async () =>
    ((await (await request.get(`/api/projects/${project.id}/pictures`)).json()) as { name: string }[])
      .map(p => p.name)
      .sort()
  await texelsOf('4096')
  await page.getByRole('button', { name: 'Take it' }).click()
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByText('36 triangles, 3 parts')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Take it' })).toBeEnabled()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeHidden()
  await expect(page.getByRole('alert')).toHaveCount(0)
  expect(await names()).toEqual([])
  await texelsOf('256')
  await page.getByRole('checkbox', { name: /^Found/ }).click()
  expect(await serious(page)).toEqual([])
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.getByText(/^100.* % of the texels met the dense mesh/)).toBeVisible({ timeout: 60_000 })
  expect(await names()).toEqual(['dense found.exr', 'dense height.exr', 'dense normal.exr'])
  const result = async () => (await projectNow(request, project.id)).look.nodes.find(n => n.kind === 'result')
  await expect.poll(async () => (await result())?.params.normals).toBe('dense normal.exr')

  // Nothing is done twice: what is there from the same meshes and settings stays as it is.
  await expect.poll(async () => (await result())?.params.heights).toBe('dense height.exr')
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.getByText('All of it was there already, from the same meshes and settings.')).toBeVisible()

  // A surface map is looked at like any other: on the stage, in figures, in the layout.
  const map = page.getByRole('listitem').filter({ hasText: 'dense height.exr' })
  await map.getByRole('button', { name: 'Show on the stage' }).click()
  await expect(page.locator('[data-test=reading]')).toContainText('mean 10')
  await expect(page.getByRole('img', { name: /^Histogram by area: dense height.exr/ })).toBeVisible()
  const canvas = (await page.locator('.stage canvas').boundingBox())!
  await page.mouse.move(canvas.x + canvas.width / 2, canvas.y + canvas.height / 2)
  await expect(page.locator('[data-test=cursor-value]')).toContainText('10 under the cursor')
  await map.getByRole('button', { name: 'Do not show it' }).click()

  // Whom a dense part belongs to is decided by hand where that is better, and stays with the project.
  const partners = page.getByRole('region', { name: 'Partners' })
  await expect(partners).toContainText('3 parts of the dense mesh belong to a part here')
  await partners.getByRole('combobox', { name: 'Whom box 1 belongs to' }).click()
  await page.getByRole('option', { name: 'To nobody' }).click()
  await expect(partners).toContainText('2 parts of the dense mesh belong to a part here, 1 to none')
  await partners.getByRole('button', { name: 'Select what found nothing' }).click()
  const choice = page.getByRole('region', { name: 'What is shown and selected' })
  await expect(choice.getByText('1 part selected')).toBeVisible()
  await partners.getByRole('button', { name: 'Show on the stage' }).click()
  await expect(choice).toContainText('Parts in gray found nothing of the dense mesh')

  // The selected part has a cage of its own.
  const own = page.getByRole('spinbutton', { name: 'Outward, theirs' })
  await own.fill('50')
  await own.press('Enter')
  await page.getByRole('checkbox', { name: /^Show the cage on the stage/ }).click()
  await expect(page.getByText('1 part has a cage of its own.')).toBeVisible()
  const setup = async () => {
    const answer = await request.get(`/api/projects/${project.id}/dense`)
    return ((await answer.json()) as { dense: { setup: DenseSetup } }).dense.setup
  }
  await expect.poll(async () => Object.values((await setup()).cages)[0]?.outward).toBe(0.05)
  expect(Object.values((await setup()).given)).toEqual([''])
  await page.reload()
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await page.getByRole('button', { name: 'Detail', exact: true }).click()
  await expect(page.getByText('36 triangles, 3 parts')).toBeVisible()
  await expect(page.getByText(/kept with the project/)).toBeVisible()
  await expect(partners).toContainText('1 to none')
  await expect(page.getByText('1 part has a cage of its own.')).toBeVisible()
  await partners.getByRole('combobox', { name: 'Whom box 1 belongs to' }).click()
  await page.getByRole('option', { name: 'By itself' }).click()
  await expect(partners).toContainText('3 parts of the dense mesh belong to a part here')
  await page.getByRole('button', { name: 'Select it', exact: true }).click()
  await page.getByRole('button', { name: 'Back to that of the whole mesh' }).click()
  await expect(page.getByText('1 part has a cage of its own.')).toBeHidden()

  // The look is drawn as soon as the Mesh tab is left, and a picture of numbers goes into the graph.
  await page.getByRole('tab', { name: 'Build' }).click()
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await page.getByRole('button', { name: 'Detail', exact: true }).click()
  const height = page.getByRole('listitem').filter({ hasText: 'dense height.exr' })
  await height.getByRole('button', { name: 'Add to the graph' }).click()
  await expect(page.locator('[data-node=picture1]')).toBeVisible()
  await expect(page.locator('[data-node=picture1]')).toContainText('Picture')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await result())?.params.normals).toBe('dense normal.exr')
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await page.getByRole('button', { name: 'Detail', exact: true }).click()
  await page.getByRole('button', { name: /^Take convexity and concavity/ }).click()
  await expect.poll(names).toContain('dense normal convexity.exr')
  await page.getByRole('combobox', { name: 'Normals that the look lies on' }).click()
  await page.getByRole('option', { name: "The mesh's own" }).click()
  await expect.poll(async () => (await result())?.params.normals).toBeUndefined()

  // With a cage too narrow the stage shows in red what went astray, and its shares are told in numbers.
  await page.getByRole('tab', { name: 'Mesh' }).click()
  await page.getByRole('button', { name: 'Detail', exact: true }).click()
  const outward = page.getByRole('spinbutton', { name: 'Outward', exact: true })
  await outward.fill('0.01')
  await outward.press('Enter')
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.getByText(/^0.* % of the texels met the dense mesh/)).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Show in red where' }).click()
  const shown = page.getByRole('region', { name: 'What is shown and selected' })
  await expect(shown.getByRole('listitem')).toHaveCount(3)
  await expect(shown.getByRole('listitem').first()).toContainText('100 %')
  await shown.getByRole('listitem').first().getByRole('button').click()
  await expect(shown.getByText('1 part selected')).toBeVisible()
  await shown.getByRole('button', { name: 'Show the parts again' }).click()
  await expect(shown).toContainText('Each part has a color of its own')
})
