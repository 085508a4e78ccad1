// After the build: what the server starts in processes of its own, and the demo, go beside it, so that `.output` runs
// without anything else of this folder.
import { cpSync, readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'

const server = '.output/server'
const jobs = join(server, 'jobs')
rmSync(jobs, { recursive: true, force: true })
for (const name of readdirSync('dist'))
  if (/^(?!cli)(job-piece-\w+|\w+-(job|thread))\.mjs(\.map)?$/.test(name)) cpSync(join('dist', name), join(jobs, name))
cpSync('dist/demo', join(jobs, 'demo'), { recursive: true })
// They read files beside their own, so they are not bundled.
for (const name of ['mikktspace', '@jsquash/webp', 'wasm-feature-detect'])
  cpSync(join('node_modules', name), join(server, 'node_modules', name), { recursive: true })
