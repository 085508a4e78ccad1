import type { PictureUse } from './usdPreview'
import { plainName } from './names'

/** A value in a MaterialX document: a node of the graph, one of its outputs, or numbers. */
export type MxValue = { node: string; output?: string } | number | readonly number[]
export type MxType =
  | 'float'
  | 'color3'
  | 'vector2'
  | 'vector3'
  | 'integer'
  | 'string'
  | 'filename'
  | 'boolean'
  | 'surfaceshader'
  | 'displacementshader'
type MxInput = { type: MxType; value: MxValue | string; space?: string }

const escape = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')
/** The shortest text of the same 32-bit float. */
export const shortest = (x: number): string => {
  for (let digits = 6; digits < 9; digits++) {
    const text = x.toPrecision(digits)
    if (Math.fround(Number(text)) === Math.fround(x)) return String(Number(text))
  }
  return String(Number(x.toPrecision(9)))
}

type NodeOutput = { node: string; output?: string }
const isNode = (value: MxInput['value']): value is NodeOutput => typeof value === 'object' && !Array.isArray(value)
/** A value as a document has it. */
function textOf(type: MxType, value: string | number | readonly number[]): string {
  if (typeof value === 'string') return value
  if (typeof value !== 'number') return value.map(shortest).join(', ')
  return type === 'integer' ? String(Math.round(value)) : shortest(value)
}

/** A node of a graph as it is collected: what it is called may change until the graph is written. */
interface MxNode {
  category: string
  type: MxType
  inputs: [name: string, input: MxInput][]
}

/** Collects the nodes of a node graph. The same node is written once. */
export class MxGraph {
  private readonly nodes = new Map<string, MxNode>()
  private readonly outputs: { name: string; type: MxType; from: NodeOutput }[] = []
  private readonly known = new Map<string, string>()
  private readonly titles = new Map<string, string>()
  private readonly taken = new Set<string>()
  /** What is written above the nodes, for people. */
  readonly comments: string[] = []
  /** Stands before the names of nodes that are called by what they do. */
  within = ''

  private free(name: string): string {
    const plain = plainName(name)
    let free = plain
    for (let i = 2; this.taken.has(free); i++) free = `${plain}_${i}`
    this.taken.add(free)
    return free
  }

  node(category: string, type: MxType, inputs: Record<string, MxInput>, name?: string): { node: string } {
    const all = Object.entries(inputs)
    const key = JSON.stringify([category, type, all])
    const old = this.known.get(key)
    if (old) return { node: old }
    const own = `n${this.nodes.size}`
    this.known.set(key, own)
    this.nodes.set(own, { category, type, inputs: all })
    this.titles.set(own, this.free(name ?? `${this.within} ${category}`.trim()))
    return { node: own }
  }

  /** Calls a node otherwise than by what it does. */
  call(node: string, name: string): void {
    this.taken.delete(this.titles.get(node)!)
    this.titles.set(node, this.free(name))
  }

  /** An output of the graph; a constant becomes a node first, since an output takes nodes only. */
  output(name: string, type: MxType, value: MxValue): { output: string } {
    const from: NodeOutput =
      typeof value === 'number' || Array.isArray(value)
        ? this.node('constant', type, { value: { type, value } })
        : (value as NodeOutput)
    const own = this.free(name)
    this.outputs.push({ name: own, type, from })
    return { output: own }
  }

  private source({ node, output }: NodeOutput): string {
    return `nodename="${this.titles.get(node)}"${output ? ` output="${output}"` : ''}`
  }
  private input([name, { type, value, space }]: [string, MxInput]): string {
    const what = isNode(value) ? this.source(value) : `value="${escape(textOf(type, value))}"`
    return `      <input name="${name}" type="${type}" ${what}${space ? ` colorspace="${space}"` : ''} />`
  }

  text(name: string): string[] {
    if (!this.nodes.size && !this.outputs.length) return []
    return [
      `  <nodegraph name="${name}">`,
      // Two dashes would end a comment.
      ...this.comments.map(c => `    <!-- ${c.replaceAll('--', '- -')} -->`),
      ...[...this.nodes].flatMap(([node, { category, type, inputs }]) => [
        `    <${category} name="${this.titles.get(node)}" type="${type}">`,
        ...inputs.map(i => this.input(i)),
        `    </${category}>`,
      ]),
      ...this.outputs.map(o => `    <output name="${o.name}" type="${o.type}" ${this.source(o.from)} />`),
      '  </nodegraph>',
    ]
  }
}

/** Values of the channels of one surface, within its graph. What is left out has the surface's own default. */
export interface MxChannels {
  baseColor?: MxValue
  metalness?: MxValue
  roughness?: MxValue
  occlusion?: MxValue
  /** A picture of a tangent-space normal, 0 to 1. */
  normal?: MxValue
  /** Millimeters. */
  height?: MxValue
  emission?: MxValue
  opacity?: MxValue
  translucency?: MxValue
  translucencyColor?: MxValue
}
export interface MxLook {
  name: string
  graph: MxGraph
  channels: MxChannels
}
export type MxSurface = 'open_pbr_surface' | 'gltf_pbr'

