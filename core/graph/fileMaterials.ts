import type { Preparation } from '../mesh/preparation'
import type { Mesh, Surface, SurfacePicture, SurfaceUse } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import { freeName, newSet } from '../mesh/setEdits'
import type { ParamValue } from '../nodes/declare'
import { RESULT } from '../nodes'
import { addNode, connect } from './edit'
import { kindFor } from './kinds'
import type { Look } from './look'
import { CARD_WIDTH, changeNote, frameNodes } from './notes'
import { nodeOf } from './find'
import { type Port } from './ports'
import { tidied } from './tidy'

/** A picture of the file that becomes one of the project. */
export interface BroughtPicture {
  name: string
  type: string
  bytes: Uint8Array
}

export interface FileStart {
  look: Look
  preparation: Preparation
  pictures: BroughtPicture[]
  /** Pictures of normals, in tangent space, with the material that each belongs to. */
  normals: { material: string; texture: SurfacePicture }[]
  /** Pictures of occlusion, the same way. */
  occlusions: { material: string; texture: SurfacePicture }[]
  /** What could not be taken over, a sentence each. */
  notes: string[]
}

/** The endings of pictures that a browser and the command line both read. */
const ENDINGS: Record<string, string> = { 'image/png': 'png', 'image/jpeg': 'jpg', 'image/webp': 'webp' }
/** Materials beyond which a look is no longer one that anybody reads. */
const MOST_MATERIALS = 64

const WHITE: [number, number, number] = [1, 1, 1]
const isWhite = (c: readonly number[]): boolean => c.every(x => Math.abs(x - 1) < 1e-6)

/** A material that the file names and does not describe, or triangles without one. */
const plain = (name: string): Surface => ({
  name,
  baseColor: [0.5, 0.5, 0.5],
  metalness: 0,
  roughness: 0.5,
  textures: [],
})

/** Builds the nodes of one look, material by material. */
class Writer {
  readonly pictures: BroughtPicture[] = []
  readonly notes: string[] = []
  readonly normals: FileStart['normals'] = []
  readonly occlusions: FileStart['occlusions'] = []

  constructor(
    public look: Look,
    private readonly takenPictures: string[],
    private readonly mesh: Mesh,
  ) {}

  node(kind: string, params: Record<string, ParamValue> = {}, name?: string): string {
    const added = addNode(this.look, kind, [0, 0], params)
    const { id } = added
    this.look = name
      ? { ...added.look, nodes: added.look.nodes.map(n => (n.id === id ? { ...n, name: name.slice(0, 80) } : n)) }
      : added.look
    return id
  }

  wire(from: Port, node: string, port: string): void {
    this.look = connect(this.look, from, { node, port })
  }

  /** The finish of a material, with the nodes of its pictures before it. @returns its id */
  finish(surface: Surface): string {
    const label = surface.name || 'No material'
    const { baseColor, metalness, roughness, emission, opacity, cutoff } = surface
    const sets = ['baseColor', 'metalness', 'roughness']
    if (emission) sets.push('emission')
    if (opacity !== undefined) sets.push('opacity')
    const strength = Math.max(1, ...(emission ?? []))
    const id = this.node(
      'finish',
      {
        sets,
        baseColor: [...baseColor],
        metalness,
        roughness,
        ...(emission && { emission: emission.map(x => x / strength), intensity: strength }),
        ...(opacity !== undefined && { opacity }),
      },
      label,
    )
    const read = (use: SurfaceUse): string | undefined => {
      const picture = surface.textures.find(t => t.use === use)
      return picture && this.picture(picture, surface)
    }
    // (1) Base color: picture times factor times vertex color.
    const color = read('base color')
    const colors: Port[] = []
    if (color) colors.push({ node: color, port: 'color' })
    if (surface.vertexColor) colors.push({ node: this.node('vertexMap', { map: surface.vertexColor }), port: 'color' })
    this.product(colors, baseColor, id, 'baseColor')
    // (2) Metalness and roughness, in one picture or in two.
    const both = read('metalness and roughness')
    const channel = (id: string | undefined, port: string): Port | undefined =>
      id === undefined ? undefined : { node: id, port }
    const metal = both ? channel(both, 'blue') : channel(read('metalness'), 'red')
    const rough = both ? channel(both, 'green') : channel(read('roughness'), 'red')
    this.scaled(metal, metalness, id, 'metalness')
    this.scaled(rough, roughness, id, 'roughness')
    // (3) What glows.
    const glow = read('emission')
    if (glow) this.product([{ node: glow, port: 'color' }], emission?.map(x => x / strength) ?? WHITE, id, 'emission')
    // (4) Opacity: a picture of its own, or the alpha of the base color.
    if (opacity !== undefined) {
      const own = read('opacity')
      const alpha: Port | undefined = color ? { node: color, port: 'alpha' } : undefined
      this.opacity(own ? { node: own, port: 'red' } : alpha, opacity, cutoff, id)
    }
    // (5) What a finish has no channel for is the result's.
    for (const t of surface.textures) {
      if (t.use === 'normal') this.normals.push({ material: surface.name, texture: t })
      if (t.use === 'occlusion') this.occlusions.push({ material: surface.name, texture: t })
      if (t.use === 'bump')
        this.notes.push(`The bump picture of "${label}" was left out; add it, and wire it to a height.`)
    }
    if (surface.lost?.length) this.notes.push(`"${label}" says more than a look can hold: ${surface.lost.join(', ')}.`)
    return id
  }

