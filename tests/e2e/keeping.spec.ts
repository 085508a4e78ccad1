import { writeFile } from 'node:fs/promises'
import { expect } from '@playwright/test'
import { addNode, setParam } from '../../core/graph/edit'
import { emptyLook } from '../../core/graph/look'
import { writeGlb } from '../../core/exchange/writeGlb'
import { row } from '../helpers'
import { test, visit } from './day'
import { ADDRESS } from './seenWith'
import { add, boxProject, choose, deliverNow, newProject, openProject, projectNow } from './support'

test.describe('the home page', () => {
  test('makes, renames, duplicates, removes and brings back projects', async ({ page, request }) => {
    const name = `Pier ${Date.now()}`
    await newProject(request, name)
    await visit(page, '/')
    const card = page.locator('.cards li').filter({ hasText: name })
    await expect(card).toContainText('No mesh yet')
    await page.getByRole('button', { name: `More for ${name}` }).click()
    await page.getByRole('menuitem', { name: 'Duplicate' }).click()
    await expect(page.locator('.cards li').filter({ hasText: `${name} (copy)` })).toBeVisible()
    await page.getByRole('button', { name: `More for ${name} (copy)` }).click()
    await page.getByRole('menuitem', { name: 'Rename' }).click()
    await page.getByRole('textbox', { name: 'Name of the project' }).fill(`${name} second`)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('link', { name: `${name} second`, exact: true })).toBeVisible()
    await page.getByRole('button', { name: `More for ${name} second` }).click()
    await page.getByRole('menuitem', { name: 'Remove' }).click()
    await expect(page.getByRole('link', { name: `${name} second`, exact: true })).toBeHidden()
    await page.getByRole('button', { name: /^Removed/ }).click()
    await page
      .locator('.removed li')
      .filter({ hasText: `${name} second` })
      .getByRole('button', { name: 'Bring back' })
      .click()
    await expect(page.getByRole('link', { name: `${name} second`, exact: true })).toBeVisible()
  })

  test('says that the server does not answer, and tries again', async ({ page }) => {
    await page.route('**/api/projects', route => route.abort())
    await visit(page, '/')
    await expect(page.getByRole('alert')).toContainText('The server does not answer.')
    await page.unroute('**/api/projects')
    await page.getByRole('button', { name: 'Try again' }).click()
    await expect(page.getByRole('alert')).toBeHidden()
  })
})

test.describe('saving', () => {
  test('tells the second window, and loses neither state', async ({ page, request }) => {
    const project = await boxProject(request, 2)
    await openProject(page, project.id)
    // Somebody else saves first.
    const theirs = addNode(project.look, 'noise', [300, 400]).look
    expect(
      (await request.put(`/api/projects/${project.id}/look`, { data: { base: project.revision, look: theirs } })).ok(),
    ).toBe(true)
    await add(page, 'plain color', 0.1, 0.1)
    await expect(page.getByRole('alert')).toContainText('saved in another window')
    expect((await projectNow(request, project.id)).look).toEqual(theirs)
    await page.getByRole('button', { name: /Take the other/ }).click()
    await expect(page.locator('[data-node=noise1]')).toBeVisible()
    await expect(page.locator('[data-node=color1]')).toBeHidden()
    await page.keyboard.press('Control+z')
    await expect(page.locator('[data-node=color1]')).toBeVisible()
    await expect
      .poll(async () => (await projectNow(request, project.id)).look.nodes.map(n => n.id))
      .toEqual(['result', 'color1'])
  })

  test('goes on without the server and saves when it is back', async ({ page, request }) => {
    const project = await boxProject(request, 2)
    await openProject(page, project.id)
    await page.route('**/look?*', route => route.abort())
    await add(page, 'plain color', 0.1, 0.1)
    await expect(page.locator('[data-test=save-state]')).toContainText('The server does not answer')
    await add(page, 'clouds', 0.1, 0.6)
    await expect(page.locator('.card')).toHaveCount(3)
    await page.unroute('**/look?*')
    await expect(page.locator('[data-test=save-state]')).toHaveText('All saved')
    expect((await projectNow(request, project.id)).look.nodes).toHaveLength(3)
  })
})

