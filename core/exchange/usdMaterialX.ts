import { shortest } from './shortest'
import type { PictureUse, UsdSurface } from './usdPreview'

/** Types of USD for those of MaterialX. */
const USD_TYPES = { float: 'float', color3: 'color3f', vector2: 'float2', vector3: 'float3' } as const
type Type = keyof typeof USD_TYPES
/** An output of a shader in the network: its path. */
type Output = string

/**
 * A surface as a MaterialX network of USD shaders (definitions `ND_…` of MaterialX 1.39, OpenPBR surface), for
 * renderers that know the standard: what the UsdPreviewSurface beside it has, from the same pictures.
 * @param path of the material prim
 * @returns lines that go among the material's outputs, and its shader prims
 */
export function usdMaterialX(surface: UsdSurface, path: string): { outputs: string[]; shaders: string[] } {
  const shaders: string[] = []
  const shader = (id: string, definition: string, lines: readonly string[], output: string): Output => {
    shaders.push(
      `def Shader "${id}"`,
      '{',
      `    uniform token info:id = "ND_${definition}"`,
      ...lines.map(line => `    ${line}`),
      `    ${output} outputs:out`,
      '}',
    )
    return `<${path}/${id}.outputs:out>`
  }
  const read = (id: string, type: Type, property: string): Output =>
    shader(id, `geompropvalue_${type}`, [`string inputs:geomprop = "${property}"`], USD_TYPES[type])
  const st = read('mtlx_st', 'vector2', 'st')
  const image = (id: string, type: Type, { path: file, space }: PictureUse): Output => {
    const encoded = type === 'color3' && space === 'srgb'
    const asset = `asset inputs:file = @${file}@`
    const lines = [
      ...(encoded ? [`${asset} (`, '    colorSpace = "srgb_texture"', ')'] : [asset]),
      `float2 inputs:texcoord.connect = ${st}`,
    ]
    return shader(`mtlx_${id}`, `image_${type}`, lines, USD_TYPES[type])
  }
  const sum = (id: string, by: 'multiply' | 'add', from: Output, x: number): Output => {
    const lines = [`float inputs:in1.connect = ${from}`, `float inputs:in2 = ${shortest(x)}`]
    return shader(`mtlx_${id}`, `${by}_float`, lines, 'float')
  }

  const inputs: string[] = []
  const wire = (type: Type, name: string, from: Output): unknown =>
    inputs.push(`${USD_TYPES[type]} inputs:${name}.connect = ${from}`)
  const { factors } = surface
  if (surface.baseColor) wire('color3', 'base_color', image('baseColor', 'color3', surface.baseColor))
  else if (surface.vertexColor) wire('color3', 'base_color', read('mtlx_color', 'color3', 'displayColor'))
  else if (factors?.baseColor)
    inputs.push(`color3f inputs:base_color = (${factors.baseColor.map(shortest).join(', ')})`)
  if (surface.metalness) wire('float', 'base_metalness', image('metalness', 'float', surface.metalness))
  else if (factors?.metalness !== undefined) inputs.push(`float inputs:base_metalness = ${shortest(factors.metalness)}`)
  if (surface.roughness) wire('float', 'specular_roughness', image('roughness', 'float', surface.roughness))
  else if (factors?.roughness !== undefined)
    inputs.push(`float inputs:specular_roughness = ${shortest(factors.roughness)}`)
  if (surface.normal) {
    const from = image('normal', 'vector3', surface.normal)
    wire(
      'vector3',
      'geometry_normal',
      shader('mtlx_bent', 'normalmap_float', [`float3 inputs:in.connect = ${from}`], 'float3'),
    )
  }
  if (surface.emission) {
    const from = image('emission', 'color3', surface.emission)
    const lines = [`color3f inputs:in1.connect = ${from}`, `float inputs:in2 = ${shortest(surface.emission.strength)}`]
    wire('color3', 'emission_color', shader('mtlx_glow', 'multiply_color3FA', lines, 'color3f'))
    inputs.push('float inputs:emission_luminance = 1')
  }
  if (surface.opacity) wire('float', 'geometry_opacity', image('opacity', 'float', surface.opacity))
  if (surface.translucency && surface.translucencyColor) {
    wire('float', 'subsurface_weight', image('translucency', 'float', surface.translucency))
    wire('color3', 'subsurface_color', image('translucencyColor', 'color3', surface.translucencyColor))
    inputs.push('bool inputs:geometry_thin_walled = true')
  }
  shader('mtlx_surface', 'open_pbr_surface_surfaceshader', inputs, 'token')
  const outputs = [`token outputs:mtlx:surface.connect = <${path}/mtlx_surface.outputs:out>`]
  if (surface.height) {
    const { scale, bias } = surface.height
    const scaled = sum('scaled', 'multiply', image('height', 'float', surface.height), scale)
    const lines = [
      `float inputs:displacement.connect = ${sum('raised', 'add', scaled, bias)}`,
      // The height is in meters by now.
      'float inputs:scale = 1',
    ]
    shader('mtlx_displacement', 'displacement_float', lines, 'token')
    outputs.push(`token outputs:mtlx:displacement.connect = <${path}/mtlx_displacement.outputs:out>`)
  }
  return { outputs, shaders }
}
