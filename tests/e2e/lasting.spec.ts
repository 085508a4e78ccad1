import { expect, type Page, type Worker } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { addNode, setParam } from '../../core/graph/edit'
import { emptyLook, type Look } from '../../core/graph/look'
import { addStep, stripOf } from '../../core/graph/strip'
import { writeGlb } from '../../core/exchange/writeGlb'
import { endAll, newFolder, Server } from '../builtServer'
import { row } from '../helpers'
import { alone, test, visit } from './day'
import { add, boxProject, enter, openProject, projectNow, serious } from './support'

const saveState = (page: Page) => page.locator('[data-test=save-state]')
const card = (page: Page, node: string) => page.locator(`[data-node=${node}]`)
test.afterAll(endAll)

test.describe('what could not be saved', () => {
  alone(
    "is kept by the browser with the server's own reason, is warned of, and saved when the project is opened again",
    async ({ page, context, request }) => {
      const project = await boxProject(request, 2)
      await openProject(page, project.id)
      const sentence = 'The disk of the server is full. Nothing was changed; free some room and try again.'
      await context.route('**/look?*', route =>
        route.fulfill({
          status: 507,
          contentType: 'application/json',
          body: JSON.stringify({ statusCode: 507, message: sentence, fault: 'full' }),
        }),
      )
      await add(page, 'plain color', 0.1, 0.1)
      await expect(saveState(page)).toContainText('The disk of the server is full.')
      await expect(saveState(page)).toContainText('Your work is kept here')
      await add(page, 'clouds', 0.1, 0.6)
      await expect(page.locator('.card')).toHaveCount(3)
      const warned = new Promise<string>(resolve => {
        page.once('dialog', dialog => {
          resolve(dialog.type())
          void dialog.accept()
        })
      })
      // Requests that are held for a page that closes would be let through.
      await context.setOffline(true)
      await context.unroute('**/look?*')
      await page.close({ runBeforeUnload: true })
      expect(await warned).toBe('beforeunload')
      await expect.poll(() => page.isClosed()).toBe(true)
      expect((await projectNow(request, project.id)).look.nodes).toHaveLength(1)

      await context.setOffline(false)
      const next = await context.newPage()
      await openProject(next, project.id)
      await expect(next.getByText('kept by this browser and are here again')).toBeVisible()
      await expect(next.locator('.card')).toHaveCount(3)
      await expect.poll(async () => (await projectNow(request, project.id)).look.nodes.length).toBe(3)
      // Once it is saved it is not kept any longer.
      await expect(saveState(next)).toHaveText('All saved')
      await next.reload()
      await expect(next.locator('.card')).toHaveCount(3)
      await expect(next.getByText('kept by this browser and are here again')).toBeHidden()
    },
  )

  alone(
    'and was saved over by somebody else in the meantime: the artist chooses, and neither is lost',
    async ({ page, context, request }) => {
      const project = await boxProject(request, 2)
      await openProject(page, project.id)
      await context.setOffline(true)
      await add(page, 'plain color', 0.1, 0.1)
      await expect(saveState(page)).toContainText('The server does not answer')
      page.once('dialog', dialog => void dialog.accept())
      await page.close({ runBeforeUnload: true })
      await expect.poll(() => page.isClosed()).toBe(true)
      await context.setOffline(false)
      const theirs = addNode(project.look, 'noise', [300, 400]).look
      expect(
        (
          await request.put(`/api/projects/${project.id}/look`, { data: { base: project.revision, look: theirs } })
        ).ok(),
      ).toBe(true)
      const next = await context.newPage()
      await next.goto(`/project/${project.id}`)
      await expect(next.getByRole('alert')).toContainText('saved in another window')
      await expect(card(next, 'color1')).toBeVisible()
      expect((await projectNow(request, project.id)).look).toEqual(theirs)
      await next.getByRole('button', { name: 'Go on with mine' }).click()
      await expect
        .poll(async () => (await projectNow(request, project.id)).look.nodes.map(n => n.id))
        .toEqual(['result', 'color1'])
      // Theirs is one revision back.
      expect(
        ((await (await request.get(`/api/projects/${project.id}?revision=2`)).json()) as { look: unknown }).look,
      ).toEqual(theirs)
    },
  )

  test("a late answer about one project is never shown, or saved, at another's address", async ({ page, request }) => {
    const [first, second] = [await boxProject(request, 2), await boxProject(request, 3)]
    let release = (): void => {}
    const gate = new Promise<void>(resolve => {
      release = resolve
    })
    await page.route(`**/api/projects/${first.id}`, async route => {
      await gate
      await route.continue()
    })
    await enter(page, first.id)
    await page.getByRole('link', { name: 'All projects' }).click()
    await page.locator(`a.name[href="/project/${second.id}"]`).click()
    await expect(page.locator('.stage canvas')).toHaveAttribute('data-update-ms', /\d/)
    release()
    await page.waitForResponse(r => r.url().endsWith(first.id))
    await expect(page.getByRole('textbox', { name: 'Name of the project' })).toHaveValue('3 boxes')
    await page.getByRole('tab', { name: 'Build' }).click()
    await add(page, 'plain color', 0.1, 0.1)
    await expect(saveState(page)).toHaveText('All saved')
    expect((await projectNow(request, second.id)).look.nodes).toHaveLength(2)
    expect((await projectNow(request, first.id)).look.nodes).toHaveLength(1)
  })
})

