import { readFile, readdir } from 'node:fs/promises'
import { expect, it } from 'vitest'
import { reference, withFormats } from '../../docs/reference'

it('the node reference is what the declarations say', async () => {
  expect(await readFile('docs/reference.md', 'utf8')).toBe(reference())
})

it('the table of what each format carries is what the declarations say', async () => {
  const page = await readFile('docs/delivering.md', 'utf8')
  expect(page).toContain('KHR_materials_variants')
  expect(withFormats(page)).toBe(page)
  expect(withFormats(page.replace(/KHR_\w+/, 'nothing'))).toBe(page)
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
