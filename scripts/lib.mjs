// What the npm commands share. Node's own modules only: this runs before anything is installed.
import { execFileSync, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..')
process.chdir(ROOT)
process.env.NUXT_TELEMETRY_DISABLED = '1'
process.env.UBBLET_HOME = ROOT

const [major, minor] = process.versions.node.split('.').map(Number)
if (major < 20 || (major === 20 && minor < 19)) {
  console.error(`Ubblet needs Node.js 20.19 or newer; this is ${process.versions.node}.`)
  process.exit(1)
}

/** Hash of files and folders: names and contents. */
export function hashOf(paths) {
  const hash = createHash('sha256').update(process.version)
  const visit = path => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort())
        if (name !== 'generated' && name !== 'node_modules') visit(join(path, name))
    } else hash.update(path).update('\0').update(readFileSync(path)).update('\0')
  }
  paths.forEach(visit)
  return hash.digest('hex')
}

/** Does a step unless its inputs are those of the last time and its product is still there. */
export function once(name, inputs, product, step) {
  const stamp = join('node_modules', '.cache', `ubblet-${name}`)
  const hash = hashOf(inputs)
  if (existsSync(product) && existsSync(stamp) && readFileSync(stamp, 'utf8') === hash) return false
  // One that is broken off is taken again, whatever its inputs are by then.
  rmSync(stamp, { force: true })
  step()
  mkdirSync(dirname(stamp), { recursive: true })
  writeFileSync(stamp, hash)
  return true
}

export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { stdio: 'inherit', ...options })
  if (done.error) throw done.error
  return done.status ?? 1
}

export function must(command, args, options) {
  const status = run(command, args, options)
  if (status !== 0) {
    console.error(`${command} ${args.join(' ')} failed (${status}).`)
    process.exit(status)
  }
}

export const node = (script, ...args) => must(process.execPath, [script, ...args])

/** What is made of the sources, in an order in which each finds what it needs. */
export const STEPS = {
  /** Packages from the lock file. */
  install() {
    // What builds is wanted, too, whatever NODE_ENV says.
    once('install', ['package.json', 'package-lock.json', '.npmrc'], 'node_modules/nuxt/package.json', () =>
      must('npm', ['ci', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error']),
    )
  },
  kernels() {
    once(
      'kernels',
      ['core/kernels/assembly', 'scripts/kernels.mjs', 'package-lock.json'],
      'core/kernels/generated/bytes.ts',
      () => node('scripts/kernels.mjs'),
    )
  },
  /** The command line and the server's jobs, and the light of the rigs. */
  bundle() {
    once(
      'rigs',
      ['core/light', 'core/trace', 'core/mesh/vector.ts', 'scripts/rigs.mjs', 'package-lock.json'],
      'app/stage/generated/overcast.bin',
      () => node('scripts/rigs.mjs'),
    )
    node('scripts/versions.mjs')
    once(
      'bundle',
      ['core', 'cli', 'demo', 'node', 'server/jobs', 'scripts/bundle.mjs', 'scripts/bundling.mjs', 'package-lock.json'],
      'dist/cli.mjs',
      () => node('scripts/bundle.mjs'),
    )
  },
  /** The demo. Its geometry maps take the longest: those that are still what is computed stay. */
  demo() {
    once('demo', ['core', 'demo', 'server/jobs/demo.ts', 'package-lock.json'], 'dist/demo/mooring-winch.json', () =>
      node('dist/demo-job.mjs', '--write', 'dist/demo'),
    )
  },
  /** The application and its server, and `.nuxt`, by which its types are checked. */
  application() {
    once(
      'application',
      [...OF_APPLICATION, 'app', 'modules', 'public', 'scripts/bundling.mjs', 'nuxt.config.ts'],
      '.output/server/index.mjs',
      () =>
        // Little of what it makes is kept, so that more room for what is new is less to clear up.
        must(process.execPath, ['--max-semi-space-size=128', 'node_modules/nuxt/bin/nuxt.mjs', 'build']),
    )
    // The development server may have left one, or nobody.
    if (!existsSync('.nuxt/tsconfig.app.json')) node('node_modules/nuxt/bin/nuxt.mjs', 'prepare')
  },
  /** What the server needs beside itself. */
  output() {
    once(
      'output',
      [...OF_APPLICATION, 'scripts/output.mjs', 'scripts/bundling.mjs'],
      '.output/server/jobs/demo/mooring-winch-cast.json',
      () => node('scripts/output.mjs'),
    )
  },
}
const OF_APPLICATION = ['core', 'node', 'server', 'demo', 'package-lock.json']

/** What the command line needs. */
export function setup() {
  STEPS.install()
  STEPS.kernels()
  STEPS.bundle()
  STEPS.demo()
}

export function build() {
  setup()
  STEPS.application()
  STEPS.output()
}

/**
 * The path of a Chromium, from Debian's packages where there is none yet: without the windows around pages where there
 * is that, which starts and draws with less work.
 */
export function chromium() {
  const candidates = [
    process.env.CHROMIUM,
    '/usr/bin/chromium-headless-shell',
    '/usr/bin/chromium',
    '/usr/bin/chromium-browser',
    '/usr/bin/google-chrome',
  ].filter(Boolean)
  const found = () => candidates.find(path => existsSync(path))
  if (!found()) {
    console.log("Chromium is missing; installing Debian's package.")
    const sudo = process.getuid?.() === 0 ? [] : ['sudo']
    const apt = (...args) =>
      execFileSync([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), ...args], {
        stdio: 'inherit',
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      })
    apt('update')
    const install = name => apt('install', '-y', '--no-install-recommends', name)
    try {
      install('chromium-headless-shell')
    } catch {
      // Older releases have the whole browser only.
      install('chromium')
    }
  }
  const path = found()
  if (!path) {
    console.error('The browser tests need Chromium: install the package "chromium", or name a binary in CHROMIUM.')
    process.exit(1)
  }
  return path
}
