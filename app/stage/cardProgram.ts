import {
  DataTexture,
  FloatType,
  GLSL3,
  NearestFilter,
  NoBlending,
  RGBAFormat,
  ShaderMaterial,
  Vector2,
  Vector4,
  type IUniform,
  type Texture,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from 'three'
import { Evaluator } from '#core/evaluate/evaluator'
import { pixelSizeOf, SHARPEST } from '#core/evaluate/footprints'
import type { Gatherer, WholeValues } from '#core/evaluate/gather'
import { isSeen } from '#core/evaluate/pictures'
import type { MeshTables } from '#core/evaluate/tables'
import { GROUND } from '#core/evaluate/visible'
import type { Kernels } from '#core/kernels/kernels'
import type { ParamReader } from '#core/program/lower'
import type { Ref } from '#core/program/ops'
import type { Plan } from '#core/program/plan'
import {
  lookShader,
  packMaps,
  packPartTable,
  PART_TABLE_WIDTH,
  pictureUniforms,
  type LookShader,
  type ShaderPicture,
} from '#core/shader/glsl'
import { LIST_CELL, LIST_WIDTH, listTexture } from './meshTextures'
import { FULL_VERTEX, noWords, numbersTarget, type FullPass } from './passes'
import { pictureTexture } from './pictureTexture'
import type { Camera, Sample } from './sample'
import { lineOf } from './sightline'

const count = (n: number): number[] => Array.from({ length: n }, (_, i) => i)

const shared = (s: LookShader): string => `
precision highp float;
precision highp int;
uniform highp sampler2D ubParts;
${pictureUniforms(s.pictures)}
${s.uniformCount ? `uniform highp vec4 ubUniforms[${s.uniformCount}];` : ''}
${LIST_CELL}
${s.functions}`

/** Each texel is four of the values that a vertex hands on: texel i is number `i % stride` of vertex `i / stride`. */
function vertexShaderOf(s: LookShader): string {
  const maps = Math.ceil(s.maps.length / 4)
  return `${shared(s)}
uniform highp sampler2D ubOwners;
uniform int ubVertices;
${count(maps)
  .map(i => `uniform highp sampler2D ubMapList${i};`)
  .join('\n')}
layout(location = 0) out vec4 handed;
void main() {
  int cell = int(gl_FragCoord.y) * ${LIST_WIDTH} + int(gl_FragCoord.x);
  int vertex = cell / ${s.vertexStride};
  if (vertex >= ubVertices) discard;
  int ubPart = int(texelFetch(ubOwners, ubCell(vertex), 0).x + 0.5);
  ${count(maps)
    .map(i => `vec4 ubMap${i} = texelFetch(ubMapList${i}, ubCell(vertex), 0);`)
    .join('\n')}
  ${count(s.vertexStride)
    .map(i => `vec4 ubVertex${i} = vec4(0.0);`)
    .join('\n')}
  ${s.vertexBody}
  int wanted = cell % ${s.vertexStride};
  handed = ubVertex0;
  ${count(s.vertexStride)
    .slice(1)
    .map(i => `if (wanted == ${i}) handed = ubVertex${i};`)
    .join('\n')}
}`
}

/** How wide the surface is that the pixel sees, as `footprintsOf` and `uvDensities` find it. */
const FOOTPRINT = `
  vec3 ubToEye = ubEye.xyz - ubEye.w * ubPosition;
  float ubCosine = abs(dot(ubFacing, ubToEye)) / max(length(ubFacing) * length(ubToEye), 1e-20);
  float ubFootprint = (ubPixelSize.x * uintBitsToFloat(seen.w) + ubPixelSize.y) / sqrt(max(${SHARPEST}, ubCosine));
  vec4 ubCorner[6];
  for (int k = 0; k < 6; k++) ubCorner[k] = texelFetch(ubVertexList, ubCell(corners[k / 2] * 2 + k % 2), 0);
  float ubArea = length(cross(ubCorner[2].xyz - ubCorner[0].xyz, ubCorner[4].xyz - ubCorner[0].xyz));
  vec2 ubAlong = vec2(ubCorner[2].w, ubCorner[3].w) - vec2(ubCorner[0].w, ubCorner[1].w);
  vec2 ubAcross = vec2(ubCorner[4].w, ubCorner[5].w) - vec2(ubCorner[0].w, ubCorner[1].w);
  float ubFootprintUv = ubArea > 0.0 ? ubFootprint * sqrt(abs(ubAlong.x * ubAcross.y - ubAlong.y * ubAcross.x) / ubArea) : 0.0;`

/** A number of a pixel that a program writes: a value of it, what the surface pass found there, or nothing. */
export type Lane = Ref | 'depth' | 'part' | undefined

/** The pictures that a program writes. */
export interface Written {
  /** Four to a picture; the values among them are the plan's roots, in the same order. */
  lanes: readonly Lane[]
  /** What stands in the pictures where the ground is seen: a vec4 for each. */
  ground: readonly string[]
  /** The lane that says how much of a point hides what is behind it, where a look lets light through. */
  opacity?: number
  /** The picture that begins with the normal, which is turned to who looks where the surface is seen from behind. */
  facing?: number
}

/** Turns the normal in a picture as `seenFromBehind` says. */
const turnedToEye = (picture: number): string => `
  vec3 ubCorner0 = texelFetch(ubVertexList, ubCell(corners.x * 2), 0).xyz;
  vec3 ubSide1 = texelFetch(ubVertexList, ubCell(corners.y * 2), 0).xyz - ubCorner0;
  vec3 ubSide2 = texelFetch(ubVertexList, ubCell(corners.z * 2), 0).xyz - ubCorner0;
  if (dot(cross(ubSide1, ubSide2), ubEye.xyz - ubEye.w * ubCorner0) < 0.0) picture${picture}.xyz *= -1.0;`

function surfaceShaderOf(s: LookShader, { lanes, ground, opacity, facing }: Written, given: number): string {
  let next = 0
  const expressions = lanes.map(lane => {
    if (lane === 'depth') return 'uintBitsToFloat(seen.w)'
    if (lane === 'part') return 'float(ubPart + 1)'
    return lane === undefined ? '0.0' : s.roots[next++]!
  })
  return `${shared(s)}
uniform highp usampler2D ubSeen;
uniform highp usampler2D ubTriangles;
uniform highp sampler2D ubVertexList;
uniform highp sampler2D ubHanded;
uniform float ubSample;
uniform float ubLayer;
uniform vec2 ubPixelSize;
uniform vec4 ubEye;
${ground.map((_, i) => `layout(location = ${i}) out highp vec4 picture${i};`).join('\n')}
${count(given)
  .map(i => `uniform highp sampler2D ubKept${i};`)
  .join('\n')}
vec4 ubBetween(highp sampler2D list, ivec3 cells, vec3 w) {
  return texelFetch(list, ubCell(cells.x), 0) * w.x + texelFetch(list, ubCell(cells.y), 0) * w.y + texelFetch(list, ubCell(cells.z), 0) * w.z;
}
float ubDither(vec2 at, float number) {
  return fract(fract(52.9829189 * fract(0.06711056 * at.x + 0.00583715 * at.y)) + number * 0.6180339887498949);
}
void main() {
  uvec4 seen = texelFetch(ubSeen, ivec2(gl_FragCoord.xy), 0);
  if (seen.x == 0u) discard;
  if (seen.x == ${GROUND}u) {
    ${ground.map((words, i) => `picture${i} = ${words};`).join('\n')}
    return;
  }
  uvec4 triangle = texelFetch(ubTriangles, ubCell(int(seen.x) - 1), 0);
  int ubPart = int(triangle.w);
  ivec3 corners = ivec3(triangle.xyz);
  vec3 w = vec3(0.0, uintBitsToFloat(seen.y), uintBitsToFloat(seen.z));
  w.x = 1.0 - w.y - w.z;
  vec4 place = ubBetween(ubVertexList, corners * 2, w);
  vec4 turned = ubBetween(ubVertexList, corners * 2 + 1, w);
  vec3 ubPosition = place.xyz;
  vec3 ubFacing = turned.xyz;
  vec2 ubUv = vec2(place.w, turned.w);
  ${/ubFootprint/.test(s.surfaceBody) ? FOOTPRINT : ''}
  ${count(s.vertexStride)
    .map(i => `vec4 ubVertex${i} = ubBetween(ubHanded, corners * ${s.vertexStride} + ${i}, w);`)
    .join('\n')}
  ${count(given)
    .map(i => `vec4 ubGiven${i} = texelFetch(ubKept${i}, ivec2(gl_FragCoord.xy), 0);`)
    .join('\n')}
  ${s.surfaceBody}
  ${opacity === undefined ? '' : `if (ubDither(floor(gl_FragCoord.xy) + vec2(57.0 * ubLayer, 0.0), ubSample) >= ${expressions[opacity]}) discard;`}
  ${ground.map((_, i) => `picture${i} = vec4(${expressions.slice(i * 4, i * 4 + 4).join(', ')});`).join('\n')}
  ${facing === undefined ? '' : turnedToEye(facing)}
}`
}

type Uniforms = Record<string, IUniform>

const nameOf = ({ name, linear }: ShaderPicture): string => JSON.stringify([name, linear])

/** The pictures that a look's programs read, each once on the card. */
export class CardPictures {
  private readonly known = new Map<string, [texture: IUniform, covers: IUniform, numbers: IUniform]>()

  constructor(private readonly tables: MeshTables) {}

  /** What a shader reads of its pictures. Each is as exact as its first reader asked for, with levels if that did. */
  uniformsFor(pictures: readonly ShaderPicture[]): Uniforms {
    const uniforms: Uniforms = {}
    pictures.forEach((read, i) => {
      const known = this.known.get(nameOf(read)) ?? this.add(read)
      ;[uniforms[`ubPicture${i}`], uniforms[`ubCovers${i}`], uniforms[`ubNumbers${i}`]] = known
    })
    return uniforms
  }

  private add(read: ShaderPicture): [IUniform, IUniform, IUniform] {
    const { name, linear, hasLevels, exact } = read
    const picture = this.tables.pictures?.find(p => p.name === name)
    const made: [IUniform, IUniform, IUniform] = [
      { value: pictureTexture(picture, hasLevels ? linear : undefined, exact) },
      { value: new Vector4(...(picture?.covers ?? [0, 0, 1, 1])) },
      { value: picture !== undefined && !isSeen(picture) },
    ]
    this.known.set(nameOf(read), made)
    return made
  }

  dispose(): void {
    for (const [texture] of this.known.values()) (texture.value as DataTexture).dispose()
  }
}

/** What all programs of a look share. */
export interface CardMaterial {
  kernels: Kernels
  tables: MeshTables
  gatherer: Gatherer
  pictures: CardPictures
  /** Textures of the mesh. */
  mesh: Uniforms
}

/** A plan as shaders, and what they read. */
export class CardProgram {
  readonly vertexPass?: ShaderMaterial
  readonly surfacePass: ShaderMaterial
  ready = false
  isGone = false
  /** Counts the changes of what its shaders read. */
  version = 0
  private readonly evaluator: Evaluator
  private readonly shader: LookShader
  private readonly uniforms: Uniforms
  private readonly tables: MeshTables
  private handed?: WebGLRenderTarget
  private read?: ParamReader
  private isNew = true
  private givenIsNew = false
  private vertexStale = true
  private mapsStale = true

  constructor({ kernels, tables, gatherer, pictures, mesh }: CardMaterial, plan: Plan, written: Written) {
    this.tables = tables
    this.evaluator = new Evaluator(kernels, plan, tables, gatherer)
    this.shader = lookShader(plan)
    const { shader } = this
    const vertices = tables.mesh.positions.length / 3
    const row = this.emptyRow()
    const given = Math.ceil(plan.given.length / 4)
    this.uniforms = {
      ...mesh,
      ...pictures.uniformsFor(shader.pictures),
      ubUniforms: { value: new Float32Array(Math.max(1, shader.uniformCount) * 4) },
      ubParts: { value: row },
      ubHanded: { value: null },
      ubSeen: { value: noWords },
      ubSample: { value: 0 },
      ubLayer: { value: 0 },
      ubPixelSize: { value: new Vector2() },
      ubEye: { value: new Vector4() },
      ubVertices: { value: vertices },
    }
    for (const i of count(given)) this.uniforms[`ubKept${i}`] = { value: null }
    const material = (fragmentShader: string): ShaderMaterial =>
      new ShaderMaterial({
        glslVersion: GLSL3,
        vertexShader: FULL_VERTEX,
        fragmentShader,
        uniforms: this.uniforms,
        depthTest: false,
        depthWrite: false,
        blending: NoBlending,
      })
    this.surfacePass = material(surfaceShaderOf(shader, written, given))
    if (!shader.vertexStride) return
    this.vertexPass = material(vertexShaderOf(shader))
    count(Math.ceil(shader.maps.length / 4)).forEach(i => {
      this.uniforms[`ubMapList${i}`] = { value: row }
    })
    const height = Math.ceil((vertices * shader.vertexStride) / LIST_WIDTH)
    this.handed = numbersTarget(LIST_WIDTH, height)
    this.uniforms.ubHanded!.value = this.handed.texture
  }

  private emptyRow(): DataTexture {
    const texture = new DataTexture(new Float32Array(PART_TABLE_WIDTH * 4), PART_TABLE_WIDTH, 1, RGBAFormat, FloatType)
    texture.needsUpdate = true
    return texture
  }

  /** Takes parameters, and costly values that the gatherer has been given; they are looked at when it is drawn. */
  take(read: ParamReader, values: WholeValues): void {
    this.read = read
    if (values.length) this.givenIsNew = true
    if (values.some(v => typeof v.value !== 'number')) this.mapsStale = true
  }

  /** Brings what the shaders read up to date with what was taken. */
  private refresh(): void {
    const { evaluator, uniforms, tables, read } = this
    if (!read) return
    this.read = undefined
    const changed = evaluator.refresh(read, 'parts')
    ;(uniforms.ubUniforms!.value as Float32Array).set(evaluator.uniforms)
    if (changed.uniforms || changed.parts || this.givenIsNew) {
      this.vertexStale = true
      this.version++
    }
    this.givenIsNew = false
    if (!changed.parts && !this.isNew) return
    this.isNew = false
    const { data, height } = packPartTable(evaluator.partColumns, tables.parts.parts.length)
    ;(uniforms.ubParts!.value as DataTexture).dispose()
    const table = new DataTexture(data as Float32Array<ArrayBuffer>, PART_TABLE_WIDTH, height, RGBAFormat, FloatType)
    table.minFilter = table.magFilter = NearestFilter
    table.needsUpdate = true
    uniforms.ubParts!.value = table
  }

  /** Brings all that points of the surface read up to date. */
  update(renderer: WebGLRenderer, full: FullPass, camera: Camera): void {
    this.refresh()
    const { shader, tables, uniforms, evaluator, handed, vertexPass } = this
    if (!handed || !vertexPass) return
    if (this.mapsStale) {
      this.mapsStale = false
      packMaps(shader.maps, tables.mesh, ref => evaluator.gatherer.valueOf(ref) as Float32Array).forEach((data, i) => {
        const slot = uniforms[`ubMapList${i}`]!
        ;(slot.value as DataTexture).dispose()
        slot.value = listTexture(data, data.length / 4)
      })
    }
    if (!this.vertexStale) return
    this.vertexStale = false
    full.draw(renderer, vertexPass, handed, camera)
  }

  /** What is told to all layers of a sample. */
  place(sample: Sample): void {
    const { uniforms } = this
    uniforms.ubSample!.value = sample.number
    const line = lineOf(sample.camera, sample.width, sample.height)
    const { perDepth, fixed, eye } = pixelSizeOf(line, sample.step, sample.number)
    ;(uniforms.ubPixelSize!.value as Vector2).set(perDepth, fixed)
    ;(uniforms.ubEye!.value as Vector4).set(...eye)
  }

  /**
   * Runs at what is seen in a layer of a sample.
   * @param given pictures of the values that the plan is given
   */
  draw(
    renderer: WebGLRenderer,
    full: FullPass,
    camera: Camera,
    to: { sample: Sample; layer: number; target: WebGLRenderTarget },
    given: readonly Texture[] = [],
  ): void {
    const { uniforms } = this
    uniforms.ubSeen!.value = to.sample.layers[to.layer]!.texture
    uniforms.ubLayer!.value = to.layer
    given.forEach((texture, i) => (uniforms[`ubKept${i}`]!.value = texture))
    full.draw(renderer, this.surfacePass, to.target, camera)
  }

  get passes(): { material: ShaderMaterial; target: WebGLRenderTarget | null }[] {
    return [
      ...(this.vertexPass ? [{ material: this.vertexPass, target: this.handed! }] : []),
      { material: this.surfacePass, target: null },
    ]
  }

  dispose(): void {
    this.isGone = true
    this.surfacePass.dispose()
    this.vertexPass?.dispose()
    this.handed?.dispose()
    for (const [name, { value }] of Object.entries(this.uniforms))
      if (name === 'ubParts' || name.startsWith('ubMapList')) (value as DataTexture).dispose()
  }
}