/** A picture as a node of a graph. */
export function mxImage(
  graph: MxGraph,
  name: string,
  type: 'float' | 'color3' | 'vector3',
  { path, space }: PictureUse,
): { node: string } {
  return graph.node(
    'image',
    type,
    {
      file: {
        type: 'filename',
        value: path,
        ...(type === 'color3' && { space: space === 'srgb' ? 'srgb_texture' : 'lin_rec709' }),
      },
    },
    name,
  )
}

const TYPES: Record<keyof MxChannels, MxType> = {
  baseColor: 'color3',
  metalness: 'float',
  roughness: 'float',
  occlusion: 'float',
  normal: 'vector3',
  height: 'float',
  emission: 'color3',
  opacity: 'float',
  translucency: 'float',
  translucencyColor: 'color3',
}
/**
 * The inputs of the two surfaces of the standard's library, by channel. The glTF surface has no thin translucent body.
 */
const INPUTS: Record<MxSurface, Partial<Record<keyof MxChannels, string>>> = {
  open_pbr_surface: {
    baseColor: 'base_color',
    metalness: 'base_metalness',
    roughness: 'specular_roughness',
    normal: 'geometry_normal',
    emission: 'emission_color',
    opacity: 'geometry_opacity',
    translucency: 'subsurface_weight',
    translucencyColor: 'subsurface_color',
  },
  gltf_pbr: {
    baseColor: 'base_color',
    metalness: 'metallic',
    roughness: 'roughness',
    occlusion: 'occlusion',
    normal: 'normal',
    emission: 'emissive',
    opacity: 'alpha',
  },
}

/** What a document of several surfaces calls the material of one. */
export const materialOf = (look: string, surface: MxSurface): string =>
  `${plainName(look)}_${surface === 'gltf_pbr' ? 'gltf' : 'openpbr'}`

/**
 * Writes a MaterialX 1.39 document: for each look a node graph, the surfaces asked for, and a material for each. Colors
 * are linear with Rec. 709 primaries, distances in meters.
 */
export function writeMaterialX(
  looks: readonly MxLook[],
  surfaces: readonly MxSurface[] = ['open_pbr_surface', 'gltf_pbr'],
): string {
  const lines = ['<?xml version="1.0"?>', '<materialx version="1.39" colorspace="lin_rec709" distanceunit="meter">']
  for (const { name, graph, channels } of looks) {
    const own = plainName(name)
    const of = (channel: keyof MxChannels): string | undefined => {
      const value = channels[channel]
      if (value === undefined) return undefined
      const type = TYPES[channel]
      const wired =
        channel === 'normal' ? graph.node('normalmap', 'vector3', { in: { type: 'vector3', value } }) : value
      if (typeof wired === 'number' || Array.isArray(wired))
        return `value="${(typeof wired === 'number' ? [wired] : (wired as number[])).map(shortest).join(', ')}"`
      return `nodegraph="NG_${own}" output="${graph.output(`${channel}_out`, type, wired).output}"`
    }
    const used = new Map((Object.keys(TYPES) as (keyof MxChannels)[]).map(c => [c, of(c)]))
    const body: string[] = []
    for (const surface of surfaces) {
      const called = surfaces.length > 1 ? materialOf(name, surface) : own
      const inputs = Object.entries(INPUTS[surface]).flatMap(([channel, input]) => {
        const text = used.get(channel as keyof MxChannels)
        return text ? [`    <input name="${input}" type="${TYPES[channel as keyof MxChannels]}" ${text} />`] : []
      })
      if (surface === 'open_pbr_surface' && used.get('emission'))
        inputs.push('    <input name="emission_luminance" type="float" value="1" />')
      if (surface === 'open_pbr_surface' && used.get('translucency'))
        inputs.push('    <input name="geometry_thin_walled" type="boolean" value="true" />')
      if (surface === 'gltf_pbr' && used.get('opacity'))
        inputs.push('    <input name="alpha_mode" type="integer" value="2" />')
      body.push(`  <${surface} name="SR_${called}" type="surfaceshader">`, ...inputs, `  </${surface}>`)
      body.push(
        `  <surfacematerial name="${called}" type="material">`,
        `    <input name="surfaceshader" type="surfaceshader" nodename="SR_${called}" />`,
        ...(used.get('height')
          ? [`    <input name="displacementshader" type="displacementshader" nodename="DS_${own}" />`]
          : []),
        '  </surfacematerial>',
      )
    }
    if (used.get('height'))
      body.unshift(
        `  <displacement name="DS_${own}" type="displacementshader">`,
        `    <input name="displacement" type="float" ${used.get('height')} />`,
        '    <input name="scale" type="float" value="0.001" />',
        '  </displacement>',
      )
    lines.push(...graph.text(`NG_${own}`), ...body)
  }
  return [...lines, '</materialx>', ''].join('\n')
}
