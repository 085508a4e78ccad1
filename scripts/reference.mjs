// Writes docs/reference.md and its pictures from the nodes' own declarations, and the table of formats in
// docs/delivering.md from theirs. `--check` only says whether they are up to date.
import { build } from 'esbuild'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
import { resolve } from 'node:path'
import { WITH_REQUIRE } from './bundling.mjs'

mkdirSync('dist', { recursive: true })
await build({
  entryPoints: ['docs/reference.ts'],
  outfile: 'dist/reference.mjs',
  bundle: true,
  platform: 'node',
  format: 'esm',
  logLevel: 'warning',
  banner: WITH_REQUIRE,
})
const { pictures, reference, withFormats } = await import(pathToFileURL(resolve('dist/reference.mjs')).href)
const pages = new Map([
  ['docs/reference.md', reference()],
  ['docs/delivering.md', withFormats(readFileSync('docs/delivering.md', 'utf8'))],
])
if (process.argv.includes('--check')) {
  for (const [path, text] of pages) {
    if (readFileSync(path, 'utf8') === text) continue
    console.error(`${path} is out of date: run node scripts/reference.mjs`)
    process.exit(1)
  }
} else {
  for (const [path, text] of pages) writeFileSync(path, text)
  mkdirSync('docs/reference', { recursive: true })
  for (const [name, png] of await pictures()) writeFileSync(`docs/reference/${name}`, png)
}
