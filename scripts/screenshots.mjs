// Takes the pictures of docs/screenshots from the demo, in a server and a database of their own. Names on the command
// line (`node scripts/screenshots.mjs steps board`) take those alone.
import { spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { build, chromium } from './lib.mjs'

build()
const { chromium: browserType } = await import('@playwright/test')
const port = 4398
const address = `http://127.0.0.1:${port}`
const server = spawn(process.execPath, ['.output/server/index.mjs'], {
  stdio: 'ignore',
  env: {
    ...process.env,
    HOST: '127.0.0.1',
    PORT: String(port),
    UBBLET_HOME: process.cwd(),
    UBBLET_DATABASE: `file:${join(mkdtempSync(join(tmpdir(), 'ubblet-shots-')), 's.db')}`,
  },
})
try {
  for (
    let i = 0;
    i < 100 &&
    !(await fetch(`${address}/api/projects`).then(
      r => r.ok,
      () => false,
    ));
    i++
  )
    await wait(100)
  await fetch(`${address}/api/demo`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' })
  const projects = await (await fetch(`${address}/api/projects`)).json()
  const browser = await browserType.launch({
    executablePath: chromium(),
    args: [
      '--no-sandbox',
      '--use-gl=angle',
      '--use-angle=swiftshader',
      '--enable-unsafe-swiftshader',
      '--ignore-gpu-blocklist',
      '--disable-background-networking',
      '--no-first-run',
      '--disable-quic',
    ],
  })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  page.setDefaultTimeout(240_000)
  await page.addInitScript(() => localStorage.setItem('ubblet has been here', 'true'))
  /** Waits until the stage says that its picture is final; the Mesh tab has none of its own. */
  const final = () => page.waitForFunction(() => document.querySelector('.stage canvas')?.dataset.picture === 'final')
  /**
   * Opens a demo project, or one of its looks by name, and waits until the stage shows it as it is: geometry maps
   * computed, what is gathered there.
   */
  const open = async (words, look) => {
    const { id } = projects.find(p => p.name === `Ferry pier: ${words}`)
    const { looks } = await (await fetch(`${address}/api/projects/${id}`)).json()
    const query = look ? `?look=${looks.find(l => l.name === look).id}` : ''
    await page.goto(`${address}/project/${id}${query}`)
    await page.waitForFunction(() => Number(document.querySelector('.stage canvas')?.dataset.updateMs) > 0)
    for (let quiet = 0; quiet < 3;) {
      await wait(2000)
      quiet = (await page.evaluate(
        () =>
          /Computing|Preparing/.test(document.querySelector('footer').textContent) ||
          document.querySelector('.lagging') !== null,
      ))
        ? 0
        : quiet + 1
    }
    await final()
  }
  const click = node => page.locator('[data-node] .name', { hasText: node }).first().click()
  const mesh = async (words, section) => {
    await open(words)
    await page.getByRole('tab', { name: 'Mesh' }).click()
    await page
      .getByRole('navigation', { name: 'Parts of the preparation' })
      .getByRole('button', { name: section, exact: true })
      .click()
  }
  /** Opens a field of choices and takes the first whose title has these words. */
  const choose = async (field, words) => {
    await field.click()
    await page.getByRole('option', { name: words }).first().click()
  }
  const ready = () => page.locator('[data-map=occlusion] [data-test=map-state]').filter({ hasText: 'ready' }).waitFor()

  const pictures = {
    /** First: the demo brings its pictures along, and others change what they show. */
    async home() {
      await page.goto(address)
      await page.locator('.cards').waitFor()
    },
    workbench: () => open('float rack').then(() => page.locator('[data-node=glassColors] .name').click()),
    async compare() {
      await open('float rack')
      await page.getByRole('tab', { name: 'Compare' }).click()
      await page.locator('[role=listbox][aria-busy=false]').waitFor()
      await page.getByRole('listbox', { name: 'Rolls of the draws' }).focus()
      for (const key of ['ArrowRight', 'ArrowRight', 's', 'ArrowDown']) await page.keyboard.press(key)
    },
    async sweep() {
      await open('float rack')
      await page.getByRole('tab', { name: 'Compare' }).click()
      await page.getByText('Sweep', { exact: true }).click()
      await choose(page.getByRole('combobox', { name: 'Setting of the columns', exact: true }), 'Drift · Hue')
      await choose(page.getByRole('combobox', { name: 'Setting of the rows', exact: true }), 'Glass · Metalness')
      await choose(page.getByRole('combobox', { name: 'Steps of the rows' }), '3')
      await page.getByRole('checkbox', { name: 'Numbers' }).click()
      await page.locator('[role=listbox][aria-busy=false]').waitFor()
    },
    async deliver() {
      await open('float rack')
      await page.getByRole('tab', { name: 'Deliver' }).click()
      for (const name of [/^USD$/, /^Baked/]) await page.getByRole('checkbox', { name }).check()
      await page.getByRole('button', { name: 'Deliver', exact: true }).click()
      await page.locator('li[data-state=done]').waitFor()
      await choose(page.getByRole('combobox', { name: 'Texture size' }), '4096')
      await page.getByRole('button', { name: 'Deliver', exact: true }).click()
      await wait(3000)
    },
    async proof() {
      await open('float rack')
      await page.getByRole('tab', { name: 'Deliver' }).click()
      await choose(page.getByRole('combobox', { name: 'Texture size' }), '2048')
      await page.getByRole('button', { name: 'Deliver', exact: true }).click()
      await page.locator('li[data-state=done]').first().getByRole('button', { name: 'Prove' }).click()
      await page.locator('[data-test=proof]').waitFor()
      await page.getByRole('button', { name: 'Trace', exact: true }).click()
      await page.waitForFunction(() => Number(document.querySelector('[data-test=samples]')?.textContent) > 60)
      await page.getByRole('button', { name: 'Stop' }).click()
      await page.locator('.proof').evaluate(e => {
        e.scrollTop = 120
      })
    },
    async 'winch-cast'() {
      await open('mooring winch, as cast')
      await page.getByRole('button', { name: 'Dark theme' }).click()
      await page.locator('[data-node=inDents] .name').click()
    },
    async looks() {
      await open('kiosk roof', 'Moss in the shade')
      await page.getByRole('tab', { name: 'Compare' }).click()
      await page.getByText('States', { exact: true }).click()
      await page.getByRole('checkbox', { name: 'Numbers' }).click()
      await page.getByRole('option', { name: /^Rain-worn glaze, lightness/ }).waitFor()
      await page.locator('[role=listbox][aria-busy=false]').waitFor()
      await page.getByRole('listbox', { name: 'States of the project' }).focus()
      for (const key of ['Home', 'm', 'ArrowRight']) await page.keyboard.press(key)
      await page.getByRole('button', { name: /^Looks; open/ }).click()
    },
    async steps() {
      await open('kiosk roof', 'Moss in the shade')
      await page.locator('.chip.step [data-step]').nth(1).click()
      await page.getByRole('button', { name: 'Solo' }).click()
    },
    async probe() {
      await open('kiosk roof', 'Moss in the shade')
      await click('Damp below')
      await page.keyboard.press('p')
      await page.getByText('False colors').click()
    },
    async wipe() {
      await open('kiosk roof', 'Moss in the shade')
      await page.keyboard.press('b')
      await page.keyboard.press('k')
      for (const i of [1, 2, 3]) await page.locator('.chip.step [role=checkbox]').nth(i).click()
      await page.getByRole('button', { name: 'Light', exact: true }).click()
      await page.getByRole('radio', { name: 'Low sun' }).click()
      await page.locator('.lagging').waitFor({ state: 'detached' })
      await final()
    },
    async board() {
      await open('float rack')
      const shots = []
      for (const view of ['Finished', 'Base color']) {
        await page.getByText(view, { exact: true }).first().click()
        await wait(4000)
        shots.push({
          name: `${view.toLowerCase()} as of this morning.png`,
          mimeType: 'image/png',
          buffer: await page.locator('.stage canvas').screenshot(),
        })
      }
      await page.locator('[data-node=glassColors] .name').click()
      await page.keyboard.press('d')
      await page.getByLabel('Reference picture files').setInputFiles(shots)
      await page.getByRole('figure').nth(1).waitFor()
      await page.getByRole('button', { name: 'Pull a palette' }).click()
      await wait(2000)
      const box = await page.getByRole('figure').nth(0).boundingBox()
      await page.mouse.move(box.x + box.width * 0.34, box.y + box.height * 0.2)
      await page.mouse.down()
      await page.mouse.move(box.x + box.width * 0.66, box.y + box.height * 0.75, { steps: 4 })
      await page.mouse.up()
    },
    async revisions() {
      await open('float rack')
      const id = page.url().split('/').at(-1)
      for (const [node, setting] of [
        ['salt', 'Size'],
        ['glassColors', ''],
      ]) {
        await page.locator(`[data-node=${node}] .name`).click()
        if (setting) await page.getByRole('spinbutton', { name: setting, exact: true }).press('ArrowUp')
        await page.keyboard.press('o')
        await page.getByText('All saved').waitFor()
        await wait(20_000)
      }
      await fetch(`${address}/api/projects/${id}/revisions/3`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ name: 'Before the salt went' }),
      })
      await page.getByRole('button', { name: 'History' }).click()
      await page.getByRole('tab', { name: 'Saved revisions' }).click()
      await page.getByRole('list', { name: 'Saved revisions' }).waitFor()
      await page
        .getByRole('button', { name: /^Compare/ })
        .last()
        .click()
      await page.getByRole('dialog').getByRole('listitem').first().waitFor()
    },
    async actions() {
      await open('float rack')
      await page.keyboard.press('/')
      await page.keyboard.type('show')
    },
    mesh: () => mesh('kiosk roof', 'Report'),
    async parts() {
      await mesh('mooring winch', 'Part table')
      await page.getByText('Groups', { exact: true }).click()
      await page.getByRole('columnheader', { name: 'Volume' }).getByRole('button').click()
      await page.getByRole('grid').getByRole('row').nth(4).click()
      await page.getByRole('button', { name: 'Grow to neighbors' }).click()
    },
    async maps() {
      await mesh('mooring winch', 'Maps')
      await ready()
      await page.getByRole('button', { name: 'Show edges on the stage' }).click()
    },
    async detail() {
      await mesh('mooring winch, as cast', 'Detail')
      await page.getByText(/kept with the project/).waitFor()
      await page.getByRole('region', { name: 'Partners' }).waitFor()
      const height = page.getByRole('listitem').filter({ hasText: 'dense convexity.exr' })
      await height.getByRole('button', { name: 'Show on the stage' }).click()
      await page.getByRole('region', { name: 'Dense mesh' }).scrollIntoViewIfNeeded()
    },
    winch: () => open('mooring winch', 'Blue over primer').then(() => page.locator('[data-node=chips] .name').click()),
  }
  /** The stage's picture is final, where there is one that becomes it. */
  const isFinal = () =>
    page
      .waitForFunction(
        () => [undefined, 'final'].includes(document.querySelector('.stage canvas')?.dataset.picture),
        null,
        { timeout: 60_000 },
      )
      .catch(() => {})
  const named = process.argv.slice(2)
  for (const [name, take] of Object.entries(pictures)) {
    if (named.length && !named.includes(name)) continue
    await take()
    await wait(6000)
    await isFinal()
    await page.screenshot({ timeout: 240_000, path: `docs/screenshots/${name}.png` })
    console.log(name)
    await page.evaluate(() => localStorage.removeItem('ubblet-theme')).catch(() => {})
  }
  await browser.close()
} finally {
  server.kill()
}
