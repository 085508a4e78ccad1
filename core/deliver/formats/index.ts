import baked from './baked'
import csv from './csv'
import { CARRIED, type Carries, type DeliveryFormat, type Section } from './declare'
import glb from './glb'
import json from './json'
import ply from './ply'
import procedural from './procedural'
import usda from './usda'
import usdz from './usdz'

/** The kinds of files that a delivery can hold, by where they are chosen, in the order of menus. */
export const FORMATS = {
  meshes: [glb, ply, usda, usdz],
  materials: [baked, procedural],
  tables: [csv, json],
} as const satisfies Record<Section, readonly DeliveryFormat[]>

/** The words of each section, as settings name them. */
export const MESH_WORDS = FORMATS.meshes.map(f => f.word)
export const MATERIAL_WORDS = FORMATS.materials.map(f => f.word)
export const TABLE_WORDS = FORMATS.tables.map(f => f.word)

/** All of them. */
export const DELIVERY_FORMATS: readonly DeliveryFormat[] = Object.values(FORMATS).flat()

/** The formats that settings ask for. */
export const formatsOf = (settings: Readonly<Record<Section, readonly string[]>>): DeliveryFormat[] =>
  DELIVERY_FORMATS.filter(f => settings[f.section].includes(f.word))

/** What is to be delivered, and what carries its colors. */
type Wanted = Readonly<Record<Section, readonly string[]>> & { colorIn: 'texture' | 'vertices' }

/** Whether what settings ask for has textures that colors on the vertices could stand for. */
export const wearsTextures = (settings: Wanted): boolean =>
  settings.colorIn === 'texture' && formatsOf(settings).some(f => f.needsUvs)

/** Why settings cannot be delivered from a mesh, in a sentence. @param variants how many there are */
export function refusal(settings: Wanted, variants: number, hasUvs: boolean): string | undefined {
  const { colorIn } = settings
  if (!hasUvs && wearsTextures(settings)) return 'Textures need UVs, and the mesh has none; vertex colors work without.'
  return formatsOf(settings)
    .map(f => f.refuses?.({ variants, colorIn }))
    .find(Boolean)
}

/** Pictures by themselves are no format, but carry something. */
const PICTURES: Carries = {
  baseColor: 'any',
  metalRough: 'any',
  occlusion: 'any',
  normal: 'from the height',
  height: 'yes',
  emission: 'yes',
  opacity: 'yes',
  translucency: 'yes',
  values: 'any output of a node',
  variants: 'a set each',
}

const inFull = ({ section, title }: DeliveryFormat): string =>
  section === 'materials' ? `MaterialX, ${title.toLowerCase()}` : title

/** The table of what each format carries, in Markdown. */
export function carriedTable(): string {
  const keys = Object.keys(CARRIED) as (keyof typeof CARRIED)[]
  const row = (title: string, carries: Carries): string =>
    `| ${[title, ...keys.map(key => carries[key] ?? '–')].join(' | ')} |`
  return [
    `| | ${keys.map(key => CARRIED[key]).join(' | ')} |`,
    `|${'---|'.repeat(keys.length + 1)}`,
    ...DELIVERY_FORMATS.map(f => row(`${inFull(f)} (${f.suffix ?? f.ending})`, f.carries)),
    row('Pictures (.png, .exr)', PICTURES),
  ].join('\n')
}
