// npm test: types, lint, unit tests, browser tests. Ends with one line that counts them.
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { build, chromium, run } from './lib.mjs'

build()
const browser = chromium()
const steps = []
const step = (name, args, env = {}) => {
  const from = Date.now(), status = run(process.execPath, args, { env: { ...process.env, ...env } })
  console.log(`${status === 0 ? 'ok' : 'FAILED'}  ${name} (${((Date.now() - from) / 1000).toFixed(1)} s)`)
  steps.push(status)
}
mkdirSync('test-results', { recursive: true })
for (const file of ['unit', 'e2e']) rmSync(`test-results/${file}.json`, { force: true })

step('types of core', ['node_modules/typescript/bin/tsc', '-p', 'tsconfig.core.json'])
step('types of the application', ['node_modules/vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', '.nuxt/tsconfig.app.json'])
step('types of the server', ['node_modules/vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', '.nuxt/tsconfig.server.json'])
step('types of the settings', ['node_modules/vue-tsc/bin/vue-tsc.js', '--noEmit', '-p', '.nuxt/tsconfig.node.json'])
step('types of tools and tests', ['node_modules/typescript/bin/tsc', '-p', 'tsconfig.tools.json'])
step('lint', ['node_modules/eslint/bin/eslint.js', '--max-warnings', '0', '.'])
step('unit tests', ['node_modules/vitest/vitest.mjs', 'run', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json'])
step('browser tests', ['node_modules/@playwright/test/cli.js', 'test'], { CHROMIUM: browser })

const read = file => existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null
const unit = read('test-results/unit.json'), e2e = read('test-results/e2e.json')
const checks = steps.slice(0, -2), missing = (unit ? 0 : 1) + (e2e ? 0 : 1)
const passed = (unit?.numPassedTests ?? 0) + (e2e ? e2e.stats.expected + e2e.stats.flaky : 0) + checks.filter(s => s === 0).length
const counted = (unit?.numFailedTests ?? 0) + (e2e?.stats.unexpected ?? 0) + checks.filter(s => s !== 0).length + missing
// A step that failed without a failed test (a file that does not load, say) still counts.
const failed = Math.max(counted, steps.filter(s => s !== 0).length)
const skipped = (unit?.numPendingTests ?? 0) + (e2e?.stats.skipped ?? 0)
console.log(`${passed} passed, ${failed} failed${skipped ? `, ${skipped} skipped` : ''}`)
process.exit(failed ? 1 : 0)
