import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach } from 'vitest'
import { Store } from '../../../node/store/store'

const folders: string[] = []
const stores: Store[] = []

/** A new folder, which goes with the test. */
export function newFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'ubblet-unit-'))
  folders.push(folder)
  return folder
}

/** A store on a file, closed with the test. */
export async function opened(file = join(newFolder(), 'u.db'), patience = 3000): Promise<Store> {
  const store = await Store.open({ url: `file:${file}`, patience })
  stores.push(store)
  return store
}

afterEach(() => {
  for (const store of stores.splice(0)) store.close()
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true })
})
