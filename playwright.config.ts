import { defineConfig } from '@playwright/test'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const port = Number(process.env.UBBLET_TEST_PORT ?? 4391)
const database = process.env.UBBLET_DATABASE ?? `file:${join(mkdtempSync(join(tmpdir(), 'ubblet-test-')), 'test.db')}`

/** WebGL 2 in software, and no connections of the browser's own. */
const CHROMIUM_ARGS = [
  '--no-sandbox',
  '--use-gl=angle',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--ignore-gpu-blocklist',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-quic',
  // As a browser does where there is no graphics card: what lies around the stage is put together by the processor.
  '--disable-gpu-compositing',
]

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 120_000,
  expect: { timeout: 20_000 },
  workers: 2,
  retries: process.env.CI ? 1 : 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  outputDir: 'test-results/e2e',
  use: {
    // One sample to a pixel, and no contacts: what is tested is there with the first sharp picture. The tests of the
    // stage make it smooth, and those that compare whole pictures darken contacts.
    storageState: {
      cookies: [],
      origins: [
        {
          origin: `http://127.0.0.1:${port}`,
          localStorage: [
            {
              name: 'ubblet stage',
              value: JSON.stringify({ shadows: true, contact: false, ground: true, smooth: false }),
            },
          ],
        },
      ],
    },
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: CHROMIUM_ARGS },
  },
  webServer: {
    command: 'node .output/server/index.mjs',
    url: `http://127.0.0.1:${port}/api/projects`,
    reuseExistingServer: false,
    env: { HOST: '127.0.0.1', PORT: String(port), UBBLET_DATABASE: database, UBBLET_HOME: process.cwd() },
  },
})
