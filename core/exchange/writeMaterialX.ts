import type { PictureUse } from './usdPreview'
import { graphOf, type MxGraph, type MxType, type MxValue } from './mxGraph'
import { plainName } from './names'
import { shortest } from './shortest'

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
      return `nodegraph="${graphOf(name)}" output="${graph.output(`${channel}_out`, type, wired as Parameters<MxGraph['output']>[2]).output}"`
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
    lines.push(...graph.text(name), ...body)
  }
  return [...lines, '</materialx>', ''].join('\n')
}
