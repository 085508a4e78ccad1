import { existsSync } from 'node:fs'
import { constants, copyFile, link, mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { draftOf, sweepDrafts } from './drafts'

/** A delivery that is not complete yet: its files stand beside their place, or within it, until they are put there. */
export class DeliveryDraft {
  /** What is in it, by path, each with the key of the cached picture that it is, if it is one. */
  readonly files = new Map<string, string | undefined>()
  private constructor(
    private readonly draft: string,
    private readonly folder: string,
  ) {}

  /** @param mark whose draft it is, in its name */
  static async begin(folder: string, mark: string): Promise<DeliveryDraft> {
    await sweepDrafts(folder)
    const draft = draftOf(folder, mark)
    await mkdir(draft, { recursive: true })
    return new DeliveryDraft(draft, folder)
  }

  pathOf(path: string): string {
    return join(this.draft, path)
  }

  async put(path: string, data: Uint8Array | string): Promise<void> {
    await mkdir(dirname(this.pathOf(path)), { recursive: true })
    await writeFile(this.pathOf(path), data)
    this.files.set(path, undefined)
  }

  /** Takes a file from elsewhere. @param linked whether both may share their bytes */
  async take(from: string, path: string, key: string, linked: boolean): Promise<void> {
    await mkdir(dirname(this.pathOf(path)), { recursive: true })
    const copy = () => copyFile(from, this.pathOf(path), constants.COPYFILE_FICLONE)
    if (linked) await link(from, this.pathOf(path)).catch(copy)
    else await copy()
    this.files.set(path, key)
  }

  async drop(path: string): Promise<void> {
    await rm(this.pathOf(path))
    this.files.delete(path)
  }
  /** Removes a folder where nothing is in it any more. */
  async dropFolder(folder: string): Promise<void> {
    const used = [...this.files.keys()].some(path => dirname(path) === folder)
    if (folder && !used) await rm(this.pathOf(folder), { recursive: true, force: true })
  }

  async discard(): Promise<void> {
    await rm(this.draft, { recursive: true, force: true })
  }

  /** Puts it in its place. @param last the file that appears when all others are there */
  async settle(last: string): Promise<void> {
    await settle(this.draft, this.folder, last)
  }
}

/** Puts a finished draft in its place; of a folder that is there already, it replaces the files that it has. */
async function settle(draft: string, folder: string, last: string): Promise<void> {
  if (!existsSync(folder)) {
    await mkdir(dirname(folder), { recursive: true })
    // Another run may have made it in the meantime.
    if (
      await rename(draft, folder).then(
        () => true,
        () => false,
      )
    )
      return
    await mkdir(folder, { recursive: true })
  }
  const visit = async (at: string): Promise<void> => {
    for (const entry of await readdir(join(draft, at), { withFileTypes: true })) {
      const path = join(at, entry.name)
      if (entry.isDirectory()) {
        await mkdir(join(folder, path), { recursive: true })
        await visit(path)
      } else if (path !== last) await rename(join(draft, path), join(folder, path))
    }
  }
  await visit('')
  if (existsSync(join(draft, last))) await rename(join(draft, last), join(folder, last))
  await rm(draft, { recursive: true, force: true })
}
