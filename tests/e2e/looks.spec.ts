import { expect, type Page } from '@playwright/test'
import { addNode, connect } from '../../core/graph/edit'
import { emptyLook, type Look } from '../../core/graph/look'
import { test } from './day'
import { boxProject, openProject, saveLook, serious, type Project } from './support'

interface Opened extends Project {
  looks: { id: string; name: string; removed: number | null }[]
  lookId: string
}

/** A look of one color for everything. */
function plain(name: string, color: [number, number, number]): Look {
  const bare = addNode(addNode({ ...emptyLook(), name }, 'color', [-600, 0], { color }).look, 'finish', [-300, 0]).look
  const colored = connect(bare, { node: 'color1', port: 'color' }, { node: 'finish1', port: 'baseColor' })
  return connect(colored, { node: 'finish1', port: 'finish' }, { node: 'result', port: 'finish' })
}
const card = (page: Page, id: string) => page.locator(`[data-node=${id}]`)
const button = (page: Page) => page.getByRole('button', { name: /^Looks; open/ })
const list = (page: Page) => page.getByRole('list', { name: 'Looks', exact: true })
const names = (page: Page) => list(page).getByRole('listitem').allInnerTexts()
const titles = (page: Page) => page.locator('.card .name')

/** Chooses something from the menu of a look in the list, which is open. */
async function act(page: Page, look: string, words: string): Promise<void> {
  await page.getByRole('button', { name: `More for ${look}`, exact: true }).click()
  await page.getByRole('menuitem', { name: words, exact: true }).click()
}

test('two looks of a project have histories and revisions of their own', async ({ page, request }) => {
  const project = await boxProject(request, 4)
  await saveLook(request, project.id, plain('Red', [0.5, 0.02, 0.02]))
  const now = async (look?: string) =>
    (await (await request.get(`/api/projects/${project.id}${look ? `?look=${look}` : ''}`)).json()) as Opened
  const red = (await now()).lookId
  await openProject(page, project.id)
  await expect(button(page)).toHaveAccessibleName('Looks; open: Red')

  // A copy becomes another look, with a step of its own.
  await button(page).click()
  await page.getByRole('button', { name: 'Duplicate this one' }).click()
  await expect(button(page)).toHaveAccessibleName('Looks; open: Red 2')
  await act(page, 'Red 2', 'Rename')
  await page.getByRole('textbox', { name: 'Name of the look' }).fill('Blue')
  await page.keyboard.press('Enter')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Blue')
  expect(await serious(page)).toEqual([])
  await page.keyboard.press('Escape')
  await card(page, 'color1').locator('.name').click()
  await page.keyboard.press('Delete')
  await expect(titles(page)).toHaveCount(2)
  await expect(page.getByText('All saved')).toBeVisible()

  // The first look is as it was, and there is nothing to undo in it.
  await page.keyboard.press('Shift+PageUp')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Red')
  await expect(titles(page)).toHaveCount(3)
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled()

  // Back in the second one, its steps are still there.
  await page.keyboard.press('Shift+PageDown')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Blue')
  await expect(titles(page)).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect(titles(page)).toHaveCount(3)
  await page.keyboard.press('Control+z')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Red 2')
  await expect(page.getByText('All saved')).toBeVisible()
  await expect.poll(async () => (await now()).look.name).toBe('Red 2')
  expect((await now(red)).look.name).toBe('Red')

  // Revisions are listed look by look.
  await page.getByRole('button', { name: 'History' }).click()
  await page.getByRole('tab', { name: 'Saved revisions' }).click()
  const saves = page.getByRole('list', { name: 'Saved revisions' }).getByRole('listitem')
  await expect(saves.filter({ hasText: /^Revision [12]\b/ })).toHaveCount(0)
  await expect(saves.last()).toContainText('Revision 3')
})

