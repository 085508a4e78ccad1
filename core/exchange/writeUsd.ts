import type { Mesh, VertexMap } from '../mesh/mesh'
import { plainName } from './names'
import { usdMaterialX } from './usdMaterialX'

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
/** A named value for the mesh. `perPart` values are the same all over a part. */
export interface Primvar extends VertexMap {
  perPart?: boolean
  /** Whether the values are whole numbers. */
  whole?: boolean
  color?: boolean
}

const TYPES: Record<number, string> = { 1: 'float', 2: 'float2', 3: 'float3', 4: 'float4' }
/** Nine digits say every float; fewer where they say the same. */
const figure = (x: number): string => {
  const short = x.toPrecision(7)
  return String(Number(Math.fround(Number(short)) === Math.fround(x) ? short : x.toPrecision(9)))
}
const rows = (values: ArrayLike<number>, size: number): string => {
  const out: string[] = []
  for (let i = 0; i < values.length; i += size) {
    const one: string[] = []
    for (let k = 0; k < size; k++) one.push(figure(values[i + k]!))
    out.push(size === 1 ? one[0]! : `(${one.join(', ')})`)
  }
  return `[${out.join(', ')}]`
}

/** Names that are used once each within a scope. */
function namer(): (name: string) => string {
  const taken = new Set<string>()
  return name => {
    let free = plainName(name)
    for (let i = 2; taken.has(free); i++) free = `${plainName(name)}_${i}`
    taken.add(free)
    return free
  }
}
const quoted = (text: string): string =>
  `"${text
    .replaceAll('\\', '\\\\')
    .replaceAll('"', '\\"')
    .replaceAll(/[\n\r]/g, ' ')}"`

/**
 * Writes a mesh as an OpenUSD text layer (.usda): meters, Y up, one Mesh prim per object inside the prims that the file
 * had it in, points welded where positions are equal. Values are primvars with the coarsest interpolation that holds
 * them: `constant` where an object has one value, `uniform` (per face) for values of parts, `vertex` where all corners
 * at a point agree, else `faceVarying`, as normals and UVs (`st`, t upward) are. Surfaces are
 * UsdPreviewSurface materials, and the same as MaterialX networks.
 */
export function writeUsd(
  mesh: Mesh,
  title: string,
  {
    surfaces = [],
    primvars = [],
    partOfTriangle,
    keys,
    sets = [],
  }: {
    surfaces?: readonly UsdSurface[]
    primvars?: readonly Primvar[]
    partOfTriangle?: ArrayLike<number>
    /** The key of each part: written with the whole numbers of {@link Primvar}. */
    keys?: readonly string[]
    /** Part sets: each is a subset of the faces of every mesh that has some of it. */
    sets?: readonly { name: string; members: ArrayLike<number> }[]
  } = {},
): string {
  const root = plainName(title)
  const lines: string[] = [
    '#usda 1.0',
    '(',
    `    defaultPrim = "${root}"`,
    '    doc = "Written by Ubblet"',
    '    metersPerUnit = 1',
    '    upAxis = "Y"',
    ')',
    '',
    `def Xform "${root}" (`,
    '    kind = "component"',
    ...(surfaces.length ? ['    prepend apiSchemas = ["MaterialBindingAPI"]'] : []),
  ]
  const worn = namer()
  const names = surfaces.map(s => worn(s.name))
  if (surfaces.length > 1)
    lines.push(
      '    variants = {',
      `        string look = ${quoted(names[0]!)}`,
      '    }',
      '    prepend variantSets = "look"',
    )
  lines.push(')', '{')
  const looks = `/${root}/Looks`
  // A single look is bound where the mesh is; of several, the variant that is chosen binds one.
  if (surfaces.length === 1) lines.push(`    rel material:binding = <${looks}/${names[0]}>`)

  interface Branch {
    folders: Map<string, Branch>
    objects: Mesh['objects']
  }
  const branch = (): Branch => ({ folders: new Map(), objects: [] })
  const top = branch()
  for (const object of mesh.objects) {
    let at = top
    for (const parent of object.parents ?? []) {
      if (!at.folders.has(parent)) at.folders.set(parent, branch())
      at = at.folders.get(parent)!
    }
    at.objects.push(object)
  }
  const visit = ({ folders, objects }: Branch, indent: string, free = namer()) => {
    for (const [name, inner] of folders) {
      lines.push(`${indent}def Xform "${free(name)}"`, `${indent}{`)
      visit(inner, `${indent}    `)
      lines.push(`${indent}}`)
    }
    for (const object of objects) {
      lines.push(`${indent}def Mesh "${free(object.name)}"`, `${indent}{`)
      for (const line of meshLines(mesh, object, { primvars, partOfTriangle, keys, sets }))
        lines.push(`${indent}    ${line}`)
      lines.push(`${indent}}`)
    }
  }
  const free = namer()
  free('Looks')
  visit(top, '    ', free)
  lines.push('    def Scope "Looks"', '    {')
  surfaces.forEach((s, i) => lines.push(...material(s, names[i]!, `${looks}/${names[i]}`).map(l => `        ${l}`)))
  lines.push('    }')
  if (surfaces.length > 1) {
    lines.push('    variantSet "look" = {')
    for (const name of names)
      lines.push(`        ${quoted(name)} {`, `            rel material:binding = <${looks}/${name}>`, '        }')
    lines.push('    }')
  }
  lines.push('}', '')
  return lines.join('\n')
}

