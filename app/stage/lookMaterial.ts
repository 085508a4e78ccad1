import { DataTexture, FloatType, MeshStandardMaterial, NearestFilter, RGBAFormat, type IUniform } from 'three'
import type { Picture } from '#core/evaluate/pictures'
import { PART_TABLE_WIDTH, type LookShader } from '#core/shader/glsl'
import { CHANNEL_NAMES, CHANNELS, type Channel } from '#core/graph/types'
import type { Probed } from '#core/program/probe'
import { rampTexture } from './inspectMaterial'
import { HIDE_VERTEX, STATE_DECLARATION } from './partState'

/** What the stage shows: the finished surface, or one channel as it is, without light. */
export const VIEWS = ['finished', ...CHANNEL_NAMES] as const
export type View = typeof VIEWS[number]

/** Each channel as the stage shows it alone. Height is gray at 0; 1 mm up is three quarters, so any range can be told. */
const SHOWN: Record<Channel, string> = {
  baseColor: 'ubBaseColor', metalness: 'vec3(ubMetalness)', roughness: 'vec3(ubRoughness)', height: 'vec3(0.5 + 0.5 * ubHeight / (1.0 + abs(ubHeight)))', emission: 'ubEmission',
  opacity: 'vec3(ubOpacity)', translucency: 'ubTranslucency.x * ubTranslucency.yzw',
}
/** Views of a port instead of the result: see `probe`. */
const PROBES = { value: VIEWS.length, color: VIEWS.length + 1 } as const
/** How the number at a port is shown: from black to white between two values, or in false colors. */
export interface ProbeLook { span: [number, number], falseColors: boolean }

/** Views that are light and so are encoded for display. */
const COLORED: readonly View[] = ['baseColor', 'emission', 'translucency']

/**
 * Tilts the normal by the height's slope along the surface, found from neighboring pixels: Mikkelsen, "Bump Mapping
 * Unparametrized Surfaces on the GPU" (2010). Height is in millimeters, the view's positions in meters.
 */
const TILT = `
{
  vec3 ubX = dFdx(-vViewPosition), ubY = dFdy(-vViewPosition);
  vec3 ubR1 = cross(ubY, normal), ubR2 = cross(normal, ubX);
  float ubDet = dot(ubX, ubR1) * faceDirection;
  vec3 ubSlope = sign(ubDet) * (dFdx(ubHeight) * ubR1 + dFdy(ubHeight) * ubR2) * 0.001;
  normal = normalize(abs(ubDet) * normal - ubSlope);
}`
/** Diffuse light from behind, as KHR_materials_diffuse_transmission mixes it in. */
const THROUGH = `
{
  float ubShare = ubTranslucency.x * (1.0 - ubMetalness);
  reflectedLight.directDiffuse *= 1.0 - ubShare;
  reflectedLight.indirectDiffuse = mix(reflectedLight.indirectDiffuse, getIBLIrradiance(-normal) * RECIPROCAL_PI * ubTranslucency.yzw, ubShare);
}`

/**
 * A physically based material whose base color, metalness and roughness come from a look's surface shader. Changing a
 * parameter writes uniforms; only another shader compiles.
 */
export class LookMaterial extends MeshStandardMaterial {
  readonly look: Record<'ubUniforms' | 'ubParts' | 'ubView' | 'ubState' | 'ubSpan' | 'ubFalse' | 'ubRamp', IUniform> & Record<string, IUniform> = {
    ubState: { value: null }, ubUniforms: { value: new Float32Array(4) }, ubParts: { value: partTexture(new Float32Array(PART_TABLE_WIDTH * 4), 1) }, ubView: { value: 0 }, ubSpan: { value: [0, 1] }, ubFalse: { value: false }, ubRamp: { value: rampTexture() },
  }

  private shader?: LookShader
  private sets: ReadonlySet<Channel> = new Set()
  /** How often a program was handed to the graphics driver; tests and the bench read it. */
  compiled = 0

