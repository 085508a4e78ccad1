import { rm } from 'node:fs/promises'
import { setTimeout as wait } from 'node:timers/promises'

/**
 * Removes a folder that processes and threads which were killed may still write to: they notice a moment after it
 * that it is gone. `rm` tries only its last step again, not the files that came in between.
 */
export async function removeFolder(folder: string): Promise<void> {
  for (let i = 0; i < 100; i++) {
    try {
      await rm(folder, { recursive: true, force: true })
      return
    } catch {
      await wait(100)
    }
  }
  await rm(folder, { recursive: true, force: true })
}