test.describe('bringing a mesh in', () => {
  const glb = async (n: number) => ({
    name: 'own.glb',
    mimeType: 'model/gltf-binary',
    buffer: Buffer.from(await writeGlb(row(n), 'own')),
  })
  test('shows its parts, and keeps the project as it was when a file is broken', async ({ page, request }, info) => {
    const project = await newProject(request, 'Own mesh')
    await visit(page, `/project/${project.id}`)
    await expect(page.getByRole('heading', { name: 'Bring in a mesh' })).toBeVisible()
    const chooser = page.getByLabel('Mesh files')
    await chooser.setInputFiles(await glb(4))
    await expect(page.locator('[data-test=parts]')).toHaveText('4')
    const good = (await projectNow(request, project.id)).mesh

    const whole = (await glb(3)).buffer
    const broken: [string, Buffer, RegExp][] = [
      ['notes.glb', Buffer.from('a shopping list, saved under the wrong name'), /notes\.glb: This is not a GLB file/],
      ['half.glb', whole.subarray(0, whole.length >> 1), /half\.glb: The file is cut off/],
      ['zeros.glb', Buffer.alloc(40 * 1024 * 1024), /zeros\.glb: This is not a GLB file/],
    ]
    for (const [name, bytes, message] of broken) {
      // A file of the disk, as an artist's: bytes of a test would be carried to the browser as text.
      const path = info.outputPath(name)
      await writeFile(path, bytes)
      await chooser.setInputFiles(path)
      await expect(page.getByRole('alert')).toContainText(message)
      await expect(page.locator('[data-test=parts]')).toHaveText('4')
    }
    expect((await projectNow(request, project.id)).mesh).toEqual(good)
    // The server, asked directly, says the same: also of 300 MB of zeros.
    const put = (bytes: Uint8Array) =>
      fetch(`${ADDRESS}/api/projects/${project.id}/mesh?name=../../etc/x.glb`, {
        method: 'PUT',
        body: new Uint8Array(bytes),
        headers: { 'content-type': 'application/octet-stream' },
      })
    for (const bytes of [Buffer.alloc(300 * 1024 * 1024), Buffer.from('text'), whole.subarray(0, 600)]) {
      const answer = await put(bytes)
      expect(answer.status).toBe(422)
      expect(((await answer.json()) as { message: string }).message).toMatch(
        /^(This is not a GLB file|The file is cut off)/,
      )
    }
    expect((await projectNow(request, project.id)).mesh).toEqual(good)
    expect((await put(whole)).status).toBe(200)
    expect((await projectNow(request, project.id)).mesh!.name).toBe('.._.._etc_x.glb')
  })

  test('says that a mesh without UVs takes no textures, and delivers vertex colors', async ({ page, request }) => {
    const project = await newProject(request, 'Bare')
    const { uvs: _, ...bare } = row(3)
    await visit(page, `/project/${project.id}`)
    await page.getByLabel('Mesh files').setInputFiles({
      name: 'bare.glb',
      mimeType: 'model/gltf-binary',
      buffer: Buffer.from(await writeGlb(bare, 'bare')),
    })
    await expect(page.getByText('There are no UVs on all of the mesh.')).toBeVisible()
    await page.getByRole('tab', { name: 'Deliver' }).click()
    await expect(page.getByRole('alert')).toContainText('Textures need UVs')
    await expect(page.getByRole('button', { name: 'Deliver', exact: true })).toBeDisabled()
    await page.getByRole('button', { name: 'Put colors on the vertices' }).click()
    const { bytes } = await deliverNow(page, request, project.id, '.glb')
    const json = bytes.subarray(20, 20 + bytes.readUInt32LE(12)).toString()
    expect(json).toContain('COLOR_0')
    expect(json).not.toContain('Texture')
    // Or the mesh gets UVs, and what was chosen leaves as it was.
    await choose(page.getByRole('combobox', { name: 'Base color goes into' }), 'A texture')
    await page.getByRole('button', { name: 'Make UVs' }).click()
    await page.getByRole('button', { name: 'Replace', exact: true }).click()
    await expect(page.getByRole('button', { name: 'Deliver', exact: true })).toBeEnabled()
    expect((await projectNow(request, project.id)).mesh!.name).toContain('unwrapped')
  })
})

test.describe('the server', () => {
  test('answers only its own pages', async ({ request }) => {
    const get = (headers: Record<string, string>) => request.get('/api/projects', { headers }).then(r => r.status())
    expect(await get({})).toBe(200)
    expect(await get({ origin: 'http://elsewhere.example' })).toBe(403)
    expect(await get({ host: 'elsewhere.example' })).toBe(403)
    expect(await get({ 'sec-fetch-site': 'cross-site' })).toBe(403)
  })

  test('checks what it is given', async ({ request }) => {
    const project = await newProject(request)
    const at = `/api/projects/${project.id}`
    const status = async (method: 'get' | 'put' | 'post' | 'patch' | 'delete', url: string, data?: unknown) =>
      (await request[method](url, data === undefined ? {} : { data })).status()
    expect(await status('get', '/api/projects/..%2F..%2Fetc%2Fpasswd')).toBe(404)
    expect(await status('get', '/api/projects/00000000-0000-4000-8000-000000000000')).toBe(404)
    expect(await status('post', '/api/projects', { name: '' })).toBe(400)
    expect(await status('post', '/api/projects', { name: 'x', path: '/etc' })).toBe(400)
    expect(await status('patch', at, { removed: true })).toBe(400)
    expect(await status('put', `${at}/look`, { base: 1, look: { hello: 1 } })).toBe(400)
    expect(await status('put', `${at}/look`, 'not json')).toBe(400)
    expect(await status('put', `${at}/look`, { base: 0, look: emptyLook() })).toBe(400)
    expect(await status('put', `${at}/thumbnail`, 'not a picture')).toBe(422)
    expect((await projectNow(request, project.id)).revision).toBe(1)
  })

  test('answers a stale save with 409 and keeps what is there', async ({ request }) => {
    const project = await newProject(request)
    const put = (base: number, value: number) =>
      request.put(`/api/projects/${project.id}/look`, {
        data: { base, look: setParam(addNode(emptyLook(), 'value', [0, 0]).look, 'value1', 'value', value) },
      })
    const all = await Promise.all([put(1, 1), put(1, 2), put(1, 3)])
    expect(all.map(r => r.status()).sort()).toEqual([200, 409, 409])
    const stale = all.find(r => r.status() === 409)!
    expect(((await stale.json()) as { data: unknown }).data).toEqual({ revision: 2 })
    expect((await put(2, 4)).status()).toBe(200)
    const now = await projectNow(request, project.id)
    expect([now.revision, now.look.nodes[1]!.params.value]).toEqual([3, 4])
  })

  test('keeps a removed project out of reach until it is brought back', async ({ request }) => {
    const project = await newProject(request)
    const at = `/api/projects/${project.id}`
    await request.delete(at)
    expect((await request.get(at)).status()).toBe(404)
    expect((await request.patch(at, { data: { removed: false } })).status()).toBe(200)
    expect((await request.get(at)).status()).toBe(200)
  })
})
