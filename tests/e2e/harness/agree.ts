import { Evaluator } from '#core/evaluate/evaluator'
import { LoneEvaluator } from '#core/evaluate/loneEvaluator'
import { isSeen, type Picture } from '#core/evaluate/pictures'
import { pyramidOf } from '#core/evaluate/pyramid'
import { meshTables } from '#core/evaluate/tables'
import { addNode, connect, setParam } from '#core/graph/edit'
import { emptyLook, type Look } from '#core/graph/look'
import { ECHO } from '#core/graph/echo'
import { inputType } from '#core/graph/kinds'
import { converts, nodeOf } from '#core/graph/ports'
import { CHANNEL_NAMES } from '#core/graph/types'
import { KINDS, RESULT } from '#core/nodes'
import type { NodeKind, ParamValue } from '#core/nodes/declare'
import { loadKernels } from '#core/kernels/kernels'
import { measureParts } from '#core/mesh/measures'
import { findParts } from '#core/mesh/parts'
import { newSet } from '#core/mesh/setEdits'
import { samplePoints, type SurfacePoints } from '#core/mesh/sample'
import { uvDensities } from '#core/mesh/uvs'
import { lower, reader, refsOf } from '#core/program/lower'
import { PART, SURFACE, VERTEX } from '#core/program/ops'
import { plan, type Plan } from '#core/program/plan'
import { lookShader, packMaps, packPartTable } from '#core/shader/glsl'
import { boxes } from '../../helpers'

const COUNT = 1000
const kernels = await loadKernels()
const mesh = boxes(
  Array.from({ length: 12 }, (_, i) => ({
    object: `o${i % 3}`,
    at: [(i % 4) * 1.5, (i >> 2) * 1.4, i * 0.13] as [number, number, number],
  })),
)
mesh.maps.push({
  name: 'map',
  components: 3,
  values: Float32Array.from({ length: mesh.positions.length }, (_, i) => (i * 0.618) % 1),
})
const parts = findParts(mesh)
const tables = meshTables(
  mesh,
  parts,
  [{ set: newSet([], [], 'set'), members: Uint8Array.from(parts.parts, (_, i) => (i % 3 ? 1 : 0)) }],
  measureParts(mesh, parts),
  () => ({ pairs: Uint32Array.from({ length: 22 }, (_, i) => (i + 1) >> 1), distance: 0.01 }),
  [
    { name: 'picture', width: 5, height: 4, data: Uint8ClampedArray.from({ length: 80 }, (_, i) => (i * 97) % 256) },
    {
      name: 'numbers',
      width: 6,
      height: 3,
      lanes: 1,
      covers: [-1, 0.25, 2, 1.5],
      data: Float32Array.from({ length: 18 }, (_, i) => ((i * 7) % 11) - 4.5),
    },
  ],
)
/** From less than a texel of any picture to more than all of it. */
const wide = Float32Array.from({ length: COUNT }, (_, i) => 0.01 * 400 ** ((i * 0.618) % 1))
const points: SurfacePoints = { ...samplePoints(mesh, COUNT), footprint: { meters: () => wide } }
const densities = uvDensities(mesh)

/** Interpolates a vertex column as the rasterizer would. */
function interpolate(
  column: Float32Array,
  stride: number,
  offset: number,
  { triangle, u, v }: SurfacePoints,
): Float32Array {
  return Float32Array.from(triangle, (t, i) => {
    const at = (c: number) => column[mesh.indices[t * 3 + c]! * stride + offset]!
    return at(0) + (at(1) - at(0)) * u[i]! + (at(2) - at(0)) * v[i]!
  })
}

