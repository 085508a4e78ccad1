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
  WebGLRenderTarget,
  type IUniform,
  type WebGLRenderer,
} from 'three'
import { Evaluator } from '#core/evaluate/evaluator'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import { pixelSizeOf, SHARPEST } from '#core/evaluate/footprints'
import type { OfMesh } from '#core/evaluate/ofMesh'
import { isSeen } from '#core/evaluate/pictures'
import type { MeshTables } from '#core/evaluate/tables'
import { GROUND, laneOf, lanesIn, LANES, SEEN_WORDS, type ChannelPicture } from '#core/evaluate/visible'
import type { Kernels } from '#core/kernels/kernels'
import type { Box } from '#core/mesh/mesh'
import { reader } from '#core/program/lower'
import { plan } from '#core/program/plan'
import {
  lookShader,
  packMaps,
  packPartTable,
  PART_TABLE_WIDTH,
  pictureUniforms,
  type LookShader,
} from '#core/shader/glsl'
import { LOOK_SLOTS, type LookSlot, type Slot } from './slots'
import type { Backend, LoweredLook, Outcome, Rectangle } from './backend'
import { OfMeshOnCard } from './ofMeshOnCard'
import { pictureTexture } from './pictureTexture'
import { lineOf } from './sightline'
import { LIST_CELL, LIST_WIDTH, listTexture, ownerTexture, triangleTexture, vertexTexture } from './meshTextures'
import { stateTexture } from './partState'
import { FULL_VERTEX, FullPass, noWords } from './passes'
import type { Camera, Sample } from './sample'
import { SurfacePass } from './surfacePass'

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

function surfaceShaderOf(
  s: LookShader,
  pictures: readonly ChannelPicture[],
  lanes: readonly (number | undefined)[],
  opacity: number | undefined,
): string {
  let next = 0
  const refs = lanes.map(ref => (ref === undefined ? undefined : s.roots[next++]!))
  const lane = (i: number): string => {
    const { [i % 4]: what } = LANES[pictures[i >> 2]!]
    if (what === 'depth') return 'uintBitsToFloat(seen.w)'
    if (what === 'part') return 'float(ubPart + 1)'
    return refs[i] ?? '0.0'
  }
  return `${shared(s)}
uniform highp usampler2D ubSeen;
uniform highp usampler2D ubTriangles;
uniform highp sampler2D ubVertexList;
uniform highp sampler2D ubHanded;
uniform float ubSample;
uniform float ubLayer;
uniform vec2 ubPixelSize;
uniform vec4 ubEye;
${pictures.map((_, i) => `layout(location = ${i}) out highp vec4 picture${i};`).join('\n')}
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
    ${pictures.map((name, i) => `picture${i} = ${name === 'relief' ? 'vec4(0.0, uintBitsToFloat(seen.w), 0.0, -1.0)' : 'vec4(0.0)'};`).join('\n')}
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
  ${s.surfaceBody}
  ${opacity === undefined ? '' : `if (ubDither(floor(gl_FragCoord.xy) + vec2(57.0 * ubLayer, 0.0), ubSample) >= ${lane(opacity)}) discard;`}
  ${pictures.map((_, i) => `picture${i} = vec4(${[0, 1, 2, 3].map(k => lane(i * 4 + k)).join(', ')});`).join('\n')}
}`
}

/** A look's shaders and what they read. */
class CardLook {
  readonly vertexPass?: ShaderMaterial
  readonly surfacePass: ShaderMaterial
  private readonly evaluator: Evaluator
  private readonly shader: LookShader
  private readonly uniforms: Record<string, IUniform>
  private handed?: WebGLRenderTarget
  private vertexStale = true
  private mapsStale = true
  ready = false

