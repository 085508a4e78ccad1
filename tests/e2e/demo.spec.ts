import { LaidLook } from '../../core/evaluate/laidLook'
import { expect } from '@playwright/test'
import { decode } from 'fast-png'
import { writeGlb } from '../../core/exchange/writeGlb'
import { lookOf, row, tablesOf, kernels } from '../helpers'
import { moveNodes } from '../../core/graph/edit'
import { floatRack } from '../../demo/floatRack'
import { floatRackLook } from '../../demo/floatRackLook'
import { partValues } from '../../core/bake/values'
import { deliveredGlb } from '../delivered'
import { alone, test } from './day'
import { newProject, openProject, rested, seenByLoader, serious } from './support'

test('the demo opens with varied floats on the stage', async ({ page, request }) => {
  const { id } = (await (await request.post('/api/demo', { data: {} })).json()) as { id: string }
  await openProject(page, id)
  await expect(page.getByText('386 parts')).toBeVisible()
  await expect(page.getByText('Checks are clear')).toBeVisible()
  await expect(page.locator('.card')).toHaveCount(floatRackLook().nodes.length)
  await page.getByText('Base color', { exact: true }).first().click()
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final', { timeout: 60_000 })
  const { data, channels } = decode(await page.locator('.stage canvas').screenshot())
  // Floats differ: many clearly different hues among the saturated pixels.
  const hues = new Set<number>()
  for (let i = 0; i < data.length; i += channels) {
    const [r, g, b] = [Number(data[i]), Number(data[i + 1]), Number(data[i + 2])]
    const high = Math.max(r, g, b)
    const low = Math.min(r, g, b)
    if (high - low < 50) continue
    const notRed = high === g ? 2 + (b - r) / (high - low) : 4 + (r - g) / (high - low)
    const h = high === r ? (g - b) / (high - low) : notRed
    hues.add(Math.round(((h + 6) % 6) * 6))
  }
  expect(hues.size).toBeGreaterThan(8)

  // The part under the cursor and its values are in the foot line.
  const box = (await page.locator('.stage canvas').boundingBox())!
  let tries = 0
  await expect
    .poll(
      async () => {
        const told = await page.locator('footer').textContent()
        if (!told?.includes('metal'))
          await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * (0.08 + 0.02 * (tries++ % 6)))
        return told
      },
      { timeout: 60_000, intervals: [250] },
    )
    .toContain('metal')
  await expect(page.locator('footer')).toContainText(/(Rack|String \d)\/\d+ #[0-9a-f]{6} metal 0\.00 rough 0\.\d\d/)
  expect(await serious(page)).toEqual([])
})

test('another program sees in the delivery the color that the table gives each float', async ({ page }) => {
  const { mesh } = floatRack()
  const tables = tablesOf(mesh)
  const look = floatRackLook()
  const rows = partValues(LaidLook.of(kernels, tables, look), look)
  const glb = await deliveredGlb(mesh, look, { size: 1024 })
  const seen = await seenByLoader(page, glb)
  expect(seen.map(s => s.object)).toEqual(mesh.objects.map(o => o.name.replace(' ', '_')))
  const sums = tables.parts.parts.map(() => ({ area: 0, color: [0, 0, 0], roughness: 0 }))
  const areaOf = (t: number) => {
    const [a, b, c] = [0, 1, 2].map(k =>
      mesh.positions.subarray(mesh.indices[t * 3 + k]! * 3, mesh.indices[t * 3 + k]! * 3 + 3),
    ) as [Float32Array, Float32Array, Float32Array]
    const u = [0, 1, 2].map(k => b[k]! - a[k]!) as [number, number, number]
    const v = [0, 1, 2].map(k => c[k]! - a[k]!) as [number, number, number]
    return Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2
  }
  seen.forEach((s, o) =>
    s.texels.forEach(({ triangle, color, roughness }) => {
      const t = triangle + mesh.objects[o]!.firstTriangle
      const sum = sums[tables.parts.partOfTriangle[t]!]!
      const area = areaOf(t)
      sum.area += area
      sum.roughness += roughness * area
      color.forEach((x, k) => {
        sum.color[k]! += x * area
      })
    }),
  )
  const glass = mesh.maps.find(m => m.name === 'glass')!.values
  const floats = rows.map((r, p) => ({ r, p })).filter(({ p }) => glass[tables.parts.partOfVertex.indexOf(p)] === 1)
  expect(floats).toHaveLength(120)
  for (const { r, p } of floats) {
    r.channels.baseColor.forEach((x, k) =>
      expect(Math.abs(sums[p]!.color[k]! / sums[p]!.area - x), r.name).toBeLessThan(0.012),
    )
    expect(Math.abs(sums[p]!.roughness / sums[p]!.area - r.channels.roughness[0]!), r.name).toBeLessThan(0.03)
  }
})