const canvas = document.createElement('canvas')
const gl = canvas.getContext('webgl2')!
if (!gl.getExtension('EXT_color_buffer_float')) throw new Error('no float targets')
function texture(width: number, height: number, data: Float32Array | null): WebGLTexture {
  const t = gl.createTexture()
  gl.bindTexture(gl.TEXTURE_2D, t)
  gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, width, height, 0, gl.RGBA, gl.FLOAT, data)
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST)
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST)
  return t
}
/** A picture with the smaller ones of its pyramid. */
function pictureTexture(picture: Picture, linear: boolean): WebGLTexture {
  const texel = ({ data, lanes }: Picture, k: number): number => {
    if (isSeen(picture)) return data[k]! / 255
    return k % 4 === 3 ? 1 : data[lanes ? k >> 2 : k]!
  }
  const t = texture(1, 1, null)
  pyramidOf(picture, linear).forEach((level, i) => {
    const { width, height } = level
    const data = Float32Array.from({ length: width * height * 4 }, (_, k) => texel(level, k))
    gl.texImage2D(gl.TEXTURE_2D, i, gl.RGBA32F, width, height, 0, gl.RGBA, gl.FLOAT, data)
  })
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST_MIPMAP_NEAREST)
  return t
}
/** Columns as RGBA texels, one row of `count`. */
const rgba = (columns: ArrayLike<number>[], count: number) =>
  Float32Array.from({ length: count * 4 }, (_, i) => columns[i % 4]?.[i >> 2] ?? 0)

/** Targets that a shader writes at once. */
const TARGETS = gl.getParameter(gl.MAX_DRAW_BUFFERS) as number

/** Runs statements once per pixel of one row and reads some vec4 back. Inputs are textures of the same row. */
function pass(
  count: number,
  declarations: string,
  body: string,
  results: readonly string[],
  inputs: [string, WebGLTexture][],
  uniforms: Float32Array,
): Float32Array[] {
  if (results.length > TARGETS)
    return [
      ...pass(count, declarations, body, results.slice(0, TARGETS), inputs, uniforms),
      ...pass(count, declarations, body, results.slice(TARGETS), inputs, uniforms),
    ]
  if (!results.length) return []
  const program = gl.createProgram()
  const compile = (type: number, source: string) => {
    const shader = gl.createShader(type)!
    gl.shaderSource(shader, source)
    gl.compileShader(shader)
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(`${gl.getShaderInfoLog(shader)}\n${source}`)
    gl.attachShader(program, shader)
  }
  compile(
    gl.VERTEX_SHADER,
    '#version 300 es\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }',
  )
  compile(
    gl.FRAGMENT_SHADER,
    `#version 300 es
precision highp float; precision highp int; precision highp sampler2D;
${inputs.map(([name]) => `uniform sampler2D ${name};`).join('\n')}
${uniforms.length ? `uniform vec4 ubUniforms[${uniforms.length / 4}];` : ''}
${declarations}
${results.map((_, i) => `layout(location = ${i}) out vec4 result${i};`).join('\n')}
void main() {
ivec2 at = ivec2(gl_FragCoord.x, 0);
${body}
${results.map((r, i) => `result${i} = ${r};`).join('\n')}
}`,
  )
  gl.linkProgram(program)
  gl.useProgram(program)
  inputs.forEach(([name, t], unit) => {
    gl.activeTexture(gl.TEXTURE0 + unit)
    gl.bindTexture(gl.TEXTURE_2D, t)
    gl.uniform1i(gl.getUniformLocation(program, name), unit)
  })
  if (uniforms.length) gl.uniform4fv(gl.getUniformLocation(program, 'ubUniforms'), uniforms)
  gl.activeTexture(gl.TEXTURE15)
  const targets = results.map(() => texture(count, 1, null))
  const frame = gl.createFramebuffer()
  gl.bindFramebuffer(gl.FRAMEBUFFER, frame)
  targets.forEach((target, i) =>
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + i, gl.TEXTURE_2D, target, 0),
  )
  gl.drawBuffers(targets.map((_, i) => gl.COLOR_ATTACHMENT0 + i))
  gl.viewport(0, 0, count, 1)
  gl.drawArrays(gl.TRIANGLES, 0, 3)
  const read = targets.map((_, i) => {
    const pixels = new Float32Array(count * 4)
    gl.readBuffer(gl.COLOR_ATTACHMENT0 + i)
    gl.readPixels(0, 0, count, 1, gl.RGBA, gl.FLOAT, pixels)
    return pixels
  })
  gl.deleteFramebuffer(frame)
  for (const target of targets) gl.deleteTexture(target)
  gl.deleteProgram(program)
  return read
}
const lanes = (pixels: Float32Array): Float32Array[] => [0, 1, 2, 3].map(k => pixels.filter((_, n) => n % 4 === k))