test('a project that is opened right from another one has its own nodes and parts, on the workers that are there', async ({
  page,
  request,
}) => {
  const [first, second] = [await boxProject(request, 2), await boxProject(request, 3)]
  const canvas = page.locator('.stage canvas')
  const seen = async (): Promise<number> => {
    await expect(canvas).toHaveAttribute('data-picture', 'final')
    return Number(await canvas.getAttribute('data-visible'))
  }
  await openProject(page, second.id)
  const whole = await seen()
  await openProject(page, first.id)
  await seen()
  const workers = page.workers()
  await add(page, 'plain color', 0.1, 0.1)
  await expect(page.locator('.card')).toHaveCount(2)
  const box = (await canvas.boundingBox())!
  // The left one of two boxes; it is chosen once the workers have said what lies there.
  await canvas.click({ position: { x: box.width * 0.4, y: box.height / 2 } })
  await expect(async () => {
    await page.keyboard.press('h')
    await expect(page.getByText('1 part hidden')).toBeVisible({ timeout: 500 })
  }).toPass()
  await expect(saveState(page)).toHaveText('All saved')
  await visit(page, `/project/${second.id}`)
  await expect(page.getByText('3 parts')).toBeVisible()
  await expect(page.locator('.card')).toHaveCount(1)
  expect(await seen()).toBe(whole)
  const ofStage = (w: Worker): boolean => w.url().includes('stage.worker')
  expect(workers.filter(ofStage).length).toBeGreaterThan(0)
  expect(page.workers().filter(ofStage)).toEqual(workers.filter(ofStage))
  await add(page, 'plain color', 0.1, 0.1)
  await page.keyboard.press('Control+z')
  await expect(page.locator('.card')).toHaveCount(1)
})

/** Counts what a page has on its graphics card at a time, and how much it has had made ready there. */
function countOnCard(): void {
  const onCard = { held: {} as Record<string, number>, programs: 0, contexts: 0 }
  Object.assign(window, { onCard })
  const gl = WebGL2RenderingContext.prototype as unknown as Record<string, (...x: unknown[]) => unknown>
  for (const kind of ['Texture', 'Framebuffer', 'Renderbuffer', 'Buffer', 'Program']) {
    const [make, remove] = [gl[`create${kind}`]!, gl[`delete${kind}`]!]
    onCard.held[kind] = 0
    gl[`create${kind}`] = function (...x) {
      onCard.held[kind]!++
      if (kind === 'Program') onCard.programs++
      return make.apply(this, x)
    }
    gl[`delete${kind}`] = function (...x) {
      if (x[0]) onCard.held[kind]!--
      return remove.apply(this, x)
    }
  }
  const known = new WeakSet<object>()
  const { getContext } = HTMLCanvasElement.prototype
  HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, ...x: [string]) {
    if (x[0] === 'webgl2' && !known.has(this)) onCard.contexts++
    known.add(this)
    return getContext.apply(this, x)
  } as typeof getContext
}

