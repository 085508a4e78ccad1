// After the build: the server's code becomes pieces that are quick to read, and what the server starts in processes of
// its own, and the demo, go beside it, so that `.output` runs without anything else of this folder.
import { cpSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { build } from 'esbuild'
import { WITH_REQUIRE } from './bundling.mjs'

const server = '.output/server'

/**
 * Puts together what the server is built of, small files of packages too: a server that starts reads few files, and of
 * the code only what it comes to.
 */
async function gather() {
  const { outputFiles } = await build({
    entryPoints: [join(server, 'index.mjs')],
    outdir: server,
    chunkNames: 'chunks/[name]-[hash]',
    outExtension: { '.js': '.mjs' },
    // They have files beside their own.
    external: ['sharp', 'libsql'],
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    write: false,
    legalComments: 'none',
    logLevel: 'error',
    banner: WITH_REQUIRE,
  })
  rmSync(join(server, 'chunks'), { recursive: true })
  for (const { path, contents } of outputFiles) {
    mkdirSync(dirname(path), { recursive: true })
    writeFileSync(path, contents)
  }
}

const jobs = join(server, 'jobs')
rmSync(jobs, { recursive: true, force: true })
// A second time there would be nothing to do.
if (readdirSync(join(server, 'chunks')).includes('nitro')) await gather()
for (const name of readdirSync('dist'))
  if (/^(?!cli)(job-piece-\w+|\w+-(job|thread))\.mjs(\.map)?$/.test(name)) cpSync(join('dist', name), join(jobs, name))
cpSync('dist/demo', join(jobs, 'demo'), { recursive: true })
// They read files beside their own, so they are not bundled.
for (const name of ['mikktspace', '@jsquash/webp', 'wasm-feature-detect'])
  cpSync(join('node_modules', name), join(server, 'node_modules', name), { recursive: true })
