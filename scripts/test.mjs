// npm test: types, lint, unit tests, browser tests. Ends with one line that counts them.
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { build, chromium, run } from './lib.mjs'

/** How each step ended, and which of them count their tests themselves. */
const steps = []
const counted = []
const step = (name, args, env = {}, counts = false) => {
  const from = Date.now()
  const status = run(process.execPath, args, { env: { ...process.env, ...env } })
  console.log(`${status === 0 ? 'ok' : 'FAILED'}  ${name} (${((Date.now() - from) / 1000).toFixed(1)} s)`)
  steps.push({ status, counts })
}

/** What belongs to each part of the tests; `npm test` runs all of them, `npm run types` and its like one. */
const PARTS = {
  types() {
    step('types of core', ['node_modules/typescript/bin/tsc', '-p', 'tsconfig.core.json'])
    step('types of the application', [
      'node_modules/vue-tsc/bin/vue-tsc.js',
      '--noEmit',
      '-p',
      '.nuxt/tsconfig.app.json',
    ])
    step('types of the server', ['node_modules/vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', '.nuxt/tsconfig.server.json'])
    step('types of the settings', ['node_modules/vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', '.nuxt/tsconfig.node.json'])
    step('types of tools and tests', ['node_modules/typescript/bin/tsc', '-p', 'tsconfig.tools.json'])
  },
  lint() {
    step('lint', ['node_modules/eslint/bin/eslint.js', '--max-warnings', '0', '.'])
    step('layout of the code', ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.'])
  },
  unit() {
    const json = ['--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json']
    step('unit tests', ['node_modules/vitest/vitest.mjs', 'run', ...json], {}, true)
    counted.push('unit')
  },
  e2e() {
    step('browser tests', ['node_modules/@playwright/test/cli.js', 'test'], { CHROMIUM: chromium() }, true)
    counted.push('e2e')
  },
}

const [only] = process.argv.slice(2)
if (only && !PARTS[only]) {
  console.error(`There are ${Object.keys(PARTS).join(', ')}; not ${only}.`)
  process.exit(2)
}
build()
// Before the long steps, so that a machine without one says so at once.
if (!only || only === 'e2e') chromium()
mkdirSync('test-results', { recursive: true })
for (const file of ['unit', 'e2e']) rmSync(`test-results/${file}.json`, { force: true })
for (const [name, part] of Object.entries(PARTS)) if (!only || only === name) part()

const read = file => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null)
const unit = read('test-results/unit.json')
const e2e = read('test-results/e2e.json')
const checks = steps.filter(s => !s.counts)
const missing = counted.filter(name => !existsSync(`test-results/${name}.json`)).length
const passed =
  (unit?.numPassedTests ?? 0) +
  (e2e ? e2e.stats.expected + e2e.stats.flaky : 0) +
  checks.filter(s => s.status === 0).length
const found =
  (unit?.numFailedTests ?? 0) + (e2e?.stats.unexpected ?? 0) + checks.filter(s => s.status !== 0).length + missing
// A step that failed without a failed test (a file that does not load, say) still counts.
const failed = Math.max(found, steps.filter(s => s.status !== 0).length)
const skipped = (unit?.numPendingTests ?? 0) + (e2e?.stats.skipped ?? 0)
console.log(`${passed} passed, ${failed} failed${skipped ? `, ${skipped} skipped` : ''}`)
process.exit(failed ? 1 : 0)
