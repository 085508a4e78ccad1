import { keyOf } from './hash'
import * as z from 'zod'
import { declarationOf, mapSettingsSchema, type MapSettings } from '../geometry/maps'
import { findContacts, type Contacts } from './contacts'
import { regroup } from './groups'
import { inheritKeys, keyTable, matchKeys, scaleTable, type KeyTable, type Match } from './keys'
import { measureParts, type Measures } from './measures'
import { diagonalOf, type Mesh, type MeshNode } from './mesh'
import { findParts, type Parts } from './parts'
import { membersOf, partSetSchema, type PartSet } from './partSets'
import { GEOMETRY_VERSION } from '../kernels/generated/versions'

const name = z.string().trim().min(1).max(80)

/** How a project's mesh is prepared: data of its own beside the look. Lengths in meters, angles in degrees. */
export const preparationSchema = z.strictObject({
  ubblet: z.literal('preparation'),
  version: z.literal(1),
  /** Factor on all coordinates, where a file came in other units. */
  scale: z.number().positive().max(1e6),
  weld: z.number().min(0).max(10).nullable(),
  patches: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('uv') }),
    z.strictObject({ by: z.literal('crease'), angle: z.number().min(1).max(180) }),
  ]),
  groups: z.strictObject({
    base: z.enum(['file', 'object', 'material', 'touching']),
    named: z.array(partSetSchema).max(200),
  }),
  /** Parts nearer than this touch. */
  contact: z.number().min(0).max(10),
  sets: z.array(partSetSchema).max(200),
  /** Longest edge of the analysis mesh; null leaves the mesh as it is. */
  edge: z.number().positive().max(1000).nullable(),
  maps: z.array(mapSettingsSchema).max(100),
  /** Names that vertex maps of the file go by here. */
  renamed: z.array(z.strictObject({ from: name, to: name })).max(200),
  /** The mesh's own normals: a picture of the project that looks lie on where they name no other. */
  normals: z.string().min(1).max(200).optional(),
})
export type Preparation = z.infer<typeof preparationSchema>

export const emptyPreparation = (): Preparation => ({
  ubblet: 'preparation',
  version: 1,
  scale: 1,
  weld: null,
  patches: { by: 'uv' },
  groups: { base: 'file', named: [] },
  contact: 0.001,
  sets: [],
  edge: null,
  maps: [],
  renamed: [],
})

/** A preparation that cannot be read. The message says where. */
export class PreparationError extends Error {}
export function parsePreparation(raw: unknown): Preparation {
  const read = preparationSchema.safeParse(raw)
  if (read.success) return read.data
  const issue = read.error.issues[0]!
  throw new PreparationError(
    `The preparation of the mesh is not right at ${issue.path.join('.') || 'its top'}: ${issue.message}.`,
  )
}

/** What of a preparation decides the parts; the rest only uses them. */
export const shapesParts = (p: Preparation): string => JSON.stringify([p.scale, p.weld, p.patches, p.renamed])

export interface Prepared {
  mesh: Mesh
  parts: Parts
  /** How the parts were found again in the key table; absent where there was none. */
  match?: Match
  table: KeyTable
}

/**
 * The mesh of a file in the preparation's units, with its vertex maps under their names here. Shares what is the same.
 */
export function settled(mesh: Mesh, { scale, renamed }: Preparation): Mesh {
  const names = new Map(renamed.map(r => [r.from, r.to]))
  return {
    ...mesh,
    ...(scale !== 1 && { positions: mesh.positions.map(x => x * scale) }),
    ...(scale !== 1 && mesh.nodes && { nodes: mesh.nodes.map(n => scaledNode(n, scale)) }),
    ...(renamed.length && { maps: mesh.maps.map(m => ({ ...m, name: names.get(m.name) ?? m.name })) }),
  }
}

/** The mesh with the picture of its own normals, where the preparation names one. */
export const onNormals = (mesh: Mesh, { normals }: Preparation): Mesh =>
  normals ? { ...mesh, ownNormals: normals } : mesh

/** A node in other units: it is moved by as much more. */
function scaledNode(node: MeshNode, scale: number): MeshNode {
  return { ...node, matrix: node.matrix.map((x, i) => (i === 12 || i === 13 || i === 14 ? x * scale : x)) }
}

/**
 * Finds the parts of a mesh as a preparation says, and gives them the keys of the table where there is one.
 * @param table the project's key table, in the file's own units, as it comes back
 */
export function prepare(file: Mesh, preparation: Preparation, table?: KeyTable): Prepared {
  const mesh = settled(file, preparation)
  const parts = findParts(mesh, {
    ...(preparation.weld !== null && { weld: preparation.weld }),
    patches: preparation.patches,
  })
  const match = table && matchKeys(scaleTable(table, preparation.scale), mesh, parts)
  if (table && match) inheritKeys(parts, table, match, mesh)
  return { mesh, parts, ...(match && { match }), table: scaleTable(keyTable(mesh, parts), 1 / preparation.scale) }
}

/**
 * What the rules of a preparation make of the parts: contacts, measures, groups (written into the parts), part sets.
 */
export interface Arranged {
  contacts?: Contacts
  measures: Measures
  sets: { set: PartSet; members: Uint8Array }[]
}

/**
 * Groups the parts and finds the members of the part sets. Contacts are found only where something asks for them.
 * @param known contacts that were found before with the same distance
 */
export function arrange(mesh: Mesh, parts: Parts, preparation: Preparation, known?: Contacts): Arranged {
  const { groups, sets } = preparation
  const rules = [...groups.named, ...sets].flatMap(s => s.rules)
  const wanted = groups.base === 'touching' || rules.some(r => r.by === 'measure' && r.measure === 'neighbors')
  const found = known?.distance === preparation.contact ? known : undefined
  const contacts = found ?? (wanted ? findContacts(mesh, parts, preparation.contact) : undefined)
  const measures = measureParts(mesh, parts, contacts)
  parts.groups = regroup(mesh, parts, groups.base, groups.named, contacts?.pairs, measures).groups
  return {
    ...(contacts && { contacts }),
    measures,
    sets: sets.map(set => ({ set, members: membersOf(set, mesh, parts, measures) })),
  }
}

/**
 * What a geometry map is computed from, as text, and by what: while it stays the same, so does the map. The mesh file's
 * own hash goes before it.
 */
function mapInputs(p: Preparation, { name: _, ...settings }: MapSettings): string {
  const grouped = declarationOf(settings).byGroups?.(settings) ?? false
  return JSON.stringify([
    GEOMETRY_VERSION,
    p.scale,
    p.weld,
    p.edge,
    settings,
    ...(grouped ? [p.patches, p.groups, p.contact] : []),
  ])
}

/** The id under which a geometry map of a mesh file is kept. */
export function mapIdOf(meshHash: string, p: Preparation, settings: MapSettings): string {
  const text = `${meshHash} ${mapInputs(p, settings)}`
  return [0, 1, 2, 3].map(i => keyOf(`${i} ${text}`)).join('')
}

/** A length of edges that suits a mesh: a 300th of its diagonal, to two digits. */
export function suggestedEdge(mesh: Pick<Mesh, 'positions' | 'indices'>): number {
  return Number((diagonalOf(mesh) / 300).toPrecision(2))
}
