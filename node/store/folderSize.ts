import { readdir, stat } from 'node:fs/promises'
import { join } from 'node:path'

/** How many files lie below a folder, and their bytes; none where it is not there. */
export async function folderSize(folder: string): Promise<{ count: number; bytes: number }> {
  let bytes = 0
  let count = 0
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])) {
    if (!entry.isFile()) continue
    bytes += await stat(join(entry.parentPath, entry.name)).then(
      s => s.size,
      () => 0,
    )
    count++
  }
  return { count, bytes }
}
