import { rename } from 'node:fs/promises'
import { join } from 'node:path'
import { LaneError } from '../core/bake/lanes'
import type { DeliverySettings } from '../core/deliver/settings'
import { check } from '../core/graph/check'
import type { Mesh } from '../core/mesh/mesh'
import { deliver, type DeliverOptions } from '../node/bake/deliver'
import { pruneCache } from '../node/bake/pruneCache'
import { aheadOf } from './ahead'
import type { BakingOptions } from './command'
import { unwritten } from './files'
import { namesOf, openMesh, pictureFile, type OpenLook, type OpenMesh } from './pieces'
import { UsageError } from './usage'
import type { Voice } from './voice'

/** Megabytes of finished pictures that are kept, unless UBBLET_CACHE_MEGABYTES says otherwise. */
const CACHE_MEGABYTES = 8192

/** A look on a mesh, about to leave. */
export interface Leaving {
  open: OpenLook
  mesh: OpenMesh
}

/** Opens the mesh for a look, and refuses one with an error in it. */
export async function leaving(
  open: OpenLook,
  asked: BakingOptions,
  voice: Voice,
  refuse?: (mesh: Mesh) => void,
): Promise<Leaving> {
  const mesh = await openMesh(asked, voice, open, refuse)
  const broken = check(open.look, namesOf(mesh.piece)).find(f => f.severity === 'error')
  if (broken) throw new UsageError(`${open.path}: ${broken.message}`)
  return { open, mesh }
}

/** Carries one delivery out. @returns its manifest's files, as paths from here, and what was left out */
export async function leave(
  { open, mesh }: Leaving,
  settings: DeliverySettings,
  folder: string,
  options: Pick<DeliverOptions, 'stem' | 'bare' | 'pictures' | 'contact'>,
  asked: BakingOptions,
  voice: Voice,
): Promise<{ files: string[]; leftOut: readonly string[] }> {
  const { piece, pictures, preparation, keys, name, bytes } = mesh
  const originals = new Map<string, Uint8Array>()
  for (const p of pictures) originals.set(p.name, await pictureFile(open, p.name))
  const maps = piece.tables.mesh.maps.filter(m => preparation.maps.some(p => p.name === m.name))
  const input = {
    mesh: { name, bytes },
    preparation,
    maps,
    pictures: pictures.map(p => ({ ...p, data: Uint8Array.from(p.data) })),
    look: open.look,
    settings,
    ...(keys && { keys }),
  }
  const manifest = await deliver(input, folder, {
    ...options,
    name: open.look.name || 'Look',
    cache: asked.cache,
    originals,
    piece,
    threads: asked.threads,
    progress: voice.progress,
    ahead: missing => voice.note(aheadOf(piece, settings, missing, asked.threads)),
  }).catch((error: NodeJS.ErrnoException & { dest?: string }) => {
    // A file that is finished and cannot take its place is named itself.
    if (error.code) throw unwritten(error.dest ?? folder, error)
    throw error instanceof LaneError ? new UsageError(`${open.path}: ${error.message}`) : error
  })
  for (const left of manifest.leftOut) voice.note(`left out: ${left}`)
  for (const why of manifest.baked) voice.note(`baked: ${why}`)
  await pruneCache(asked.cache, Number(process.env.UBBLET_CACHE_MEGABYTES) || CACHE_MEGABYTES)
  return { files: manifest.files.map(f => join(folder, f.path)), leftOut: manifest.leftOut }
}

/** Gives a file of a delivery the name that was asked for. */
export async function renamed(files: readonly string[], from: string, to: string): Promise<string[]> {
  await rename(from, to)
  return files.map(f => (f === from ? to : f))
}
