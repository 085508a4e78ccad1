import { setParam } from '../graph/edit'
import { LookError, parseLook, type Look } from '../graph/look'
import { tidied } from '../graph/tidy'
import type { Channel } from '../graph/types'
import { documentOf, wiredTo, type Element } from './materialXElements'
import { convertNode } from './materialXNodes'
import { MaterialXReading } from './materialXReading'

/** Inputs of the surfaces that are understood, by channel. */
const SURFACES: Record<
  string,
  Partial<
    Record<
      'baseColor' | 'metalness' | 'roughness' | 'emission' | 'intensity' | 'opacity' | 'translucency' | 'throughColor',
      string
    >
  >
> = {
  open_pbr_surface: {
    baseColor: 'base_color',
    metalness: 'base_metalness',
    roughness: 'specular_roughness',
    emission: 'emission_color',
    intensity: 'emission_luminance',
    opacity: 'geometry_opacity',
    translucency: 'subsurface_weight',
    throughColor: 'subsurface_color',
  },
  gltf_pbr: {
    baseColor: 'base_color',
    metalness: 'metallic',
    roughness: 'roughness',
    emission: 'emissive',
    intensity: 'emissive_strength',
    opacity: 'alpha',
  },
  standard_surface: {
    baseColor: 'base_color',
    metalness: 'metalness',
    roughness: 'specular_roughness',
    emission: 'emission_color',
    intensity: 'emission',
    opacity: 'opacity',
    translucency: 'subsurface',
    throughColor: 'subsurface_color',
  },
  UsdPreviewSurface: {
    baseColor: 'diffuseColor',
    metalness: 'metallic',
    roughness: 'roughness',
    emission: 'emissiveColor',
    opacity: 'opacity',
  },
}
const CHANNEL_OF: Record<string, Channel> = { intensity: 'emission', throughColor: 'translucency' }
const COLORS = new Set(['baseColor', 'emission', 'throughColor'])

type Port = { node: string; port: string }
/** Inputs of surfaces that say what the look says otherwise. */
const IMPLIED = ['alpha_mode', 'geometry_thin_walled']

/** A surface of a document as a finish, or a mix of two as a layer; nothing where it is of a kind that is not read. */
function finishOf(reading: MaterialXReading, e: Element, scope: Element): Port | undefined {
  if (e.tag === 'mix') return layerOf(reading, e, scope)
  const inputs = SURFACES[e.tag]
  if (!inputs) {
    reading.report.add(`"${e.name}": surfaces of the kind ${e.tag} are not read.`)
    return undefined
  }
  const sets = new Set<Channel>(['baseColor', 'metalness', 'roughness'])
  const id = reading.node('finish')
  for (const [own, theirs] of Object.entries(inputs)) {
    const value = reading.input({ e, scope }, theirs, COLORS.has(own) ? 'color' : 'value')
    if (!value) continue
    if (own !== 'intensity' && own !== 'throughColor') sets.add((CHANNEL_OF[own] ?? own) as Channel)
    reading.feed(id, own, value)
  }
  const known = new Set([...Object.values(inputs), ...IMPLIED])
  for (const input of e.inputs.keys())
    if (!known.has(input)) reading.report.add(`"${e.name}": its ${input} is left out.`)
  reading.look = setParam(reading.look, id, 'sets', [...sets])
  return { node: id, port: 'finish' }
}
function layerOf(reading: MaterialXReading, e: Element, scope: Element): Port {
  const [below, above] = ['bg', 'fg'].map(k => {
    const inner = wiredTo(scope, e.inputs.get(k))
    return inner && finishOf(reading, inner, scope)
  })
  const id = reading.node('layer')
  reading.feed(id, 'below', below)
  reading.feed(id, 'above', above)
  reading.feed(id, 'mask', reading.input({ e, scope }, 'mix', 'value', [0]))
  return { node: id, port: 'finish' }
}

/** Lays the nodes out, each as large as a card without a picture. */
function laidOut(look: Look): Look {
  const ids = look.nodes.map(n => n.id)
  const places = tidied(look, ids, () => ({ width: 180, height: 120 }))
  return { ...look, nodes: look.nodes.map(n => ({ ...n, at: places.get(n.id) ?? n.at })) }
}

/**
 * Reads a MaterialX document (1.38 or 1.39) as a look: the first surface material, its surface, and whatever of its
 * node graph is of kinds that Ubblet has. What it does not have stays at its default and is named in the report.
 * @param name what the look is called
 * @throws LookError with one sentence where the document cannot be read at all
 */
export function readMaterialX(text: string, name: string): { look: Look; report: string[] } {
  const document = documentOf(text)
  const material = document.children.find(e => e.tag === 'surfacematerial')
  const shader =
    material?.inputs.get('surfaceshader')?.attributes.nodename ??
    document.children.find(e => e.type === 'surfaceshader')?.name
  const surface = document.children.find(e => e.name === shader)
  if (!surface) throw new LookError('The MaterialX document has no surface.')
  const reading = new MaterialXReading(document, material?.name ?? name, convertNode)
  const finish = finishOf(reading, surface, document)
  if (finish) reading.feed('result', 'finish', finish)
  return { look: parseLook(laidOut(reading.look)), report: [...reading.report] }
}