alone(
  'a window that has had other projects draws the next with what it has, and holds no more',
  async ({ page, request }) => {
    await page.addInitScript(countOnCard)
    const [first, second] = [await boxProject(request, 2), await boxProject(request, 3)]
    const held = async (id: string) => {
      await openProject(page, id)
      const canvas = page.locator('.stage canvas')
      await expect(canvas).toHaveAttribute('data-picture', 'final')
      await expect(canvas).toHaveCSS('cursor', 'grab')
      // Nothing of the one before is told of it.
      expect(Number(await canvas.getAttribute('data-frames'))).toBeLessThan(60)
      return page.evaluate(() => (window as unknown as { onCard: object }).onCard)
    }
    await held(first.id)
    const once = await held(second.id)
    await held(first.id)
    expect(await held(second.id)).toEqual(once)
  },
)

alone('workers that did not come are asked for again with the next project', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  await page.route('**/stage.worker*', route => route.abort())
  const asked = page.waitForRequest(/stage\.worker/)
  await enter(page, project.id)
  await asked
  await expect(page.getByText('2 parts')).toBeVisible()
  await expect(page.locator('.stage canvas')).not.toHaveAttribute('data-picture', 'final')
  await page.unroute('**/stage.worker*')
  await openProject(page, project.id)
  await expect(page.locator('.stage canvas')).toHaveAttribute('data-picture', 'final')
})

test('one difference to a saved revision is taken over alone, and another is shown', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  const at = `/api/projects/${project.id}`
  const first = addNode(addNode(emptyLook(), 'noise', [100, 100]).look, 'partRandom', [100, 400]).look
  await request.put(`${at}/look`, { data: { base: 1, look: first } })
  const next = setParam(setParam(first, 'noise1', 'size', 77), 'partRandom1', 'seed', 5)
  await request.put(`${at}/look`, { data: { base: 2, look: next } })
  await openProject(page, project.id)
  await page.getByRole('button', { name: 'History' }).click()
  await page.getByRole('tab', { name: 'Saved revisions' }).click()
  const list = page.getByRole('list', { name: 'Saved revisions' }).getByRole('listitem')
  await list.filter({ hasText: 'Revision 2' }).getByRole('button', { name: 'Compare' }).click()
  const words = page.getByRole('dialog', { name: 'From revision 2 to what is shown' })
  await expect(words.getByRole('listitem')).toHaveCount(2)
  await words.getByRole('button', { name: /^As it was: Noise: Size from .+ to 77\.$/ }).click()
  await expect(words.getByRole('listitem')).toHaveCount(1)
  const paramsOf = async (id: string) =>
    (await projectNow(request, project.id)).look.nodes.find(n => n.id === id)!.params
  await expect.poll(() => paramsOf('noise1')).toEqual(first.nodes.find(n => n.id === 'noise1')!.params)
  expect(await paramsOf('partRandom1')).toMatchObject({ seed: 5 })
  await words.getByRole('button', { name: /^Show: Part random: Seed/ }).click()
  await expect(words).toBeHidden()
  await expect(card(page, 'partRandom1')).toHaveClass(/selected/)
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(() => paramsOf('noise1')).toMatchObject({ size: 77 })
})

