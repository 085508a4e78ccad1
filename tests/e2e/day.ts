import {
  expect,
  test as base,
  type BrowserContext,
  type ConsoleMessage,
  type Page,
  type WebError,
} from '@playwright/test'

// Each word to the browser keeps where it comes from, with up to 200 calls, as text, which takes the tests' own process
// a good part of its time. These are as many calls as an error has anywhere else.
Error.stackTraceLimit = 10

/** What the application offers in its window, of which tests use this. */
interface App {
  useNuxtApp(): {
    $router: { push(to: string): Promise<unknown> }
    $pinia?: { _s: Map<string, { $dispose(): void; close?(): void }>; state: { value: object } }
    payload: { state: Record<string, unknown> }
  }
}

/** Goes to an address of the application as its links do where one of its pages is open, and else by loading it. */
export async function visit(page: Page, path: string): Promise<void> {
  if (!page.url().startsWith('http')) {
    await page.goto(path)
    return
  }
  await page.waitForFunction(() => document.querySelector('main'))
  await page.evaluate(to => (window as unknown as App).useNuxtApp().$router.push(to), path)
}

/** Leaves what is open, and forgets how it was looked at and what was kept. */
async function clear(page: Page, kept: readonly { name: string; value: string }[]): Promise<void> {
  const context = page.context()
  for (const other of context.pages()) if (other !== page) await other.close()
  await page.unrouteAll({ behavior: 'ignoreErrors' })
  await context.unrouteAll({ behavior: 'ignoreErrors' })
  await context.setOffline(false)
  await context.clearPermissions()
  await page.mouse.move(0, 0)
  // What is closed is neither saved nor pictured for the home page.
  if (page.url().includes('/project/'))
    await page.evaluate(() => (window as unknown as App).useNuxtApp().$pinia?._s.get('project')?.close?.())
  await visit(page, '/settings')
  // What could not be left, for it is not saved, goes.
  if (!page.url().endsWith('/settings')) await page.goto('/settings')
  await page.waitForFunction(() => document.querySelector('main'))
  await page.evaluate(kept => {
    const { $pinia, payload } = (window as unknown as App).useNuxtApp()
    for (const store of [...($pinia?._s.values() ?? [])]) store.$dispose()
    if ($pinia) $pinia.state.value = {}
    payload.state.$stoasts = []
    localStorage.clear()
    for (const { name, value } of kept) localStorage.setItem(name, value)
  }, kept)
}

/** So begins what a browser says of each answer of a server that is no success: tests ask for many. */
const REFUSED = 'Failed to load resource'

/** The windows of a worker that tests share, by the pixels of the screen to one of the page. */
type WindowOf = (deviceScaleFactor: number) => Promise<Page>

/**
 * Tests that have a window of their own, which is new. They, too, are of the kind that others share windows with: tests
 * of two kinds would each begin with workers and a browser of their own.
 */
export const alone = base.extend<{ faults: void }, { windowOf: WindowOf }>({
  // What goes wrong in a window without a word to the artist is said in its console.
  faults: [
    async ({ context }, use) => {
      const faults: string[] = []
      const heard = (message: ConsoleMessage): void => {
        if (message.type() === 'error' && !message.text().startsWith(REFUSED)) faults.push(message.text())
      }
      const failed = (fault: WebError): void => void faults.push(fault.error().message)
      context.on('console', heard)
      context.on('weberror', failed)
      await use()
      context.off('console', heard)
      context.off('weberror', failed)
      expect(faults).toEqual([])
    },
    { auto: true },
  ],
  windowOf: [
    async ({ browser }, use, { project }) => {
      const { baseURL, storageState, viewport, contextOptions } = project.use
      const windows = new Map<number, Promise<Page>>()
      const open = async (deviceScaleFactor: number): Promise<Page> => {
        const options = { baseURL, storageState, viewport, deviceScaleFactor, ...contextOptions }
        return (await browser.newContext(options)).newPage()
      }
      await use(deviceScaleFactor => {
        const page = windows.get(deviceScaleFactor) ?? open(deviceScaleFactor)
        windows.set(deviceScaleFactor, page)
        return page
      })
      for (const page of windows.values()) await (await page).context().close()
    },
    { scope: 'worker' },
  ],
})

/**
 * Tests that share a window, as an artist goes from one project to the next in one: each finds it at the settings, with
 * nothing remembered of the tests before.
 */
export const test = alone.extend<{ oneWindow: Page }>({
  oneWindow: async ({ windowOf, deviceScaleFactor }, use) => use(await windowOf(deviceScaleFactor ?? 1)),
  context: async ({ oneWindow }: { oneWindow: Page }, use: (context: BrowserContext) => Promise<void>) => {
    await use(oneWindow.context())
  },
  page: async ({ oneWindow, storageState }, use) => {
    const kept = typeof storageState === 'object' ? (storageState.origins[0]?.localStorage ?? []) : []
    await clear(oneWindow, kept)
    await use(oneWindow)
  },
})