  /** Multiplies colors and a factor, as light, into an input. */
  private product(colors: readonly Port[], factor: readonly number[], node: string, port: string): void {
    if (!colors.length) return
    let [all] = colors as [Port]
    for (const next of colors.slice(1)) all = this.times(all, next)
    if (!isWhite(factor)) {
      const id = this.node('blendColors', { mode: 'product', above: [...factor] })
      this.wire(all, id, 'below')
      all = { node: id, port: 'color' }
    }
    this.wire(all, node, port)
  }

  private times(below: Port, above: Port): Port {
    const id = this.node('blendColors', { mode: 'product' })
    this.wire(below, id, 'below')
    this.wire(above, id, 'above')
    return { node: id, port: 'color' }
  }

  private scaled(from: Port | undefined, factor: number, node: string, port: string): void {
    if (!from) return
    if (factor === 1) return this.wire(from, node, port)
    const id = this.node('math', { operation: 'multiply', b: factor })
    this.wire(from, id, 'a')
    this.wire({ node: id, port: 'value' }, node, port)
  }

  private opacity(from: Port | undefined, factor: number, cutoff: number | undefined, node: string): void {
    if (cutoff === undefined) return this.scaled(from, factor, node, 'opacity')
    if (!from) {
      const there = Number(factor >= cutoff)
      this.look = {
        ...this.look,
        nodes: this.look.nodes.map(n => (n.id === node ? { ...n, params: { ...n.params, opacity: there } } : n)),
      }
      return
    }
    const id = this.node('math', { operation: 'less', a: factor ? cutoff / factor : 1 })
    this.wire(from, id, 'b')
    this.wire({ node: id, port: 'value' }, node, 'opacity')
  }

  /** A node that reads a picture as the material lays it. Undefined where it cannot be read. */
  private picture(picture: SurfacePicture, surface: Surface): string | undefined {
    const label = surface.name || 'No material'
    const ending = ENDINGS[picture.type]
    if (!ending) {
      this.notes.push(
        `The ${picture.use} picture of "${label}" is ${picture.type}, which cannot be read; it was left out.`,
      )
      return undefined
    }
    const uvs = picture.uvSet ? `UV ${picture.uvSet + 1}` : ''
    if (uvs && !this.mesh.maps.some(m => m.name === uvs))
      this.notes.push(`The ${picture.use} picture of "${label}" lies on ${uvs}, which the mesh does not have.`)
    const { move = [0, 0], turn = 0, scale = [1, 1] } = picture.placed ?? {}
    if (turn && Math.abs(scale[0]) !== Math.abs(scale[1]))
      this.notes.push(`The ${picture.use} picture of "${label}" is stretched and turned at once; it may lie otherwise.`)
    const [across, down] = picture.beyond ?? ['repeat', 'repeat']
    const isColor = picture.use === 'base color' || picture.use === 'emission'
    const params: Record<string, ParamValue> = {
      picture: this.brought(picture, label, ending),
      ...(!isColor && { space: 'linear' }),
      ...(uvs && { uvs }),
      ...(scale[0] !== 1 && { width: 100 / scale[0] }),
      ...(scale[1] !== 1 && { height: 100 / scale[1] }),
      ...(turn && { turn: (-turn * 180) / Math.PI }),
      ...(move[0] && { moveX: -move[0] }),
      ...(move[1] && { moveY: move[1] }),
      ...(across !== 'repeat' && { beyondSides: across }),
      ...(down !== 'repeat' && { beyondEnds: down }),
      ...(picture.nearest && { between: 'nearest' }),
    }
    const title = `${picture.use[0]!.toUpperCase()}${picture.use.slice(1)}`
    return this.node('picture', params, title)
  }

  /** The project's name for a picture of the file; the same bytes are one picture. */
  private brought(picture: SurfacePicture, label: string, ending: string): string {
    const same = this.pictures.find(p => sameBytes(p.bytes, picture.bytes))
    if (same) return same.name
    const plainLabel = label.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'Material'
    const stem = freeName(
      `${plainLabel.slice(0, 48)} ${picture.use}`,
      this.takenPictures.map(n => n.replace(/\.[^.]*$/, '')),
    )
    const name = `${stem}.${ending}`
    this.takenPictures.push(name)
    this.pictures.push({ name, type: picture.type, bytes: picture.bytes })
    return name
  }
}

const sameBytes = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((x, i) => x === b[i])