test('saved revisions are listed with time and picture, looked at without changing anything, compared in words, named, and restored', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 2)
  const at = `/api/projects/${project.id}`
  const first = addNode(emptyLook(), 'noise', [100, 100]).look
  await request.put(`${at}/look`, { data: { base: 1, look: first } })
  await request.put(`${at}/mesh?name=four.glb&base=2`, { data: Buffer.from(await writeGlb(row(4), 'four')) })
  await request.put(`${at}/look`, { data: { base: 3, look: addNode(first, 'color', [100, 400]).look } })
  await openProject(page, project.id)
  await page.getByRole('button', { name: 'History' }).click()
  await page.getByRole('tab', { name: 'Saved revisions' }).click()
  const list = page.getByRole('list', { name: 'Saved revisions' }).getByRole('listitem')
  await expect(list).toHaveCount(4)
  await expect(list.first().locator('img')).toBeVisible({ timeout: 30_000 })
  expect(await serious(page)).toEqual([])
  const second = list.filter({ hasText: 'Revision 2' })
  await second.getByRole('button', { name: 'Compare' }).click()
  const words = page.getByRole('dialog', { name: 'From revision 2 to what is shown' })
  await expect(words).toContainText('Color was added.')
  await expect(words).toContainText('The mesh was replaced.')
  await page.keyboard.press('Escape')
  await second.getByRole('button', { name: 'Name' }).click()
  await page.getByRole('textbox', { name: 'Name of revision 2' }).fill('Approved')
  await page.keyboard.press('Enter')
  const approved = list.filter({ hasText: 'Approved' })
  await expect(approved).toBeVisible()
  await approved.getByRole('button', { name: 'Look at it' }).click()
  await expect(page.getByText('You look at revision 2')).toBeVisible()
  await expect(card(page, 'noise1')).toBeVisible()
  await expect(card(page, 'color1')).toBeHidden()
  await expect(page.getByText('2 parts, 24 triangles')).toBeVisible()
  // It can be looked at, not changed.
  await page.locator('.graph').click({ position: { x: 20, y: 20 } })
  await page.keyboard.press('n')
  await expect(saveState(page)).toHaveText(/revision 2; it can be looked at/)
  expect((await projectNow(request, project.id)).revision).toBe(4)
  await page.getByRole('button', { name: 'Restore it as the newest' }).click()
  await expect(page.getByText('You look at revision 2')).toBeHidden()
  const now = await projectNow(request, project.id)
  expect([now.revision, now.look.nodes.map(n => n.id), now.mesh!.name]).toEqual([5, ['result', 'noise1'], 'boxes.glb'])
  await expect(saveState(page)).toHaveText('All saved')
  await add(page, 'plain color', 0.1, 0.1)
  await expect.poll(async () => (await projectNow(request, project.id)).revision).toBe(6)
  // Each state that stands for a while gets a picture of its own, also when it is the only save for long.
  const newest = async () =>
    ((await (await request.get(`${at}/revisions`)).json()) as { number: number; thumbnail: string | null }[])[0]!
  await expect.poll(async () => (await newest()).thumbnail, { timeout: 30_000 }).toMatch(/^[0-9a-f]{64}$/)
})

test('a picture of the project is kept also where the stage was not ready when it was wanted', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 3)
  // Without light there is nothing to take a picture of; and it comes late.
  await page.route(/\.bin$/, async route => {
    await new Promise(resolve => setTimeout(resolve, 6000))
    await route.continue().catch(() => {})
  })
  await openProject(page, project.id)
  const kept = async () =>
    ((await (await request.get(`/api/projects/${project.id}`)).json()) as { thumbnail: string | null }).thumbnail
  await expect.poll(kept, { timeout: 60_000 }).toMatch(/^[0-9a-f]{64}$/)
})

test('a locked project can be looked at and not changed, until it is unlocked', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  await request.put(`/api/projects/${project.id}/lock`, { data: { locked: true } })
  await enter(page, project.id)
  await expect(page.getByText('This project is locked against changes')).toHaveCount(2)
  await expect(page.locator('.card').first()).toBeVisible()
  await page.keyboard.press('n')
  await expect(page.locator('.note')).toHaveCount(0)
  await page.getByRole('button', { name: 'Unlock' }).click()
  await expect(saveState(page)).toHaveText('All saved')
  await page.keyboard.press('n')
  await expect.poll(async () => (await projectNow(request, project.id)).look.notes?.length).toBe(1)
})

