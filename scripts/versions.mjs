// Writes the versions of what is kept between runs: hashes of the sources that compute it, so that nobody is handed
// what an older program has made.
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const FILE = 'core/kernels/generated/versions.ts'
/** Generated from what is hashed, or no code. */
const LEFT_OUT = ['generated', 'README.md']
/** Packages that compute, too. */
const PACKAGES = ['three-mesh-bvh', 'assemblyscript', '@dagrejs/dagre', 'fflate', 'mikktspace']

function addSources(hash, path) {
  if (!existsSync(path)) throw new Error(`${path} is not there.`)
  if (!statSync(path).isDirectory()) {
    // Line ends differ between checkouts.
    hash.update(path).update('\0').update(readFileSync(path, 'utf8').replaceAll('\r\n', '\n')).update('\0')
    return
  }
  for (const name of readdirSync(path).sort()) if (!LEFT_OUT.includes(name)) addSources(hash, join(path, name))
}

function versionOf(paths) {
  const hash = createHash('sha256')
  const { packages } = JSON.parse(readFileSync('package-lock.json', 'utf8'))
  for (const name of PACKAGES) hash.update(`${name} ${packages[`node_modules/${name}`]?.version ?? ''}\0`)
  for (const path of paths) addSources(hash, path)
  return hash.digest('hex').slice(0, 16)
}

const GEOMETRY = ['core/geometry', 'core/kernels/assembly/rays.ts', 'core/kernels/rays.ts', 'core/mesh']
const text = `/** What computes geometry maps, and baked pictures, as a hash of its sources. Written by scripts/versions.mjs. */
export const GEOMETRY_VERSION = '${versionOf(GEOMETRY)}'
export const BAKE_VERSION = '${versionOf(['core', 'node/bake'])}'
`
mkdirSync('core/kernels/generated', { recursive: true })
if (!existsSync(FILE) || readFileSync(FILE, 'utf8') !== text) writeFileSync(FILE, text)