  constructor(
    kernels: Kernels,
    readonly lowered: LoweredLook,
    private readonly tables: MeshTables,
    mesh: Record<string, IUniform>,
  ) {
    const { program, normal, pictures, sets } = lowered
    const lanes = lanesIn(pictures, program, normal)
    const prepared = plan(
      program,
      lanes.filter(ref => ref !== undefined),
    )
    this.evaluator = new Evaluator(kernels, prepared, tables, new Gatherer(kernels, program, tables, 'given'))
    this.shader = lookShader(prepared)
    const { shader } = this
    const opacity = sets.has('opacity') ? laneOf(pictures, 'opacity') : undefined
    const vertices = tables.mesh.positions.length / 3
    const row = this.emptyRow()
    this.uniforms = {
      ...mesh,
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
    shader.pictures.forEach(({ name, linear, hasLevels, exact }, i) => {
      const picture = tables.pictures?.find(p => p.name === name)
      this.uniforms[`ubPicture${i}`] = { value: pictureTexture(picture, hasLevels ? linear : undefined, exact) }
      this.uniforms[`ubCovers${i}`] = { value: new Vector4(...(picture?.covers ?? [0, 0, 1, 1])) }
      this.uniforms[`ubNumbers${i}`] = { value: picture !== undefined && !isSeen(picture) }
    })
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
    this.surfacePass = material(surfaceShaderOf(shader, pictures, lanes, opacity))
    if (!shader.vertexStride) return
    this.vertexPass = material(vertexShaderOf(shader))
    count(Math.ceil(shader.maps.length / 4)).forEach(i => {
      this.uniforms[`ubMapList${i}`] = { value: row }
    })
    const height = Math.ceil((vertices * shader.vertexStride) / LIST_WIDTH)
    this.handed = new WebGLRenderTarget(LIST_WIDTH, height, {
      format: RGBAFormat,
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
      depthBuffer: false,
    })
    this.uniforms.ubHanded!.value = this.handed.texture
  }

  private emptyRow(): DataTexture {
    const texture = new DataTexture(new Float32Array(PART_TABLE_WIDTH * 4), PART_TABLE_WIDTH, 1, RGBAFormat, FloatType)
    texture.needsUpdate = true
    return texture
  }

  /** Takes parameters, and costly values. */
  refresh(lowered: LoweredLook, values: WholeValues): void {
    const { evaluator, uniforms, tables } = this
    evaluator.gatherer.give(values)
    const read = reader(lowered.look)
    evaluator.gatherer.refresh(read)
    const changed = evaluator.refresh(read, 'parts')
    ;(uniforms.ubUniforms!.value as Float32Array).set(evaluator.uniforms)
    if (changed.uniforms || changed.parts || values.length) this.vertexStale = true
    if (values.some(v => typeof v.value !== 'number')) this.mapsStale = true
    if (!changed.parts && this.ready) return
    const { data, height } = packPartTable(evaluator.partColumns, tables.parts.parts.length)
    ;(uniforms.ubParts!.value as DataTexture).dispose()
    const table = new DataTexture(data as Float32Array<ArrayBuffer>, PART_TABLE_WIDTH, height, RGBAFormat, FloatType)
    table.minFilter = table.magFilter = NearestFilter
    table.needsUpdate = true
    uniforms.ubParts!.value = table
  }

  /** Brings what the vertices hand on up to date. */
  private atVertices(renderer: WebGLRenderer, full: FullPass, camera: Camera): void {
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

  evaluate(renderer: WebGLRenderer, full: FullPass, camera: Camera, sample: Sample, slot: Slot): void {
    const { uniforms } = this
    this.atVertices(renderer, full, camera)
    const { target } = sample.channels[slot]!
    uniforms.ubSample!.value = sample.number
    const { perDepth, fixed, eye } = pixelSizeOf(lineOf(sample.camera, sample.width, sample.height), sample.step)
    ;(uniforms.ubPixelSize!.value as Vector2).set(perDepth, fixed)
    ;(uniforms.ubEye!.value as Vector4).set(...eye)
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    // From behind: what is in front covers it, or lets it be seen.
    const layers = this.lowered.sets.has('opacity') ? sample.layers : sample.layers.slice(0, 1)
    for (let i = layers.length - 1; i >= 0; i--) {
      uniforms.ubSeen!.value = layers[i]!.texture
      uniforms.ubLayer!.value = i
      full.draw(renderer, this.surfacePass, target, camera)
    }
  }

  get passes(): { material: ShaderMaterial; target: WebGLRenderTarget | null }[] {
    return [
      ...(this.vertexPass ? [{ material: this.vertexPass, target: this.handed! }] : []),
      { material: this.surfacePass, target: null },
    ]
  }

  dispose(): void {
    this.surfacePass.dispose()
    this.vertexPass?.dispose()
    this.handed?.dispose()
    for (const [name, { value }] of Object.entries(this.uniforms))
      if (name === 'ubParts' || /^ub(Picture|MapList)/.test(name)) (value as DataTexture).dispose()
  }
}

/** Evaluates looks by shaders on the graphics card. */
export class EvaluateOnCard implements Backend {
  readonly name = 'card'
  readonly wholeFloats = false
  compiled = 0
  private tables?: MeshTables
  private readonly full = new FullPass()
  private readonly looks: Partial<Record<LookSlot, CardLook>> = {}
  /** Looks of another shape, compiled before they can be shown. */
  private readonly prepared: Partial<Record<LookSlot, CardLook>> = {}
  private mesh: Record<string, IUniform> = {}
  private what: OfMesh = { kind: 'part' }
  private ofMesh?: OfMeshOnCard

  private readonly surface = new SurfacePass()
  private state = stateTexture(1, new Set(), new Set())
  private hidden: ReadonlySet<number> = new Set()

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly kernels: Kernels,
    private readonly camera: () => Camera,
    private readonly changed: () => void,
  ) {}

  setMesh(tables: MeshTables, box: Box, same: boolean): void {
    this.tables = tables
    for (const slot of LOOK_SLOTS) this.forget(slot)
    this.dropOfMesh()
    if (same) return
    this.surface.setMesh(tables, box)
    this.setHidden(this.hidden)
    this.dropMesh()
    this.mesh = {
      ubTriangles: { value: triangleTexture(tables) },
      ubVertexList: { value: vertexTexture(tables) },
      ubOwners: { value: ownerTexture(tables) },
    }
  }

  setLook(slot: LookSlot, lowered: LoweredLook, values: WholeValues): void {
    const old = this.looks[slot]
    if (old?.lowered.shape === lowered.shape) {
      old.refresh(lowered, values)
      return
    }
    old?.dispose()
    this.prepare(slot, lowered)
    const look = this.prepared[slot]!
    this.prepared[slot] = undefined
    this.looks[slot] = look
    look.refresh(lowered, values)
  }

  // Its programs read the mesh's own maps, so they cannot be made without one.
  expect(): void {}

  prepare(slot: LookSlot, lowered: LoweredLook): void {
    const old = this.prepared[slot]
    if (old?.lowered.shape === lowered.shape) return
    old?.dispose()
    const look = new CardLook(this.kernels, lowered, this.tables!, this.mesh)
    this.prepared[slot] = look
    void this.compile(look)
  }

  private async compile(look: CardLook): Promise<void> {
    for (const { material, target } of look.passes) {
      this.compiled++
      await this.full.ready(this.renderer, material, target, this.camera())
    }
    look.ready = true
    this.changed()
  }

  forget(slot: LookSlot): void {
    this.looks[slot]?.dispose()
    this.prepared[slot]?.dispose()
    this.looks[slot] = this.prepared[slot] = undefined
  }

  setHidden(hidden: ReadonlySet<number>): void {
    this.hidden = hidden
    this.state.dispose()
    this.state = stateTexture(this.tables?.parts.parts.length ?? 1, new Set(), hidden)
    this.surface.state = this.state
  }

  setGround(on: boolean): void {
    this.surface.groundOn = on
  }
  holds(): boolean {
    return true
  }
  cancel(): void {}
  drop(): void {}

  see(sample: Sample, layers: number): void {
    sample.roomForLayers(layers)
    sample.layers.forEach((layer, i) => this.surface.draw(this.renderer, layer, sample.camera, sample.layers[i - 1]))
  }

  async seenIn(sample: Sample, { left, right, bottom, top }: Rectangle): Promise<Uint32Array> {
    const words = new Uint32Array((right - left) * (top - bottom) * SEEN_WORDS)
    await this.renderer.readRenderTargetPixelsAsync(sample.layers[0]!, left, bottom, right - left, top - bottom, words)
    return words
  }

  depths(camera: Camera, target: WebGLRenderTarget): Promise<boolean> {
    this.surface.drawDepths(this.renderer, target, camera)
    return Promise.resolve(true)
  }

  setOfMesh(what: OfMesh): void {
    this.what = what
    this.dropOfMesh()
  }
  private dropOfMesh(): void {
    this.ofMesh?.dispose()
    this.ofMesh = undefined
  }

  async evaluate(slot: Slot, sample: Sample): Promise<Outcome> {
    const { renderer, full } = this
    const from = performance.now()
    if (slot === 'mesh') {
      this.ofMesh ??= new OfMeshOnCard(this.mesh, this.tables!, this.what)
      if (!this.ofMesh.ready(renderer, full, this.camera(), this.changed)) return 'compiling'
      this.ofMesh.evaluate(renderer, full, sample)
    } else {
      const look = this.looks[slot]
      if (!look?.ready) return 'compiling'
      look.evaluate(renderer, full, this.camera(), sample, slot)
    }
    await finished(renderer)
    // What it was worth is not counted by the card: every point of a layer is run once.
    const points = sample.width * sample.height
    return { evaluated: points, visible: points, ms: performance.now() - from }
  }

  private dropMesh(): void {
    for (const { value } of Object.values(this.mesh)) (value as DataTexture).dispose()
  }

  dispose(): void {
    for (const slot of LOOK_SLOTS) this.forget(slot)
    this.dropOfMesh()
    this.dropMesh()
    this.surface.dispose()
    this.state.dispose()
    this.full.dispose()
  }
}

/** Waits until the graphics card has done what it was given. */
export async function finished(renderer: WebGLRenderer): Promise<void> {
  const gl = renderer.getContext() as WebGL2RenderingContext
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
  if (!fence) return
  gl.flush()
  while (!gl.isContextLost()) {
    const state = gl.clientWaitSync(fence, 0, 0)
    if (state !== gl.TIMEOUT_EXPIRED) break
    await new Promise(resolve => setTimeout(resolve, 2))
  }
  gl.deleteSync(fence)
}
