// npm test: types, lint, unit tests, browser tests. Ends with one line that counts them.
import { spawn } from 'node:child_process'
import { availableParallelism, constants, setPriority } from 'node:os'
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { setTimeout as wait } from 'node:timers/promises'
import { build, chromium, run } from './lib.mjs'

/** How each step ended, and which of them count their tests themselves. */
const steps = []
const counted = []
const took = from => `${((Date.now() - from) / 1000).toFixed(1)} s`
const tell = (name, status, from) => console.log(`${status === 0 ? 'ok' : 'FAILED'}  ${name} (${took(from)})`)

/** Runs a program whose tests are counted, and shows what it says as it says it. */
function tests(name, args, env = {}) {
  const from = Date.now()
  const status = run(process.execPath, args, { env: { ...process.env, ...env } })
  tell(name, status, from)
  steps.push({ status, counts: true })
}

/** Lets others have the processor first: what takes longest is not to wait for what can be done beside it. */
function giveWay(child) {
  try {
    setPriority(child.pid, constants.priority.PRIORITY_BELOW_NORMAL)
  } catch {
    // It has ended, or the system keeps no such order: then it takes its turn.
  }
  return child
}

/** Runs a program, and shows what it says at its end. */
const check = (name, args) =>
  new Promise(resolve => {
    const from = Date.now()
    const child = giveWay(spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'pipe'] }))
    let said = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', text => (said += text))
    child.on('close', status => {
      if (said.trim()) console.log(said.trimEnd())
      tell(name, status, from)
      steps.push({ status: status ?? 1, counts: false })
      resolve()
    })
  })

/** Runs checks of a list, one after the other, until others have taken the last. */
async function lane(waiting) {
  for (let next = waiting.shift(); next; next = waiting.shift()) await check(...next)
}

/** Runs checks, as many at a time as there are cores; the longest ones come first. */
async function checks(list) {
  const waiting = [...list]
  await Promise.all(Array.from({ length: Math.min(availableParallelism(), list.length) }, () => lane(waiting)))
}

/** Takes steps of the build in a process of its own. */
const built = (...names) =>
  new Promise(resolve => {
    const child = spawn(process.execPath, ['scripts/build.mjs', ...names], { stdio: 'inherit' })
    // What is built beside it takes longer.
    if (names.includes('demo')) giveWay(child)
    child.on('close', status => {
      if (status !== 0) process.exit(status ?? 1)
      resolve()
    })
  })

/** Resolves when the build of the application has written the types of the interface, or is through. */
async function typed(building) {
  let isBuilt = false
  void building.then(() => (isBuilt = true))
  while (!isBuilt && !existsSync(TYPED)) await wait(200)
}
const TYPED = '.nuxt/typed'

/**
 * Builds what is installed, and checks, so that no core waits: most steps of a build take hardly more than one. Checks
 * begin as soon as there is what they read.
 */
async function buildAndCheck() {
  rmSync(TYPED, { force: true })
  const lint = checks(LINT)
  await built('kernels', 'bundle')
  const building = built('application')
  const demo = built('demo')
  await Promise.all([
    lint,
    typed(building).then(() => check(...APP_TYPES)),
    demo.then(() => checks(PLAIN_TYPES)),
    building.then(() => checks(SERVER_TYPES)),
    // The demo goes beside the server, too.
    Promise.all([building, demo]).then(() => built('output')),
  ])
}

/** What checks remember of files that stay as they are; it goes with the packages. */
const CACHE = 'node_modules/.cache/ubblet'
const remembered = ['--incremental', '--tsBuildInfoFile', `${CACHE}/app.tsbuildinfo`]
const byContent = name => ['--cache', '--cache-strategy', 'content', '--cache-location', `${CACHE}/${name}`]
/** By the compiler that is itself compiled, in a tenth of the time. */
const types = (name, project) => [name, ['node_modules/typescript-native/bin/tsc', '--noEmit', '-p', project]]
/** Of the interface, by what the build writes into `.nuxt` first. */
const COMPONENTS = ['scripts/components.mjs', '.nuxt/tsconfig.app.json', 'app', '.nuxt/vue']
const APP_TYPES = ['types of the application', [...COMPONENTS, ...remembered]]
/** By what it writes last. */
const SERVER_TYPES = [
  types('types of the server', '.nuxt/tsconfig.server.json'),
  types('types of the settings', '.nuxt/tsconfig.node.json'),
]
const PLAIN_TYPES = [
  types('types of tools and tests', 'tsconfig.tools.json'),
  types('types of core', 'tsconfig.core.json'),
]
const LINT = [
  ['lint', ['node_modules/oxlint/bin/oxlint', '--deny-warnings']],
  [
    'lint of components',
    ['node_modules/eslint/bin/eslint.js', '--max-warnings', '0', ...byContent('eslint'), 'app/**/*.vue'],
  ],
  ['layout of the code', ['node_modules/oxfmt/bin/oxfmt', '--list-different', '.']],
]

/** What belongs to each part of the tests; `npm test` runs all of them, `npm run types` and its like one. */
const PARTS = {
  types: () => checks([APP_TYPES, ...SERVER_TYPES, ...PLAIN_TYPES]),
  lint: () => checks(LINT),
  unit() {
    const json = ['--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json']
    tests('unit tests', ['node_modules/vitest/vitest.mjs', 'run', ...json])
    counted.push('unit')
  },
  e2e() {
    tests('browser tests', ['node_modules/@playwright/test/cli.js', 'test'], { CHROMIUM: chromium() })
    counted.push('e2e')
  },
}

const [only] = process.argv.slice(2)
if (only && !PARTS[only]) {
  console.error(`There are ${Object.keys(PARTS).join(', ')}; not ${only}.`)
  process.exit(2)
}
// Before the long steps, so that a machine without one says so at once.
if (!only || only === 'e2e') chromium()
if (only) build()
else await built('install')
// Every process of Node reads these when it begins, and takes three times as long. From here on nothing is fetched.
delete process.env.NODE_EXTRA_CA_CERTS
mkdirSync('test-results', { recursive: true })
for (const file of ['unit', 'e2e']) rmSync(`test-results/${file}.json`, { force: true })
if (only) await PARTS[only]()
else {
  await buildAndCheck()
  PARTS.unit()
  PARTS.e2e()
}

const read = file => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null)
const unit = read('test-results/unit.json')
const e2e = read('test-results/e2e.json')
const plain = steps.filter(s => !s.counts)
const missing = counted.filter(name => !existsSync(`test-results/${name}.json`)).length
const passed =
  (unit?.numPassedTests ?? 0) +
  (e2e ? e2e.stats.expected + e2e.stats.flaky : 0) +
  plain.filter(s => s.status === 0).length
const found =
  (unit?.numFailedTests ?? 0) + (e2e?.stats.unexpected ?? 0) + plain.filter(s => s.status !== 0).length + missing
// A step that failed without a failed test (a file that does not load, say) still counts.
const failed = Math.max(found, steps.filter(s => s.status !== 0).length)
const skipped = (unit?.numPendingTests ?? 0) + (e2e?.stats.skipped ?? 0)
console.log(`${passed} passed, ${failed} failed${skipped ? `, ${skipped} skipped` : ''}`)
process.exit(failed ? 1 : 0)