/** The roots of a plan at the points, computed by the shaders' own statements: first the vertices, then the points. */
function byShader(p: Plan, evaluator: Evaluator): Float32Array[] {
  const s = lookShader(p)
  const vertices = mesh.positions.length / 3
  const uniforms = new Float32Array(s.uniformCount * 4)
  uniforms.set(evaluator.uniforms)
  const { data, height } = packPartTable(evaluator.partColumns, tables.parts.parts.length)
  const parts: [string, WebGLTexture] = ['ubParts', texture(1024, height, data)]
  const strides = Array.from({ length: s.vertexStride }, (_, i) => i)
  const read = s.pictures.map(({ name }) => tables.pictures!.find(p => p.name === name)!)
  const pictures = read.map((picture, i): [string, WebGLTexture] => [
    `ubPicture${i}`,
    pictureTexture(picture, s.pictures[i]!.linear),
  ])
  const said = read.map((picture, i) => {
    const covers = (picture.covers ?? [0, 0, 1, 1]).map(x => x.toFixed(3)).join()
    return `const vec4 ubCovers${i} = vec4(${covers}); const bool ubNumbers${i} = ${!isSeen(picture)};`
  })
  const functions = `${said.join('\n')}\n${s.functions}`

  const atVertices: [string, WebGLTexture][] = [
    parts,
    ...pictures,
    ['inPart', texture(vertices, 1, rgba([Float32Array.from(tables.parts.partOfVertex)], vertices))],
    ...packMaps(s.maps, mesh, ref => evaluator.gatherer.valueOf(ref) as Float32Array).map(
      (d, i): [string, WebGLTexture] => [`inMap${i}`, texture(vertices, 1, d)],
    ),
  ]
  const vertexColumns = pass(
    vertices,
    functions,
    `int ubPart = int(texelFetch(inPart, at, 0).x + 0.5);
${s.maps
  .filter((_, k) => k % 4 === 0)
  .map((_, i) => `vec4 ubMap${i} = texelFetch(inMap${i}, at, 0);`)
  .join('\n')}
${strides.map(i => `vec4 ubVertex${i} = vec4(0.0);`).join('\n')}
${s.vertexBody}`,
    strides.map(j => `ubVertex${j}`),
    atVertices,
    uniforms,
  ).flatMap(lanes)

  const atPoints: [string, WebGLTexture][] = [
    parts,
    ...pictures,
    [
      'inPlace',
      texture(
        COUNT,
        1,
        rgba(
          [
            ...[0, 1, 2].map(k => interpolate(mesh.positions, 3, k, points)),
            Float32Array.from(points.triangle, t => tables.parts.partOfTriangle[t]!),
          ],
          COUNT,
        ),
      ),
    ],
    [
      'inUv',
      texture(
        COUNT,
        1,
        rgba(
          [
            ...[0, 1].map(k => interpolate(mesh.uvs!, 2, k, points)),
            wide,
            wide.map((x, i) => x * densities[points.triangle[i]!]!),
          ],
          COUNT,
        ),
      ),
    ],
    [
      'inFacing',
      texture(
        COUNT,
        1,
        rgba(
          [0, 1, 2].map(k => interpolate(mesh.normals, 3, k, points)),
          COUNT,
        ),
      ),
    ],
    ...strides.map((i): [string, WebGLTexture] => [
      `inVertex${i}`,
      texture(
        COUNT,
        1,
        rgba(
          vertexColumns.slice(i * 4, i * 4 + 4).map(c => interpolate(c, 1, 0, points)),
          COUNT,
        ),
      ),
    ]),
  ]
  const results = Array.from(
    { length: Math.ceil(s.roots.length / 4) },
    (_, i) => `vec4(${[0, 1, 2, 3].map(k => s.roots[i * 4 + k] ?? '0.0').join(', ')})`,
  )
  const out = pass(
    COUNT,
    functions,
    `vec3 ubPosition = texelFetch(inPlace, at, 0).xyz; int ubPart = int(texelFetch(inPlace, at, 0).w + 0.5); vec2 ubUv = texelFetch(inUv, at, 0).xy; float ubFootprint = texelFetch(inUv, at, 0).z, ubFootprintUv = texelFetch(inUv, at, 0).w; vec3 ubFacing = texelFetch(inFacing, at, 0).xyz;
${strides.map(i => `vec4 ubVertex${i} = texelFetch(inVertex${i}, at, 0);`).join('\n')}
${s.surfaceBody}`,
    results,
    atPoints,
    uniforms,
  )
    .flatMap(lanes)
    .slice(0, s.roots.length)
  for (const [, t] of [...atVertices, ...atPoints]) gl.deleteTexture(t)
  return out
}

