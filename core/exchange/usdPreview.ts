import { usdMaterialX } from './usdMaterialX'
import { shortest } from './shortest'

/** A picture, by its path from the document; `<UDIM>` in it stands for the tile. */
export interface PictureUse {
  path: string
  space: 'srgb' | 'linear'
}
/** What a UsdPreviewSurface is given. Without a picture, the number holds. */
export interface UsdSurface {
  name: string
  baseColor?: PictureUse
  metalness?: PictureUse
  roughness?: PictureUse
  occlusion?: PictureUse
  normal?: PictureUse
  /**
   * In millimeters: `largest` is what the picture's 1 stands for, and 0 its negative; EXR holds millimeters as they
   * are.
   */
  height?: PictureUse & { scale: number; bias: number }
  emission?: PictureUse & { strength: number }
  opacity?: PictureUse
  /** How much light passes, and its color: the MaterialX network alone has them. */
  translucency?: PictureUse
  translucencyColor?: PictureUse
  /** Reads the base color from the primvar `displayColor`. */
  vertexColor?: boolean
  /** Channels that are the same everywhere. */
  factors?: { baseColor?: [number, number, number]; metalness?: number; roughness?: number }
}

/** Pictures of a material: their readers, and what they are wired into. */
class Wiring {
  readonly inputs: string[] = []
  readonly shaders: string[] = []

  /** @param path of the material in the layer */
  constructor(private readonly path: string) {}

  wire(type: string, input: string, from: string): void {
    this.inputs.push(`    ${type} inputs:${input}.connect = ${from}`)
  }
  set(type: string, input: string, value: string): void {
    this.inputs.push(`    ${type} inputs:${input} = ${value}`)
  }

  /** The vertex colors, read from the mesh. */
  vertexColor(): string {
    this.shaders.push(
      'def Shader "color"',
      '{',
      '    uniform token info:id = "UsdPrimvarReader_float3"',
      '    string inputs:varname = "displayColor"',
      '    float3 outputs:result',
      '}',
    )
    return `<${this.path}/color.outputs:result>`
  }

  /** A picture; what is read of it is multiplied by `scale`, and `bias` is added. */
  picture(id: string, use: PictureUse, output: string, scale?: readonly number[], bias?: readonly number[]): string {
    this.shaders.push(
      `def Shader "${id}"`,
      '{',
      '    uniform token info:id = "UsdUVTexture"',
      `    asset inputs:file = @${use.path}@`,
      `    token inputs:sourceColorSpace = "${use.space === 'srgb' ? 'sRGB' : 'raw'}"`,
      `    float2 inputs:st.connect = <${this.path}/st.outputs:result>`,
      '    token inputs:wrapS = "repeat"',
      '    token inputs:wrapT = "repeat"',
      ...(scale ? [`    float4 inputs:scale = (${scale.join(', ')})`] : []),
      ...(bias ? [`    float4 inputs:bias = (${bias.join(', ')})`] : []),
      `    ${output.length > 1 ? 'float3' : 'float'} outputs:${output}`,
      '}',
    )
    return `<${this.path}/${id}.outputs:${output}>`
  }
}

/** Wires what a surface has into the inputs of UsdPreviewSurface. */
function connect(surface: UsdSurface, to: Wiring): void {
  const { baseColor, metalness, roughness, occlusion, normal, height, emission, opacity, factors } = surface
  if (baseColor) to.wire('color3f', 'diffuseColor', to.picture('baseColor', baseColor, 'rgb'))
  else if (surface.vertexColor) to.wire('color3f', 'diffuseColor', to.vertexColor())
  else if (factors?.baseColor) to.set('color3f', 'diffuseColor', `(${factors.baseColor.map(shortest).join(', ')})`)
  if (factors?.metalness !== undefined && !metalness) to.set('float', 'metallic', shortest(factors.metalness))
  if (factors?.roughness !== undefined && !roughness) to.set('float', 'roughness', shortest(factors.roughness))
  if (metalness) to.wire('float', 'metallic', to.picture('metalness', metalness, 'r'))
  if (roughness) to.wire('float', 'roughness', to.picture('roughness', roughness, 'r'))
  if (occlusion) to.wire('float', 'occlusion', to.picture('occlusion', occlusion, 'r'))
  if (normal) to.wire('normal3f', 'normal', to.picture('normal', normal, 'rgb', [2, 2, 2, 1], [-1, -1, -1, 0]))
  if (height) {
    const read = to.picture('height', height, 'r', [height.scale, 1, 1, 1], [height.bias, 0, 0, 0])
    to.wire('float', 'displacement', read)
  }
  if (emission) {
    const { strength } = emission
    const scale = strength === 1 ? undefined : [strength, strength, strength, 1]
    to.wire('color3f', 'emissiveColor', to.picture('emission', emission, 'rgb', scale))
  }
  if (opacity) to.wire('float', 'opacity', to.picture('opacity', opacity, 'r'))
}

/**
 * A surface as lines of a Material prim: UsdPreviewSurface, and the same as a MaterialX network.
 * @param path of the material in the layer
 */
export function usdMaterial(surface: UsdSurface, name: string, path: string): string[] {
  const wiring = new Wiring(path)
  connect(surface, wiring)
  const standard = usdMaterialX(surface, path)
  return [
    `def Material "${name}" (`,
    '    prepend apiSchemas = ["MaterialXConfigAPI"]',
    ')',
    '{',
    '    string config:mtlx:version = "1.39"',
    `    token outputs:surface.connect = <${path}/surface.outputs:surface>`,
    ...(surface.height ? [`    token outputs:displacement.connect = <${path}/surface.outputs:displacement>`] : []),
    ...standard.outputs.map(l => `    ${l}`),
    '    def Shader "surface"',
    '    {',
    '        uniform token info:id = "UsdPreviewSurface"',
    '        int inputs:useSpecularWorkflow = 0',
    ...wiring.inputs.map(i => `    ${i}`),
    '        token outputs:surface',
    ...(surface.height ? ['        token outputs:displacement'] : []),
    '    }',
    '    def Shader "st"',
    '    {',
    '        uniform token info:id = "UsdPrimvarReader_float2"',
    '        string inputs:varname = "st"',
    '        float2 outputs:result',
    '    }',
    ...[...wiring.shaders, ...standard.shaders].map(l => `    ${l}`),
    '}',
  ]
}