alone('no screen has a serious accessibility finding, in either theme', async ({ page, request }) => {
  const project = await newProject(request, 'Axe')
  const mesh = row(3)
  mesh.maps.push({
    name: 'salt',
    components: 1,
    values: Float32Array.from({ length: mesh.positions.length / 3 }, (_, i) => i % 7),
  })
  await request.put(`/api/projects/${project.id}/mesh?name=boxes.glb`, {
    data: Buffer.from(await writeGlb(mesh, 'boxes')),
  })
  const look = lookOf(
    { random: ['partRandom'], ramp: ['ramp'], noise: ['noise'], map: ['vertexMap'], finish: ['finish'] },
    [
      'random.value > ramp.value',
      'ramp.color > finish.baseColor',
      'noise.value > finish.roughness',
      'finish.finish > result.finish',
    ],
  )
  const spread = moveNodes(
    look,
    new Map(look.nodes.map((n, i) => [n.id, [(i % 3) * 220, Math.floor(i / 3) * 220] as const])),
  )
  await request.put(`/api/projects/${project.id}/look`, { data: { base: 1, look: spread } })
  for (const theme of ['light', 'dark']) {
    await page.addInitScript(t => localStorage.setItem('ubblet-theme', t), theme)
    await page.goto('/')
    await expect(page.locator('.cards li').first()).toBeVisible()
    expect(await serious(page), `home, ${theme}`).toEqual([])
    await openProject(page, project.id)
    for (const node of ['ramp1', 'noise1', 'vertexMap1', 'finish1']) {
      await page.locator(`[data-node=${node}] .name`).click()
      await expect(page.locator('.panel .title')).toBeVisible()
      expect(await serious(page), `${node}, ${theme}`).toEqual([])
    }
    await page.keyboard.press('a')
    await expect(page.getByRole('option').first()).toBeVisible()
    expect(await serious(page), `menu, ${theme}`).toEqual([])
    await page.keyboard.press('Escape')
    await page.getByRole('tab', { name: 'Mesh' }).click()
    await page.keyboard.press('u')
    for (const name of ['Report', 'Levels', 'Part table', 'Part sets', 'Maps']) {
      await page
        .getByRole('navigation', { name: 'Parts of the preparation' })
        .getByRole('button', { name, exact: true })
        .click()
      if (name === 'Part table') await page.getByRole('grid', { name: 'Parts' }).getByRole('row').nth(1).click()
      if (name === 'Maps') await page.getByRole('button', { name: 'Show salt on the stage' }).click()
      if (name === 'Part sets') await page.getByRole('button', { name: 'From the selection' }).click()
      await rested(page)
      expect(await serious(page), `Mesh, ${name}, ${theme}`).toEqual([])
    }
    await page.getByRole('tab', { name: 'Compare' }).click()
    await page.getByRole('listbox', { name: 'Rolls of the draws' }).press('s')
    expect(await serious(page), `Compare, ${theme}`).toEqual([])
    await page.getByRole('tab', { name: 'Deliver' }).click()
    expect(await serious(page), `Deliver, ${theme}`).toEqual([])
  }
})