export interface Agreement {
  kind: string
  settings: string
  fed: string
  port: string
  largest: number
  surfaceOps: number
  distinct: number
}

/**
 * A look with one node of a kind, every input fed with a pattern of its own, so that its work falls to the surface; or
 * with the components of a vertex map, so that it falls to the vertices.
 */
function trial(
  kind: NodeKind,
  settings: Record<string, ParamValue>,
  fed: 'surface' | 'vertices',
): { look: Look; id: string } {
  // What an echo stands for.
  const { look: start, id } = addNode(addNode(emptyLook(), 'noise', [0, 0], { seed: 77 }).look, kind.kind, [0, 0])
  let look = start
  for (const [name, value] of Object.entries(settings)) look = setParam(look, id, name, value)
  Object.entries(kind.inputs).forEach(([name, d], i) => {
    const type = inputType(nodeOf(look, id)!, d)
    // A ramp across the mesh, each its own way: a pattern would take the compiler far longer and tell no more of this
    // node.
    const feed =
      fed === 'surface'
        ? addNode(look, 'positionGradient', [0, 0], { axis: 'any', turn: 20 + 47 * i, tilt: 25 + 13 * i })
        : addNode(look, 'vertexMap', [0, 0], { map: 'map', component: i % 3 })
    const ramp = addNode(feed.look, 'ramp', [0, 0], {
      between: 'linear',
      stops: [
        { at: 0.2, color: [0.9, 0.05, 0.1] },
        { at: 0.5, color: [0.05, 0.4, 0.8] },
        { at: 0.8, color: [0.7, 0.8, 0.02] },
      ],
    })
    look = connect(ramp.look, { node: feed.id, port: 'value' }, { node: ramp.id, port: 'value' })
    if (type === 'finish') {
      const finish = addNode(look, 'finish', [0, 0], {
        sets: [...CHANNEL_NAMES],
        metalness: 0.2 + i * 0.5,
        height: i - 0.4,
        opacity: 0.3 + i * 0.4,
      })
      look = connect(
        connect(finish.look, { node: ramp.id, port: 'color' }, { node: finish.id, port: 'baseColor' }),
        { node: feed.id, port: 'value' },
        { node: finish.id, port: 'roughness' },
      )
      look = connect(look, { node: finish.id, port: 'finish' }, { node: id, port: name })
      return
    }
    const from = type === 'color' ? { node: ramp.id, port: 'color' } : { node: feed.id, port: 'value' }
    if (converts(type === 'color' ? 'color' : 'value', type)) look = connect(look, from, { node: id, port: name })
  })
  return { look, id }
}