/** How many parts have triangles of more than one material. */
function mixedParts(mesh: Mesh, parts: Parts): number {
  const first = new Map<number, string>()
  const mixed = new Set<number>()
  for (const run of mesh.materials) {
    for (let t = run.firstTriangle; t < run.firstTriangle + run.triangles; t++) {
      const part = parts.partOfTriangle[t]!
      const name = first.get(part)
      if (name === undefined) first.set(part, run.name)
      else if (name !== run.name) mixed.add(part)
    }
  }
  return mixed.size
}

/** A card's size, for laying out: as high as its ports ask for. */
const sizeOf = (look: Look, id: string): { width: number; height: number } => {
  const kind = kindFor(nodeOf(look, id)!)
  const ports = Math.max(Object.keys(kind?.inputs ?? {}).length, Object.keys(kind?.outputs ?? {}).length)
  return { width: CARD_WIDTH, height: 140 + 20 * ports }
}

/**
 * A look that shows what the file means: a finish for each of its materials, with factors, pictures and vertex colors,
 * one laid over the other on the parts that have it. What was in the look stays beside it; the result takes the new
 * finish.
 * @param takenPictures names that the project's pictures have already
 * @throws Error with a sentence where the file has no materials, or too many
 */
export function startFromFile(
  { look, preparation }: { look: Look; preparation: Preparation },
  mesh: Mesh,
  parts: Parts,
  takenPictures: readonly string[],
): FileStart {
  const names = [...new Set(mesh.materials.filter(m => m.triangles).map(m => m.name))]
  if (!mesh.surfaces?.length) throw new Error('The file says nothing of its materials.')
  if (names.length > MOST_MATERIALS)
    throw new Error(`The file has ${names.length} materials; a look takes at most ${MOST_MATERIALS}.`)
  const renamed = new Map(preparation.renamed.map(r => [r.from, r.to]))
  const writer = new Writer(look, [...takenPictures], mesh)
  const before = new Set(look.nodes.map(n => n.id))
  let { sets } = preparation
  let below: Port | undefined
  const frames: { title: string; ids: string[] }[] = []

  for (const name of names) {
    const known = new Set(writer.look.nodes.map(n => n.id))
    const found = mesh.surfaces.find(s => s.name === name) ?? plain(name)
    const vertexColor = found.vertexColor && (renamed.get(found.vertexColor) ?? found.vertexColor)
    const finish: Port = { node: writer.finish({ ...found, ...(vertexColor && { vertexColor }) }), port: 'finish' }
    frames.push({
      title: name || 'No material',
      ids: writer.look.nodes.filter(n => !known.has(n.id)).map(n => n.id),
    })
    if (!below) {
      below = finish
      continue
    }
    const made = newSet(sets, [], name || 'No material')
    const set = { ...made, rules: [{ by: 'material' as const, is: 'exactly' as const, text: name }] }
    sets = [...sets, set]
    const mask = writer.node('partSet', { set: set.name })
    const layer = writer.node('layer', { opens: 'coat' }, name || 'No material')
    writer.wire(below, layer, 'below')
    writer.wire(finish, layer, 'above')
    writer.wire({ node: mask, port: 'value' }, layer, 'mask')
    below = { node: layer, port: 'finish' }
  }
  const result = writer.look.nodes.find(n => n.kind === RESULT)?.id ?? writer.node(RESULT)
  if (below) writer.wire(below, result, 'finish')
  const mixed = mixedParts(mesh, parts)
  if (mixed)
    writer.notes.push(
      `${mixed} ${mixed === 1 ? 'part has' : 'parts have'} more than one material and ${mixed === 1 ? 'takes' : 'take'} that of the first triangle.`,
    )
  return {
    look: laidOut(writer.look, before, result, frames),
    preparation: { ...preparation, sets },
    pictures: writer.pictures,
    normals: writer.normals,
    occlusions: writer.occlusions,
    notes: [...new Set(writer.notes)],
  }
}

/** The new nodes in columns, below those that were there, with a frame around each material. */
function laidOut(
  look: Look,
  before: ReadonlySet<string>,
  result: string,
  frames: readonly { title: string; ids: string[] }[],
): Look {
  const alone = before.size <= 1
  const ids = look.nodes.filter(n => !before.has(n.id) || (alone && n.id === result)).map(n => n.id)
  const old = look.nodes.filter(n => before.has(n.id))
  const top = alone ? 0 : Math.max(...old.map(n => n.at[1] + sizeOf(look, n.id).height)) + 120
  const left = alone ? 0 : Math.min(...old.map(n => n.at[0]))
  const places = tidied(look, ids, id => sizeOf(look, id))
  const corner = [0, 1].map(k => Math.min(...[...places.values()].map(p => p[k]!))) as [number, number]
  let out: Look = {
    ...look,
    nodes: look.nodes.map(n => {
      const at = places.get(n.id)
      return at ? { ...n, at: [at[0] - corner[0] + left, at[1] - corner[1] + top] } : n
    }),
  }
  for (const { title, ids: members } of frames) {
    if (members.length < 2) continue
    const framed = frameNodes(out, members, [0, 0], id => sizeOf(out, id).height)
    out = changeNote(framed.look, framed.id, { title })
  }
  return out
}
