// Takes the pictures of docs/screenshots from the demo, in a server and a database of their own.
import { spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { build, chromium } from './lib.mjs'

build()
const { chromium: browserType } = await import('@playwright/test')
const port = 4398, address = `http://127.0.0.1:${port}`
const server = spawn(process.execPath, ['.output/server/index.mjs'], { stdio: 'ignore', env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), UBBLET_DATABASE: `file:${join(mkdtempSync(join(tmpdir(), 'ubblet-shots-')), 's.db')}` } })
try {
  for (let i = 0; i < 100 && !await fetch(`${address}/api/projects`).then(r => r.ok, () => false); i++) await wait(100)
  const post = async (path, body = {}) => (await fetch(address + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })).json()
  const { id } = await post('/api/demo')
  const browser = await browserType.launch({ executablePath: chromium(), args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist', '--disable-background-networking', '--no-first-run', '--disable-quic'] })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  page.setDefaultTimeout(180_000)
  const shot = async (name) => {
    await wait(2500)
    await page.screenshot({ timeout: 180_000, path: `docs/screenshots/${name}.png` })
  }
  await page.goto(`${address}/project/${id}`)
  await page.locator('.card').first().waitFor()
  await wait(5000)
  await page.locator('[data-node=glassColors] .name').click()
  await shot('workbench')
  await page.locator('[data-node=salt] .name').click()
  await shot('settings')
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await shot('deliver')
  await page.getByRole('tab', { name: 'Build' }).click()
  await page.getByRole('button', { name: 'Dark theme' }).click()
  await page.getByText('Base color', { exact: true }).first().click()
  await page.locator('[data-node=glassDrift] .name').click()
  await shot('channel-dark')
  await page.getByRole('button', { name: 'Light theme' }).click()
  const projects = await (await fetch(`${address}/api/projects`)).json()
  const mesh = async (file, section) => {
    await page.goto(`${address}/project/${projects.find(p => p.mesh.name === file).id}`)
    await page.locator('.card').first().waitFor({ timeout: 60_000 })
    await page.getByRole('tab', { name: 'Mesh' }).click()
    await page.getByRole('navigation', { name: 'Parts of the preparation' }).getByRole('button', { name: section, exact: true }).click()
  }
  await mesh('kiosk-roof.glb', 'Report')
  await shot('mesh')
  await mesh('mooring-winch.glb', 'Part table')
  await page.getByText('Groups', { exact: true }).click()
  await page.getByRole('columnheader', { name: 'Volume' }).getByRole('button').click()
  await page.getByRole('grid').getByRole('row').nth(4).click()
  await page.getByRole('button', { name: 'Grow to neighbors' }).click()
  await shot('parts')
  await page.getByRole('navigation', { name: 'Parts of the preparation' }).getByRole('button', { name: 'Maps' }).click()
  await page.locator('[data-map=occlusion] [data-test=map-state]').filter({ hasText: 'ready' }).waitFor({ timeout: 300_000 })
  await page.getByRole('button', { name: 'Clear', exact: true }).click()
  await page.getByRole('button', { name: 'Show edges on the stage' }).click()
  await shot('maps')
  await mesh('kiosk-roof.glb', 'Maps')
  await page.locator('[data-map=occlusion] [data-test=map-state]').filter({ hasText: 'ready' }).waitFor({ timeout: 300_000 })
  await page.getByRole('button', { name: 'Show occlusion on the stage' }).click()
  await page.getByRole('button', { name: 'UV layout' }).click()
  await shot('uvs')
  await page.getByRole('tab', { name: 'Build' }).click()
  await shot('kiosk')
  await mesh('mooring-winch.glb', 'Maps')
  await page.getByRole('tab', { name: 'Build' }).click()
  await shot('winch')
  /** A second look: its geometry maps are known by now, what is gathered for the stage may take a while. */
  const second = async (words, name, node) => {
    await page.goto(`${address}/project/${projects.find(p => p.name.includes(words)).id}`)
    await page.locator('.card').first().waitFor({ timeout: 60_000 })
    await wait(20_000)
    await page.locator('.lagging').waitFor({ state: 'detached', timeout: 120_000 })
    await page.locator(`[data-node=${node}] .name`).click()
    await wait(8000)
    await shot(name)
  }
  await second('moss', 'moss', 'mossCover')
  await second('blue', 'coats', 'chips')
  await second('lamps', 'lamps', 'glassColors')
  await page.goto(`${address}/project/${id}`)
  await page.locator('.card').first().waitFor()
  await page.getByText('Finished', { exact: true }).click()
  await wait(1500)
  await page.getByRole('link', { name: 'All projects' }).click()
  await page.locator('.cards img').first().waitFor()
  await shot('home')
  await browser.close()
}
finally {
  server.kill()
}
