import { test as base, type BrowserContext, type Page } from '@playwright/test'

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

/**
 * Tests that share a window, as an artist goes from one project to the next in one: each finds it at the settings, with
 * nothing remembered of the tests before. Whoever needs a window of another kind, or a new one, uses Playwright's own.
 */
export const test = base.extend<object, { oneWindow: Page }>({
  oneWindow: [
    async ({ browser }, use, { project }) => {
      const { baseURL, storageState, viewport, deviceScaleFactor, contextOptions } = project.use
      const context = await browser.newContext({
        baseURL,
        storageState,
        viewport,
        deviceScaleFactor,
        ...contextOptions,
      })
      await use(await context.newPage())
      await context.close()
    },
    { scope: 'worker' },
  ],
  context: async ({ oneWindow }: { oneWindow: Page }, use: (context: BrowserContext) => Promise<void>) => {
    await use(oneWindow.context())
  },
  page: async ({ oneWindow, storageState }, use) => {
    const kept = typeof storageState === 'object' ? (storageState.origins[0]?.localStorage ?? []) : []
    await clear(oneWindow, kept)
    await use(oneWindow)
  },
})