test('settings show what the server holds and free it; a project leaves and arrives as one file on the home page', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 5)
  await visit(page, '/')
  const saved = page.waitForEvent('download')
  await page
    .locator('.cards li')
    .filter({ has: page.locator(`a[href="/project/${project.id}"]`) })
    .getByRole('button', { name: /^More for/ })
    .click()
  await page.getByRole('menuitem', { name: 'Download as one file' }).click()
  const file = await (await saved).path()
  // Other tests have projects of that name, too.
  const named = page.getByRole('link', { name: '5 boxes', exact: true })
  // While the menu goes away, the rest of the page has no names for a moment.
  await expect(named.first()).toBeVisible()
  const before = await named.count()
  await page
    .getByLabel('Project file')
    .setInputFiles({ name: 'five.ubblet.zip', mimeType: 'application/zip', buffer: readFileSync(file) })
  await expect(named).toHaveCount(before + 1)
  await page.getByRole('link', { name: 'Settings of this server' }).click()
  await expect(page.getByRole('row', { name: /^Meshes/ })).toContainText(/[KM]B/)
  await expect(page.getByText(/^All is well/)).toBeVisible()
  expect(await serious(page)).toEqual([])
  await page.getByRole('button', { name: 'Tidy now' }).click()
  await expect(page.getByText(/projects, .* revisions, .* files and .* went/)).toBeVisible()
})

test('a server that asks who is there: signing in, what each role sees, and people in the settings', async ({
  browser,
}) => {
  const folder = newFolder()
  const env = { ...process.env, UBBLET_DATABASE: `file:${folder}/u.db` }
  for (const [name, role] of [
    ['Mara', 'manage'],
    ['Lena', 'look'],
  ])
    execFileSync('./bin/ubblet', ['user', 'add', name!, '--role', role!], { input: 'a long password\n', env })
  const server = await Server.start({ UBBLET_SIGN_IN: '1' }, folder)
  const page = await (await browser.newContext({ baseURL: server.address })).newPage()
  await page.goto('/settings')
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible()
  expect(await serious(page)).toEqual([])
  const signIn = async (name: string, password: string): Promise<void> => {
    await page.getByLabel('Name', { exact: true }).fill(name)
    await page.getByLabel('Password').fill(password)
    await page.getByRole('button', { name: 'Sign in' }).click()
  }
  await signIn('Mara', 'not the password')
  await expect(page.getByRole('alert')).toContainText('Name and password do not go together.')
  await signIn('Mara', 'a long password')
  // Back where she wanted to go.
  await expect(page.getByRole('heading', { name: 'Settings of this server' })).toBeVisible()
  await expect(page.getByRole('list', { name: 'Who may sign in' }).getByRole('listitem')).toHaveCount(2)
  const form = page.locator('form').filter({ has: page.getByRole('button', { name: 'Add', exact: true }) })
  await form.getByLabel('Name').fill('Wim')
  await form.getByLabel('Password').fill('another password')
  await form.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('Wim may sign in now.')).toBeVisible()
  await page.getByLabel('What it is for').fill('farm')
  await page.getByLabel('What it may do').click()
  await page.getByRole('option', { name: 'Work: changes projects, delivers' }).click()
  await page.getByRole('button', { name: 'Make a token' }).click()
  const token = await page.locator('code.token').textContent()
  expect(
    (await server.ask('POST', '/api/projects', { name: 'By script' }, { authorization: `Bearer ${token}` })).status,
  ).toBe(200)
  expect(await serious(page)).toEqual([])
  await page.reload()
  const trail = page.getByRole('list', { name: 'Who did what' })
  await expect(trail.getByRole('listitem').first()).toContainText('Mara made a project · By script · by a token')
  await expect(trail).toContainText('Mara added a user: Wim (work)')
  await expect(trail).toContainText('tried a wrong password: Mara')
  await page.getByRole('link', { name: 'All projects' }).click()
  await expect(page.getByRole('link', { name: 'By script', exact: true })).toBeVisible()
  // Of two projects, one is open to Wim alone.
  await server.ask('POST', '/api/projects', { name: 'For Wim' }, { authorization: `Bearer ${token}` })
  await page.reload()
  await page.getByRole('button', { name: 'More for For Wim' }).click()
  await page.getByRole('menuitem', { name: 'Whom it is open to' }).click()
  await page.getByText('Those who are named here').click()
  const choice = page.getByRole('combobox', { name: 'Add somebody, or a group' })
  await choice.click()
  await page.getByRole('option', { name: 'Wim', exact: true }).click()
  await expect(page.getByRole('list', { name: 'Who is named' })).toContainText('Wim')
  await expect(choice).toHaveText('Add somebody, or a group')
  expect(await serious(page)).toEqual([])
  await page.keyboard.press('Escape')
  await expect(page.getByRole('img', { name: 'Open to those who are named' })).toHaveCount(1)
  await page.getByRole('button', { name: 'Signed in as Mara' }).click()
  await page.getByRole('menuitem', { name: 'Sign out' }).click()
  await signIn('lena', 'a long password')
  await expect(page.getByRole('link', { name: 'By script', exact: true })).toBeVisible()
  await expect(page.getByRole('link', { name: 'For Wim', exact: true })).toBeHidden()
  await expect(page.getByRole('button', { name: 'New project' })).toBeHidden()
  await page.getByRole('link', { name: 'By script', exact: true }).click()
  await expect(saveState(page)).toHaveText('You may look at projects here, not change them.')
})