  constructor() {
    super({ color: 0xffffff, roughness: 1, metalness: 1 })
    this.onBeforeCompile = (shader) => {
      this.compiled++
      Object.assign(shader.uniforms, this.look)
      const s = this.shader
      if (!s) return
      const count = (n: number) => Array.from({ length: n }, (_, i) => i)
      const shared = `uniform highp sampler2D ubParts;
${count(s.pictures.length).map(i => `uniform highp sampler2D ubPicture${i};`).join('\n')}
${s.uniformCount ? `uniform highp vec4 ubUniforms[${s.uniformCount}];` : ''}
${count(s.vertexStride).map(i => `varying vec4 ubVertex${i};`).join('\n')}
varying vec3 ubPosition;
varying vec3 ubFacing;
varying vec2 ubUv;`
      shader.vertexShader = shader.vertexShader
        .replace('#include <common>', `#include <common>
attribute float ubPartIn;
attribute vec2 ubUvIn;
flat varying int ubPartOut;
${shared}
${count(Math.ceil(s.maps.length / 4)).map(i => `attribute vec4 ubMap${i};`).join('\n')}
${STATE_DECLARATION}
${s.functions}`)
        .replace('#include <project_vertex>', `#include <project_vertex>
${HIDE_VERTEX}`)
        .replace('#include <begin_vertex>', `#include <begin_vertex>
int ubPart = int(ubPartIn + 0.5);
ubPartOut = ubPart;
ubPosition = position;
ubFacing = normal;
ubUv = ubUvIn;
${s.vertexBody}`)
      const channels = CHANNEL_NAMES.flatMap(name => Array.from({ length: CHANNELS[name].size }, () => name))
      const refs = (name: typeof CHANNEL_NAMES[number]) => s.roots.filter((_, i) => channels[i] === name)
      shader.fragmentShader = shader.fragmentShader
        .replace('#include <common>', `#include <common>
flat varying int ubPartOut;
${shared}
uniform int ubView;
uniform vec2 ubSpan;
uniform bool ubFalse;
uniform sampler2D ubRamp;
${s.functions}`)
        .replace('#include <color_fragment>', `#include <color_fragment>
int ubPart = ubPartOut;
${s.surfaceBody}
vec3 ubBaseColor = vec3(${refs('baseColor').join(', ')});
float ubMetalness = ${refs('metalness')[0]};
float ubRoughness = ${refs('roughness')[0]};
float ubHeight = ${refs('height')[0]};
vec3 ubEmission = vec3(${refs('emission').join(', ')});
float ubOpacity = ${refs('opacity')[0]};
vec4 ubTranslucency = vec4(${refs('translucency').join(', ')});
diffuseColor = vec4(ubBaseColor, ubView == 0 ? ubOpacity : 1.0);`)
        .replace('#include <normal_fragment_maps>', `#include <normal_fragment_maps>${this.sets.has('height') ? TILT : ''}`)
        .replace('#include <emissivemap_fragment>', 'totalEmissiveRadiance = ubEmission;')
        .replace('#include <lights_fragment_end>', `#include <lights_fragment_end>${this.sets.has('translucency') ? THROUGH : ''}`)
        .replace('#include <roughnessmap_fragment>', 'float roughnessFactor = ubRoughness;')
        .replace('#include <metalnessmap_fragment>', 'float metalnessFactor = ubMetalness;')
        .replace('#include <tonemapping_fragment>', `if (ubView == 0) {
#include <tonemapping_fragment>
} else if (ubView == ${PROBES.value}) {
float ubShare = clamp((ubHeight - ubSpan.x) / max(ubSpan.y - ubSpan.x, 1e-20), 0.0, 1.0);
gl_FragColor.rgb = ubFalse ? texture2D(ubRamp, vec2((ubShare * 255.0 + 0.5) / 256.0, 0.5)).rgb : vec3(ubShare);
} else if (ubView == ${PROBES.color}) {
gl_FragColor.rgb = ubEmission;
} else {
gl_FragColor.rgb = ${CHANNEL_NAMES.slice(1).reduceRight((rest, name, i) => `ubView == ${i + 2} ? ${SHOWN[name]} : ${rest}`, SHOWN.baseColor)};
}`)
        .replace('#include <colorspace_fragment>', `if (ubView == 0 || ubView == ${PROBES.color}${VIEWS.flatMap((v, i) => COLORED.includes(v) ? ` || ubView == ${i}` : []).join('')}) {
#include <colorspace_fragment>
}`)
    }
  }

  /** What is shown: a view of the result, or what runs through a port. */
  setView(view: View, probed?: Probed, { span, falseColors }: ProbeLook = { span: [0, 1], falseColors: false }): void {
    this.look.ubView.value = probed === 'value' || probed === 'color' ? PROBES[probed] : VIEWS.indexOf(view)
    this.look.ubSpan.value = span
    this.look.ubFalse.value = falseColors
  }

  /** Takes another shader; compiles unless its text is the one in use. */
  setShader(shader: LookShader, sets: ReadonlySet<Channel>): void {
    const key = JSON.stringify([shader, [...sets]])
    if (this.shader && this.customProgramCacheKey() === key) return
    this.shader = shader
    this.sets = sets
    // Hashed, what is half there needs no sorting of triangles.
    this.alphaHash = sets.has('opacity')
    this.customProgramCacheKey = () => key
    this.look.ubUniforms.value = new Float32Array(Math.max(1, shader.uniformCount) * 4)
    this.needsUpdate = true
  }

  /** The pictures that the shader names; one that is missing is black and opaque. */
  setPictures(pictures: readonly Picture[]): void {
    this.shader?.pictures.forEach((name, i) => {
      const picture = pictures.find(p => p.name === name), old = this.look[`ubPicture${i}`]?.value as DataTexture | undefined
      if (old && old.userData.of === (picture ?? null)) return
      old?.dispose()
      const texture = picture ? new DataTexture(picture.data as Uint8Array<ArrayBuffer>, picture.width, picture.height, RGBAFormat) : new DataTexture(Uint8Array.of(0, 0, 0, 255), 1, 1, RGBAFormat)
      texture.minFilter = texture.magFilter = NearestFilter
      texture.userData.of = picture ?? null
      texture.needsUpdate = true
      // Compiled programs hold on to the object, so its value changes.
      const slot = this.look[`ubPicture${i}`] ??= { value: null }
      slot.value = texture
    })
  }

  setUniforms(values: Float32Array): void {
    (this.look.ubUniforms.value as Float32Array).set(values)
  }

  setPartTable(data: Float32Array, height: number): void {
    const old = this.look.ubParts.value as DataTexture
    if (old.image.height === height) {
      (old.image.data as unknown as Float32Array).set(data)
      old.needsUpdate = true
      return
    }
    old.dispose()
    this.look.ubParts.value = partTexture(data, height)
  }

  override dispose(): void {
    for (const [name, { value }] of Object.entries(this.look)) if (name === 'ubParts' || name.startsWith('ubPicture')) (value as DataTexture).dispose()
    super.dispose()
  }
}

function partTexture(data: Float32Array, height: number): DataTexture {
  const texture = new DataTexture(data as Float32Array<ArrayBuffer>, PART_TABLE_WIDTH, height, RGBAFormat, FloatType)
  texture.minFilter = texture.magFilter = NearestFilter
  texture.needsUpdate = true
  return texture
}
