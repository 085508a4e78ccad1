import { draco } from '../draco'
import { tangents } from './compress'
import type { TangentMaker } from '../../core/bake/tangents'
import { bakedTangents, deliveredMesh, deliveredTangents, type Delivered } from '../../core/deliver/delivered'
import { Subject } from '../../core/deliver/subject'
import { DeliveryError, type DeliverySettings } from '../../core/deliver/settings'
import { withVariant } from '../../core/graph/variants'
import { Workpiece } from '../../core/evaluate/workpiece'
import { readMesh } from '../../core/exchange/readMesh'
import type { Look } from '../../core/graph/look'
import { reseed } from '../../core/graph/recipe'
import { loadKernels, type Kernels } from '../../core/kernels/kernels'
import type { VertexMap } from '../../core/mesh/mesh'
import type { Work } from './workSchema'

/** A delivery's mesh, prepared, and its looks. */
export interface OpenWork {
  kernels: Kernels
  piece: Workpiece
  delivered: Delivered
  subjects: { name: string; seed: number; look: Look; subject: Subject }[]
  /** The geometry maps, for threads that open the same work. */
  maps: VertexMap[]
  /** Four numbers for each corner of each triangle, where a picture needs them. */
  tangents?: Float32Array
}

const bends = (subject: Pick<Subject, 'glbMaps' | 'fileMaps'>): boolean =>
  [...subject.glbMaps(), ...subject.fileMaps()].some(s => s.lanes.some(l => l.startsWith('normal.')))

/**
 * The mesh of a work, prepared, with its geometry maps and pictures.
 * @throws MeshFileError and others, whose message is one sentence
 */
export async function openPiece(work: Work, progress?: (share: number, what: string) => void): Promise<Workpiece> {
  const piece = new Workpiece(
    await readMesh(work.mesh.bytes, work.mesh.name, { draco, ...(work.limits && { limits: work.limits }) }),
    work.preparation,
    work.keys,
  )
  const vertices = piece.analysis.mesh.positions.length / 3
  const whole = work.preparation.maps.every(({ name }) =>
    work.maps.some(m => m.name === name && m.values.length === vertices * m.components),
  )
  if (whole) piece.setComputed(work.maps)
  else piece.computeAll((map, share) => progress?.(share, `computing the geometry map ${map}`))
  piece.setPictures(work.pictures)
  return piece
}

/**
 * @param ready the same mesh with its geometry maps and pictures, where it is open already
 * @throws MeshFileError and others, whose message is one sentence
 */
export async function openWork(
  work: Work,
  progress?: (share: number, what: string) => void,
  ready?: Workpiece,
  make: TangentMaker = tangents,
): Promise<OpenWork> {
  const kernels = await loadKernels()
  const piece = ready ?? (await openPiece(work, progress))
  const wanted = work.preparation.maps.map(m => m.name)
  const { settings } = work
  const kept = settings.variants.map(name => {
    const found = work.look.variants?.find(v => v.name === name)
    if (!found) throw new DeliveryError(`The look has no variant "${name}".`)
    return { name, seed: 0, look: withVariant(work.look, found) }
  })
  const looks = [
    ...settings.seeds.map(seed => ({ name: seed ? `seed ${seed}` : 'as it is', seed, look: reseed(work.look, seed) })),
    ...kept,
  ]
  const subjectsWith = (delivered: Delivered, corner?: Float32Array) =>
    looks.map(l => ({
      ...l,
      subject: new Subject(kernels, piece, delivered, l.look, settings, corner, () => performance.now()),
    }))
  // Tangents are found only where a normal picture is asked for: on a large mesh they take a while.
  const plain = deliveredMesh(piece, settings.on)
  const first = subjectsWith(plain)
  const corners = first.some(s => bends(s.subject)) ? deliveredTangents(piece, settings.on, make) : undefined
  const delivered = corners ? deliveredMesh(piece, settings.on, corners) : plain
  const baked = corners && bakedTangents(piece, settings.on, corners)
  return {
    kernels,
    piece,
    delivered,
    subjects: baked ? subjectsWith(delivered, baked) : first,
    maps: piece.tables.mesh.maps.filter(m => wanted.includes(m.name)),
    ...(baked && { tangents: baked }),
  }
}

/** The settings as they are carried out: a procedural material reads values that only the analysis mesh has. */
export const settled = (settings: DeliverySettings): DeliverySettings =>
  settings.materials.includes('procedural') ? { ...settings, on: 'analysis' } : settings
