import { eq, inArray } from 'drizzle-orm'
import { availableParallelism } from 'node:os'
import { deliverySchema, DeliveryError } from '#core/deliver/settings'
import { picturesOn } from '#core/exchange/lookFile'
import { parseLook } from '#core/graph/look'
import { declarationOf } from '#core/geometry/maps'
import { mapIdOf, type Preparation } from '#core/mesh/preparation'
import type { DeliveryJob } from '../jobs/deliveryMessages'
import { getBlob } from '../../node/store/blobs'
import { decodings, geometryMaps, type deliveries } from '../../node/store/schema'
import type { Store } from '../../node/store/store'
import { cacheFolder, cacheMegabytes, folderOf } from '../../node/store/places'
import { limits } from '../utils/limits'
import { pictureKind } from '../utils/pictures'
import { findRevision, keysOf, picturesOf, preparationOf, type PictureRef } from '../utils/projects'

type DeliveryRow = typeof deliveries.$inferSelect

/** The geometry maps of a preparation that were computed before. */
async function mapsOf(store: Store, meshHash: string, preparation: Preparation) {
  const found = await Promise.all(
    preparation.maps.map(async settings => {
      const [kept] = await store.rows
        .select()
        .from(geometryMaps)
        .where(eq(geometryMaps.id, mapIdOf(meshHash, preparation, settings)))
      const blob = kept && (await getBlob(store, kept.hash))
      if (!blob) return undefined
      const values = new Float32Array(new Uint8Array(blob.bytes).buffer)
      return { name: settings.name, components: declarationOf(settings).components as number, values }
    }),
  )
  return found.filter(m => m !== undefined)
}

/** The pictures that a look names, as PNG files, and as the files that the artist brought. */
async function filesOf(store: Store, wanted: readonly PictureRef[]) {
  const shown = wanted.length
    ? await store.rows
        .select()
        .from(decodings)
        .where(
          inArray(
            decodings.hash,
            wanted.map(p => p.hash),
          ),
        )
    : []
  const originals = new Map<string, Uint8Array>()
  const files: { name: string; bytes: Uint8Array }[] = []
  for (const { name, hash } of wanted) {
    const original = await getBlob(store, hash)
    if (original) originals.set(name, new Uint8Array(original.bytes))
    const decoded = shown.find(d => d.hash === hash)
    const picture = decoded ? await getBlob(store, decoded.decoded) : original
    const kind = picture && pictureKind(picture.bytes)?.type
    if (!picture || (kind !== 'image/png' && kind !== 'image/x-exr')) {
      throw new DeliveryError(
        `The picture ${name} has not been decoded by a browser yet; open the project and deliver from there.`,
      )
    }
    files.push({ name, bytes: new Uint8Array(picture.bytes) })
  }
  return { files, originals }
}

/**
 * All that a delivery is made from: everything as it was in its revision.
 * @param mark in the names of drafts, so that it is known whose they are
 * @throws DeliveryError where something of the revision is not there any more
 */
export async function jobOf(store: Store, row: DeliveryRow, mark: string): Promise<DeliveryJob> {
  const revision = await findRevision(row.project, row.revision).catch(() => undefined)
  if (!revision)
    throw new DeliveryError(
      `Revision ${row.revision} of the project is not there any more; deliver the project as it is now.`,
    )
  const { meshHash } = revision
  const pictures = picturesOf(revision)
  if (!meshHash || !pictures)
    throw new DeliveryError(
      `It is not known which mesh and pictures revision ${row.revision} was made with; deliver the project as it is now.`,
    )
  const mesh = await getBlob(store, meshHash)
  if (!mesh)
    throw new DeliveryError(
      `The mesh of revision ${row.revision} is not there any more; deliver the project as it is now.`,
    )
  const look = parseLook(JSON.parse(revision.look))
  const preparation = preparationOf(revision)
  const names = new Set(picturesOn(look, preparation))
  const { files, originals } = await filesOf(
    store,
    pictures.filter(p => names.has(p.name)),
  )
  const keys = await keysOf(revision)
  return {
    work: {
      mesh: { name: revision.meshName ?? 'mesh.glb', bytes: new Uint8Array(mesh.bytes) },
      preparation,
      ...(keys && { keys }),
      maps: await mapsOf(store, meshHash, preparation),
      look,
      settings: deliverySchema.parse(JSON.parse(row.settings)),
      limits: limits(),
    },
    files,
    originals,
    folder: folderOf(row.id),
    name: row.name,
    revision: row.revision,
    mark,
    cache: cacheFolder(),
    cacheMegabytes: cacheMegabytes(),
    threads: Math.max(1, Number(process.env.UBBLET_THREADS) || availableParallelism()),
  }
}
