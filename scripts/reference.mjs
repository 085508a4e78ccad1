// Writes docs/reference.md and its pictures from the nodes' own declarations. `--check` only says whether it is up to date.
import { build } from 'esbuild'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'
import { resolve } from 'node:path'

mkdirSync('dist', { recursive: true })
await build({
  entryPoints: ['docs/reference.ts'],
  outfile: 'dist/reference.mjs',
  bundle: true,
  platform: 'node',
  format: 'esm',
  logLevel: 'warning',
  banner: {
    js: 'import { createRequire as ubCreateRequire } from "node:module"; const require = ubCreateRequire(import.meta.url);',
  },
})
const { pictures, reference } = await import(pathToFileURL(resolve('dist/reference.mjs')).href)
const text = reference()
if (process.argv.includes('--check')) {
  if (readFileSync('docs/reference.md', 'utf8') !== text) {
    console.error('docs/reference.md is out of date: run node scripts/reference.mjs')
    process.exit(1)
  }
} else {
  writeFileSync('docs/reference.md', text)
  mkdirSync('docs/reference', { recursive: true })
  for (const [name, png] of await pictures()) writeFileSync(`docs/reference/${name}`, png)
}