test('under a path of its own the whole application works: workers, pictures, links, deliveries', async ({
  browser,
}) => {
  const server = await Server.start({ NUXT_APP_BASE_URL: '/pier/' })
  const page = await (await browser.newContext({ baseURL: server.address.replace(/\/pier$/, '') })).newPage()
  const problems: string[] = []
  page.on('response', r => {
    if (r.status() >= 400) problems.push(`${r.status()} ${r.url()}`)
  })
  page.on('console', m => {
    if (m.type() === 'error' || /Content.Security.Policy/i.test(m.text())) problems.push(m.text())
  })
  await page.addInitScript(() => localStorage.setItem('ubblet has been here', 'true'))
  await page.goto('/pier/')
  await page.getByRole('button', { name: 'New project' }).click()
  await expect(page.getByRole('heading', { name: 'Bring in a mesh' })).toBeVisible()
  await page.getByLabel('Mesh files').setInputFiles({
    name: 'own.glb',
    mimeType: 'model/gltf-binary',
    buffer: Buffer.from(await writeGlb(row(3), 'own')),
  })
  await expect(page.locator('[data-test=parts]')).toHaveText('3')
  expect(new URL(page.url()).pathname).toMatch(/^\/pier\/project\//)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await page.getByRole('button', { name: 'Deliver', exact: true }).click()
  const zip = page.getByRole('link', { name: 'Download zip' })
  await expect(zip).toHaveAttribute('href', /^\/pier\/api\//, { timeout: 60_000 })
  await page.getByRole('link', { name: 'All projects' }).click()
  await expect(page.locator('.cards img')).toBeVisible()
  await expect
    .poll(() => page.locator('.cards img').evaluate((img: HTMLImageElement) => (img.complete ? img.naturalWidth : -1)))
    .toBeGreaterThan(0)
  expect(problems).toEqual([])
})

test('a session that ends while somebody works: the project stays, and what was done is saved after signing in elsewhere', async ({
  browser,
}) => {
  const folder = newFolder()
  execFileSync('./bin/ubblet', ['user', 'add', 'Mara', '--role', 'manage'], {
    input: 'a long password\n',
    env: { ...process.env, UBBLET_DATABASE: `file:${folder}/u.db` },
  })
  const server = await Server.start({ UBBLET_SIGN_IN: '1' }, folder)
  const context = await browser.newContext({ baseURL: server.address })
  const enter = () => context.request.post('/api/session', { data: { name: 'Mara', password: 'a long password' } })
  expect((await enter()).ok()).toBe(true)
  const project = await boxProject(context.request, 2)
  const page = await context.newPage()
  await openProject(page, project.id)
  await context.clearCookies()
  await add(page, 'plain color', 0.1, 0.1)
  await expect(page.getByRole('alert')).toContainText('You are signed out')
  await expect(card(page, 'color1')).toBeVisible()
  expect((await enter()).ok()).toBe(true)
  await expect(saveState(page)).toHaveText('All saved')
  expect((await projectNow(context.request, project.id)).look.nodes).toHaveLength(2)
  await expect(page.getByRole('alert')).toBeHidden()
})

test('a wide graph comes into view whole, also on a machine that is slow to measure it', async ({ page, request }) => {
  const project = await boxProject(request, 2)
  const wide = Array.from({ length: 12 }, (_, i) => [i * 420, (i % 3) * 700] as [number, number]).reduce(
    (look, at) => addNode(look, 'noise', at).look,
    emptyLook(),
  )
  await request.put(`/api/projects/${project.id}/look`, { data: { base: 1, look: wide } })
  const slow = await page.context().newCDPSession(page)
  await slow.send('Emulation.setCPUThrottlingRate', { rate: 6 })
  await enter(page, project.id)
  const graph = (await page.locator('.graph').boundingBox())!
  await expect
    .poll(async () => {
      const cards = await page
        .locator('[data-node]')
        .evaluateAll(all => all.map(c => c.getBoundingClientRect()).map(r => [r.left, r.top, r.right, r.bottom]))
      return (
        cards.length === 13 &&
        cards.every(
          ([l, t, r, b]) =>
            l! >= graph.x && t! >= graph.y && r! <= graph.x + graph.width && b! <= graph.y + graph.height,
        )
      )
    })
    .toBe(true)
  await slow.send('Emulation.setCPUThrottlingRate', { rate: 1 })
})

test('of a large look all cards, wires and steps come, in their order, and a step moves among them', async ({
  page,
  request,
}) => {
  const project = await boxProject(request, 2)
  // The first is what lies at the bottom.
  const large = Array.from({ length: 30 }).reduce<Look>(
    (look, _, i) => addStep(look, Math.max(0, i - 1)).look,
    emptyLook(),
  )
  expect(large.nodes.length).toBeGreaterThan(100)
  await request.put(`/api/projects/${project.id}/look`, { data: { base: 1, look: large } })
  await openProject(page, project.id)
  await expect(page.locator('[data-node]')).toHaveCount(large.nodes.length)
  await expect(page.locator('.vue-flow__edge')).toHaveCount(large.wires.length)
  const chips = page.locator('.chip.step [data-step]')
  const inOrder = () => chips.evaluateAll(all => all.map(c => c.getAttribute('data-step')))
  const steps = stripOf(large)!.steps.map(s => s.node.id)
  expect(steps).toHaveLength(29)
  await expect.poll(inOrder).toEqual(steps)
  await chips.nth(20).focus()
  await page.keyboard.press('Control+ArrowRight')
  const moved = [...steps.slice(0, 20), steps[21]!, steps[20]!, ...steps.slice(22)]
  await expect.poll(inOrder).toEqual(moved)
  await expect(chips.nth(21)).toContainText('Step 22')
  await expect(chips.nth(20)).toContainText('Step 21')
  // The next key moves it on from where it is now.
  await page.keyboard.press('Control+ArrowRight')
  await expect.poll(inOrder).toEqual([...steps.slice(0, 20), steps[21]!, steps[22]!, steps[20]!, ...steps.slice(23)])
})