/** Settings to try: the defaults, then every option of every choice. Maps and sets name one that the mesh has. */
function* settingsOf(kind: NodeKind): Generator<Record<string, ParamValue>> {
  const base: Record<string, ParamValue> = Object.fromEntries(
    Object.entries(kind.params)
      .filter(([, d]) => (d.type === 'map' && !d.optional) || d.type === 'set' || d.type === 'picture')
      .map(([name, d]) => [name, d.type]),
  )
  for (const [name, d] of Object.entries(kind.params)) {
    if (d.type === 'port') base[name] = 'noise1/value'
    if (d.type === 'channels') yield { ...base, [name]: [...CHANNEL_NAMES] }
    if (d.type === 'pins')
      yield {
        ...base,
        [name]: [
          { part: tables.parts.parts[0]!.key, value: 0.3 },
          { part: tables.parts.parts[1]!.key, roll: 2 },
        ],
      }
    if (d.type === 'curve')
      yield {
        ...base,
        [name]: [
          { x: 0.1, y: 0.2 },
          { x: 0.4, y: 0.9 },
          { x: 0.8, y: 0.3 },
        ],
      }
  }
  yield base
  if (kind.kind === ECHO) return
  for (const [name, d] of Object.entries(kind.params)) {
    if (d.type === 'choice') for (const o of d.options) if (o.value !== d.default) yield { ...base, [name]: o.value }
    if (d.type === 'toggle') yield { ...base, [name]: !d.default }
    if (d.type === 'component') yield { ...base, [name]: 1 }
    if (d.type === 'map' && d.optional) yield { ...base, [name]: 'map' }
    if (d.type === 'picture') yield { ...base, [name]: 'numbers' }
  }
  // All numbers at once: the text of the shader is the same, so there is little more to learn from each alone.
  yield {
    ...base,
    ...Object.fromEntries(
      Object.entries(kind.params).flatMap(([name, d]) =>
        d.type === 'number' ? [[name, Math.min(d.max, d.default * 1.5 + d.step * 3)]] : [],
      ),
    ),
  }
}

function compare(): Agreement[] {
  const found: Agreement[] = []
  for (const kind of KINDS) {
    if (kind.kind === RESULT) continue
    const fedBy = Object.values(kind.inputs).length ? (['surface', 'vertices'] as const) : (['surface'] as const)
    // From the vertices once: which choices are made does not change how a stage hands its values on.
    for (const [n, settings] of [...settingsOf(kind)].entries())
      for (const fed of n ? fedBy.slice(0, 1) : fedBy) {
        const { look, id } = trial(kind, settings, fed)
        const program = lower(look, mesh.maps)
        // All ports in one program: fewer shaders to compile.
        const ports = Object.keys(kind.outputs).map(port => {
          return { port, roots: [...refsOf(program.outputs.get(`${id}/${port}`)!)] }
        })
        const roots = ports.flatMap(p => p.roots)
        const p = plan(program, roots)
        const evaluator = new LoneEvaluator(kernels, p, tables)
        const columns = roots.map(() => new Float32Array(COUNT))
        evaluator.refresh(reader(look))
        evaluator.evaluate(points, columns)
        const shader = byShader(p, evaluator)
        let k = 0
        for (const { port, roots: own } of ports) {
          let largest = 0
          const first = k
          own.forEach(() => {
            const c = columns[k]!
            const other = shader[k++]!
            c.forEach((x, i) => {
              const off = Math.abs(x - other[i]!) / Math.max(1, Math.abs(x))
              largest = Math.max(largest, Number.isNaN(off) ? Infinity : off)
            })
          })
          found.push({
            kind: kind.kind,
            settings: JSON.stringify(settings),
            fed,
            port,
            largest,
            surfaceOps: p.stages[SURFACE].order.length + p.stages[PART].out.length + p.stages[VERTEX].out.length,
            distinct: new Set(columns[first]).size,
          })
        }
      }
  }
  return found
}

Object.assign(window, { compare })