function meshLines(
  mesh: Mesh,
  { name, firstTriangle, triangles, firstVertex, vertices }: Mesh['objects'][number],
  {
    primvars,
    partOfTriangle,
    keys,
    sets,
  }: {
    primvars: readonly Primvar[]
    partOfTriangle: ArrayLike<number> | undefined
    keys: readonly string[] | undefined
    sets: readonly { name: string; members: ArrayLike<number> }[]
  },
): string[] {
  // (1) Points: one for each place.
  const places = new Map<string, number>()
  const pointOf = new Uint32Array(vertices)
  const points: number[] = []
  const first: number[] = []
  for (let v = 0; v < vertices; v++) {
    const at = (firstVertex + v) * 3
    const p = [mesh.positions[at]!, mesh.positions[at + 1]!, mesh.positions[at + 2]!]
    const key = p.join(' ')
    let to = places.get(key)
    if (to === undefined) {
      places.set(key, (to = first.push(firstVertex + v) - 1))
      points.push(...p)
    }
    pointOf[v] = to
  }
  const corners = mesh.indices.subarray(firstTriangle * 3, (firstTriangle + triangles) * 3)
  const perCorner = (values: Float32Array, size: number, change = (x: number, _k: number) => x) => {
    const out = new Float32Array(corners.length * size)
    for (let i = 0; i < corners.length; i++)
      for (let k = 0; k < size; k++) out[i * size + k] = change(values[corners[i]! * size + k]!, k)
    return out
  }
  let low = [Infinity, Infinity, Infinity]
  let high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i++) {
    low = low.map((x, k) => (k === i % 3 ? Math.min(x, points[i]!) : x))
    high = high.map((x, k) => (k === i % 3 ? Math.max(x, points[i]!) : x))
  }
  const out = [
    `float3[] extent = ${rows([...low, ...high], 3)}`,
    `int[] faceVertexCounts = [${Array.from({ length: triangles }, () => 3).join(', ')}]`,
    `int[] faceVertexIndices = [${Array.from(corners, v => pointOf[v - firstVertex]!).join(', ')}]`,
    `point3f[] points = ${rows(points, 3)}`,
    `normal3f[] normals = ${rows(perCorner(mesh.normals, 3), 3)} (`,
    '    interpolation = "faceVarying"',
    ')',
    'uniform token subdivisionScheme = "none"',
    ...(mesh.uvs
      ? [
          `texCoord2f[] primvars:st = ${rows(
            perCorner(mesh.uvs, 2, (x, k) => (k ? 1 - x : x)),
            2,
          )} (`,
          '    interpolation = "faceVarying"',
          ')',
        ]
      : []),
  ]
  // (2) Values, each as coarse as it can be.
  const taken = namer()
  taken('st')
  for (const p of primvars) {
    const { components: size, values } = p
    const held = (v: number, w: number) => {
      for (let k = 0; k < size; k++) if (values[v * size + k] !== values[w * size + k]) return false
      return true
    }
    const one = corners.every(v => held(v, corners[0]!))
    const face = !one && p.perPart && partOfTriangle && corners.every((v, i) => held(v, corners[i - (i % 3)]!))
    const vertex = !one && !face && corners.every(v => held(v, first[pointOf[v - firstVertex]!]!))
    const pick = (list: readonly number[]) => {
      const all = new Float32Array(list.length * size)
      list.forEach((v, i) => {
        for (let k = 0; k < size; k++) all[i * size + k] = values[v * size + k]!
      })
      return all
    }
    const chosen = (): [string, ReturnType<typeof pick>] => {
      if (one) return ['constant', pick([corners[0]!])]
      if (face) return ['uniform', pick(Array.from({ length: triangles }, (_, t) => corners[t * 3]!))]
      if (vertex) return ['vertex', pick(first)]
      return ['faceVarying', perCorner(values, size)]
    }
    const [interpolation, data] = chosen()
    const plain = p.whole ? 'int' : TYPES[size]
    out.push(
      `${p.color ? 'color3f' : plain}[] primvars:${taken(p.name)} = ${rows(data, size)} (`,
      `    interpolation = "${interpolation}"`,
      ')',
    )
  }
  // (3) Which part each face belongs to, by its key, and which part sets.
  if (partOfTriangle && keys && primvars.some(p => p.whole)) {
    const numbers = new Map<number, number>()
    const indices = Array.from({ length: triangles }, (_, t) => {
      const part = partOfTriangle[firstTriangle + t]!
      if (!numbers.has(part)) numbers.set(part, numbers.size)
      return numbers.get(part)!
    })
    out.push(
      `string[] primvars:${taken('part_key')} = [${[...numbers.keys()].map(p => quoted(keys[p]!)).join(', ')}] (`,
      '    interpolation = "uniform"',
      ')',
      `int[] primvars:part_key:indices = [${indices.join(', ')}]`,
    )
  }
  const subsets = namer()
  for (const set of partOfTriangle ? sets : []) {
    const faces = Array.from({ length: triangles }, (_, t) => t).filter(
      t => set.members[partOfTriangle![firstTriangle + t]!],
    )
    if (!faces.length) continue
    out.push(
      `def GeomSubset "${subsets(set.name)}"`,
      '{',
      '    uniform token elementType = "face"',
      '    uniform token familyName = "partSets"',
      `    int[] indices = [${faces.join(', ')}]`,
      '}',
    )
  }
  if (name !== plainName(name)) out.push(`custom string ubblet:name = ${quoted(name)}`)
  return out
}

