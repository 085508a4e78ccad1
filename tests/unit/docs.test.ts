import { readFile, readdir } from 'node:fs/promises'
import { expect, it } from 'vitest'
import { reference } from '../../docs/reference'

it('the node reference is what the declarations say', async () => {
  expect(await readFile('docs/reference.md', 'utf8')).toBe(reference())
})

it('every picture of the reference is there, and no others', async () => {
  expect((await readdir('docs/reference')).sort()).toEqual(
    [...reference().matchAll(/reference\/(\w+\.png)/g)].map(m => m[1]!).sort(),
  )
})

it('the pictures that the README shows are there, and no others', async () => {
  const shown = [...(await readFile('README.md', 'utf8')).matchAll(/docs\/screenshots\/([\w-]+\.png)/g)].map(m => m[1]!)
  expect((await readdir('docs/screenshots')).sort()).toEqual([...new Set(shown)].sort())
})
