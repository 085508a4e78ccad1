import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { deliverySchema } from '#core/deliver/settings'
import type { Manifest } from '#core/deliver/manifest'
import { Workpiece } from '#core/evaluate/workpiece'
import { writeGlb } from '#core/exchange/writeGlb'
import type { Look } from '#core/graph/look'
import type { Mesh } from '#core/mesh/mesh'
import { emptyPreparation, type Preparation } from '#core/mesh/preparation'
import { deliver } from '../node/bake/deliver'

/** What a delivery of a mesh and a look holds: files by path. Everything is baked on this thread. */
export async function delivered(
  mesh: Mesh,
  look: Look,
  settings: object,
  preparation: Preparation = emptyPreparation(),
): Promise<{ files: Map<string, Uint8Array>; manifest: Manifest }> {
  const folder = await mkdtemp(join(tmpdir(), 'ubblet-delivered-'))
  const out = join(folder, 'out')
  const piece = new Workpiece(mesh, preparation)
  try {
    const work = {
      mesh: { name: 'mesh.glb', bytes: await writeGlb(mesh, 'mesh') },
      preparation,
      maps: [],
      pictures: [],
      look,
      settings: deliverySchema.parse(settings),
    }
    const manifest = await deliver(work, out, {
      name: look.name || 'Look',
      stem: 'it',
      cache: join(folder, 'cache'),
      threads: 0,
      piece,
    })
    const files = new Map<string, Uint8Array>()
    for (const entry of await readdir(out, { recursive: true, withFileTypes: true })) {
      if (entry.isFile())
        files.set(
          relative(out, join(entry.parentPath, entry.name)),
          new Uint8Array(await readFile(join(entry.parentPath, entry.name))),
        )
    }
    return { files, manifest }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
export const deliveredGlb = async (
  mesh: Mesh,
  look: Look,
  settings: object = {},
  preparation?: Preparation,
): Promise<Uint8Array> => (await delivered(mesh, look, { size: 512, ...settings }, preparation)).files.get('it.glb')!