test('looks are put in order, removed with a way back, and nodes are copied from one to the other', async ({
  page,
  request,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  const project = await boxProject(request, 4)
  await saveLook(request, project.id, plain('Red', [0.5, 0.02, 0.02]))
  await openProject(page, project.id)
  await card(page, 'color1').locator('.name').click()
  await page.keyboard.press('Control+c')
  await button(page).click()
  await page.getByRole('button', { name: 'New look' }).click()
  await expect(button(page)).toHaveAccessibleName('Looks; open: Look 2')
  await page.keyboard.press('Escape')
  await expect(titles(page)).toHaveCount(1)
  await page.locator('.graph').click({ position: { x: 40, y: 300 } })
  await page.keyboard.press('Control+v')
  await expect(titles(page)).toHaveCount(2)
  await expect(page.getByText('All saved')).toBeVisible()

  await button(page).click()
  await act(page, 'Look 2', 'Move up')
  await expect.poll(() => names(page)).toEqual(['Look 2', 'Red'])
  await act(page, 'Look 2', 'Remove')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Red')
  await page.getByRole('button', { name: 'Bring it back' }).click()
  await expect.poll(() => names(page)).toEqual(['Look 2', 'Red'])
  await act(page, 'Red', 'Remove')
  await expect(button(page)).toHaveAccessibleName('Looks; open: Look 2')
  // The last one stays.
  await page.getByRole('button', { name: 'More for Look 2' }).click()
  await expect(page.getByRole('menuitem', { name: 'Remove', exact: true })).toBeDisabled()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: /^Removed \(1\)/ }).click()
  await page.getByRole('button', { name: 'Bring back Red' }).click()
  await expect.poll(() => names(page)).toEqual(['Look 2', 'Red'])
})

test('several looks are delivered at once, each as it is now', async ({ page, request }) => {
  const project = await boxProject(request, 4)
  await saveLook(request, project.id, plain('Red', [0.5, 0.02, 0.02]))
  const at = `/api/projects/${project.id}`
  const added = await request.post(`${at}/looks`, { data: { name: 'Blue' } })
  expect(added.ok()).toBe(true)
  await saveLook(request, project.id, plain('Blue', [0.02, 0.02, 0.5]))
  await openProject(page, project.id)
  await page.getByRole('tab', { name: 'Deliver' }).click()
  await page.getByRole('button', { name: 'All of them' }).click()
  await expect(page.getByRole('checkbox', { name: 'Red', exact: true })).toBeChecked()
  await page.getByRole('checkbox', { name: 'GLB', exact: true }).click()
  await page.getByRole('checkbox', { name: /CSV/ }).click()
  await page.getByRole('button', { name: 'Deliver', exact: true }).click()
  interface Delivery {
    id: string
    name: string
    state: string
  }
  const list = async () => (await (await request.get(`${at}/deliveries`)).json()) as Delivery[]
  await expect
    .poll(async () => (await list()).map(d => `${d.name} ${d.state}`).sort(), { timeout: 60_000 })
    .toEqual(['Blue done', 'Red done'])
  // The colors in the tables are those of their looks.
  for (const { id, name } of await list()) {
    const files = `${at}/deliveries/${id}/files`
    const manifest = (await (await request.get(`${files}/manifest.json`)).json()) as { files: { path: string }[] }
    const table = await request.get(`${files}/${manifest.files.find(f => f.path.endsWith('.csv'))!.path}`)
    const [head, first] = (await table.text()).split('\n').map(line => line.split(','))
    const [red, blue] = ['baseColor.r', 'baseColor.b'].map(c => Number(first![head!.indexOf(c)]))
    expect([red, blue]).toEqual(name === 'Red' ? [0.5, 0.02] : [0.02, 0.5])
  }
  // Going on with the look is no conflict with what was delivered of it.
  await page.getByRole('tab', { name: 'Build' }).click()
  await card(page, 'color1').locator('.name').click()
  await page.keyboard.press('Delete')
  await expect(page.getByText('All saved')).toBeVisible()
  await expect(titles(page)).toHaveCount(2)
})
