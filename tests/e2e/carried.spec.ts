import { expect, test } from '@playwright/test'
import { squares, texture } from '../squares'
import { newProject, projectNow } from './support'

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
  await page.addInitScript(() => localStorage.setItem('ubblet has been here', 'true'))
  await page.goto(`/project/${project.id}`)
  await page
    .getByLabel('Mesh files')
    .setInputFiles({ name: 'tiles.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) })
  await expect(page.getByRole('row', { name: /Coat A .* base color/ })).toBeVisible()
  await page.getByRole('button', { name: 'Start from these materials' }).click()

  // What it left out is told, and the look is shown, whole and drawn.
  await expect(page.locator('[data-slot=description]')).toContainText('normal picture of "Coat C" was left out')
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
