import { defineConfig } from '@playwright/test'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ADDRESS, PORT, seenWith } from './tests/e2e/seenWith'

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
  // Each shader is compiled once, when it is first drawn with, and not once more ahead of that.
  '--disable-angle-features=warmUpPipelineCacheAtLink',
]

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 120_000,
  expect: { timeout: 20_000 },
  workers: 2,
  // Single tests go to whoever is free, not whole files: at the end nobody waits for the rest of a long one.
  fullyParallel: true,
  retries: process.env.CI ? 1 : 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  outputDir: 'test-results/e2e',
  use: {
    // One sample to a pixel, no contacts and no shadows: what is tested is there with the first sharp picture. Tests of
    // the stage have shadows and make it smooth; the one that compares tiles with the command's has all of it.
    storageState: seenWith({ shadows: false, contact: false, ground: true, smooth: false }),
    baseURL: ADDRESS,
    viewport: { width: 1280, height: 800 },
    // A quarter of the pixels: they are drawn by the processor. Tests of the stage ask for all of them.
    deviceScaleFactor: 0.5,
    // What fades and slides is drawn by the processor, too, many times on its way.
    contextOptions: { reducedMotion: 'reduce' },
    acceptDownloads: true,
    launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: CHROMIUM_ARGS },
  },
  webServer: {
    command: 'node .output/server/index.mjs',
    url: `${ADDRESS}/api/projects`,
    reuseExistingServer: false,
    env: { HOST: '127.0.0.1', PORT: String(PORT), UBBLET_DATABASE: database, UBBLET_HOME: process.cwd() },
  },
})