function material(surface: UsdSurface, name: string, path: string): string[] {
  const inputs: string[] = []
  const shaders: string[] = []
  const reader = (id: string, use: PictureUse, output: string, scale?: readonly number[], bias?: readonly number[]) => {
    shaders.push(
      `def Shader "${id}"`,
      '{',
      '    uniform token info:id = "UsdUVTexture"',
      `    asset inputs:file = @${use.path}@`,
      `    token inputs:sourceColorSpace = "${use.space === 'srgb' ? 'sRGB' : 'raw'}"`,
      `    float2 inputs:st.connect = <${path}/st.outputs:result>`,
      '    token inputs:wrapS = "repeat"',
      '    token inputs:wrapT = "repeat"',
      ...(scale ? [`    float4 inputs:scale = (${scale.join(', ')})`] : []),
      ...(bias ? [`    float4 inputs:bias = (${bias.join(', ')})`] : []),
      `    ${output.length > 1 ? 'float3' : 'float'} outputs:${output}`,
      '}',
    )
    return `<${path}/${id}.outputs:${output}>`
  }
  const wire = (type: string, input: string, from: string) =>
    inputs.push(`    ${type} inputs:${input}.connect = ${from}`)
  if (surface.baseColor) wire('color3f', 'diffuseColor', reader('baseColor', surface.baseColor, 'rgb'))
  else if (surface.vertexColor) {
    shaders.push(
      'def Shader "color"',
      '{',
      '    uniform token info:id = "UsdPrimvarReader_float3"',
      '    string inputs:varname = "displayColor"',
      '    float3 outputs:result',
      '}',
    )
    wire('color3f', 'diffuseColor', `<${path}/color.outputs:result>`)
  } else if (surface.factors?.baseColor)
    inputs.push(`    color3f inputs:diffuseColor = (${surface.factors.baseColor.map(figure).join(', ')})`)
  if (surface.factors?.metalness !== undefined && !surface.metalness)
    inputs.push(`    float inputs:metallic = ${figure(surface.factors.metalness)}`)
  if (surface.factors?.roughness !== undefined && !surface.roughness)
    inputs.push(`    float inputs:roughness = ${figure(surface.factors.roughness)}`)
  if (surface.metalness) wire('float', 'metallic', reader('metalness', surface.metalness, 'r'))
  if (surface.roughness) wire('float', 'roughness', reader('roughness', surface.roughness, 'r'))
  if (surface.occlusion) wire('float', 'occlusion', reader('occlusion', surface.occlusion, 'r'))
  if (surface.normal) wire('normal3f', 'normal', reader('normal', surface.normal, 'rgb', [2, 2, 2, 1], [-1, -1, -1, 0]))
  if (surface.height)
    wire(
      'float',
      'displacement',
      reader('height', surface.height, 'r', [surface.height.scale, 1, 1, 1], [surface.height.bias, 0, 0, 0]),
    )
  if (surface.emission)
    wire(
      'color3f',
      'emissiveColor',
      reader(
        'emission',
        surface.emission,
        'rgb',
        surface.emission.strength === 1
          ? undefined
          : [surface.emission.strength, surface.emission.strength, surface.emission.strength, 1],
      ),
    )
  if (surface.opacity) wire('float', 'opacity', reader('opacity', surface.opacity, 'r'))
  const standard = usdMaterialX(surface, path, figure)
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
    ...inputs.map(i => `    ${i}`),
    '        token outputs:surface',
    ...(surface.height ? ['        token outputs:displacement'] : []),
    '    }',
    '    def Shader "st"',
    '    {',
    '        uniform token info:id = "UsdPrimvarReader_float2"',
    '        string inputs:varname = "st"',
    '        float2 outputs:result',
    '    }',
    ...[...shaders, ...standard.shaders].map(l => `    ${l}`),
    '}',
  ]
}
