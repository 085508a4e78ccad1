import { materialOf } from '../../exchange/writeMaterialX'
import type { Compression } from '../../exchange/compression'
import type { MapSpec } from '../../bake/maps'
import type { MeshTables } from '../../evaluate/tables'
import type { Primvar } from '../../exchange/usdMesh'
import type { PictureUse } from '../../exchange/usdPreview'
import type { Look } from '../../graph/look'
import type { Kernels } from '../../kernels/kernels'
import type { Delivered } from '../delivered'
import type { Subject } from '../subject'

/** What of a look can leave, and how it is called in the table of what each format carries. */
export const CARRIED = {
  baseColor: 'base color',
  metalRough: 'metalness, roughness',
  occlusion: 'occlusion',
  normal: 'normal',
  height: 'height',
  emission: 'emission',
  opacity: 'opacity',
  translucency: 'translucency',
  values: 'part and vertex values',
  variants: 'variants',
} as const
/** How a format carries each; what is left out it does not carry. */
export type Carries = Partial<Record<keyof typeof CARRIED, string>>

/** Where a format is chosen: among the meshes, the material documents, or the tables. */
export type Section = 'meshes' | 'materials' | 'tables'

/** A delivery about to be written: its pictures are baked. */
export interface Leaving {
  /** What its files are called, and the look. */
  stem: string
  lookName: string
  kernels: Kernels
  tables: MeshTables
  delivered: Delivered
  /** The look and its variants, the look first. */
  subjects: readonly { name: string; look: Look; subject: Subject }[]
  tiles: readonly number[]
  /** Where a picture of a variant lies within the delivery, and how its numbers are to be read. */
  picture(variant: number): (spec: MapSpec) => PictureUse
  /** The pictures inside a mesh file, as the settings say. */
  embedded(variant: number, tile: number): Promise<Uint8Array[]>
  /** The pictures that documents read, by their paths. */
  documentPictures(): Promise<ReadonlyMap<string, Uint8Array>>
  /** Values on the vertices. */
  values: readonly Primvar[]
  /** Three numbers a vertex, where the base color is there. */
  vertexColors?: Float32Array
  /** Of the parts, where they are asked for. */
  keys?: readonly string[]
  /** How the vertices of a GLB are packed. */
  compression: Compression
}

/** A variant's name in files that hold several; that of the look where there is one. */
export const variantName = ({ subjects, lookName }: Leaving, name: string): string =>
  subjects.length > 1 ? name : lookName
/** As {@link variantName}, with the look's name before it. */
export const materialName = ({ subjects, lookName }: Leaving, name: string): string =>
  subjects.length > 1 ? `${lookName} ${name}` : lookName
/** What the file of one variant is called, without its ending. */
export const fileOfVariant = ({ subjects, stem }: Leaving, plain: string): string =>
  subjects.length > 1 ? `${stem}_${plain}` : stem

/** The file of the procedural document. */
export const proceduralFile = ({ stem }: Leaving): string => `${stem}.procedural.mtlx`
/** What a layer beside it calls it, and the material in it. */
export const proceduralBeside = (leaving: Leaving): { document: string; material: string } => ({
  document: proceduralFile(leaving),
  material: materialOf(materialName(leaving, ''), 'open_pbr_surface'),
})

/** A kind of file that a delivery can hold. */
export interface DeliveryFormat<W extends string = string> {
  /** How it is asked for. */
  word: W
  section: Section
  title: string
  /** What it is good for, in a sentence. */
  help: string
  /** Its ending, by which the command line knows it, and what follows the name of its file in a delivery. */
  ending: string
  suffix?: string
  carries: Carries
  /** What has to leave with it. */
  with?: { meshes: string[] }
  /** Whether it has pictures inside of it that nobody else reads. */
  embeds?: true
  /** Whether it reads pictures: from files beside it, or from a package with them inside. */
  reads?: 'beside' | 'inside'
  /** Whether its base color cannot be a picture without UVs. */
  needsUvs?: true
  /** Why it cannot hold what is asked for, in a sentence. @param variants how many */
  refuses?(asked: { variants: number; colorIn: 'texture' | 'vertices' }): string | undefined
  /** The files and what they hold. */
  files(leaving: Leaving): Promise<[path: string, data: Uint8Array | string][]>
}

/** Declares a format. */
export const defineFormat = <const W extends string>(declared: DeliveryFormat<W>): DeliveryFormat<W> => declared
