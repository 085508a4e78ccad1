import { DataTexture, FloatType, MeshStandardMaterial, NearestFilter, RGBAFormat, type IUniform } from 'three'
import { PART_TABLE_WIDTH, type SurfaceShader } from '#core/shader/glsl'
import { CHANNEL_NAMES, CHANNELS } from '#core/graph/types'

/** What the stage shows: the finished surface, or one channel as it is, without light. */
export const VIEWS = ['finished', ...CHANNEL_NAMES] as const
export type View = typeof VIEWS[number]

/**
 * A physically based material whose base color, metalness and roughness come from a look's surface shader. Changing a
 * parameter writes uniforms; only another shader compiles.
 */
export class LookMaterial extends MeshStandardMaterial {
  readonly look: Record<'ubUniforms' | 'ubParts' | 'ubView', IUniform> = {
    ubUniforms: { value: new Float32Array(4) }, ubParts: { value: partTexture(new Float32Array(PART_TABLE_WIDTH * 4), 1) }, ubView: { value: 0 },
  }

  private shader?: SurfaceShader
  /** How often a program was handed to the graphics driver; tests and the bench read it. */
  compiled = 0

  constructor() {
    super({ color: 0xffffff, roughness: 1, metalness: 1 })
    this.onBeforeCompile = (shader) => {
      this.compiled++
      Object.assign(shader.uniforms, this.look)
      const s = this.shader
      if (!s) return
      const strides = Array.from({ length: s.vertexStride }, (_, i) => i)
      shader.vertexShader = shader.vertexShader
        .replace('#include <common>', `#include <common>
attribute float ubPartIn;
flat varying int ubPart;
varying vec3 ubPosition;
varying vec2 ubUv;

attribute vec2 ubUvIn;

${strides.map(i => `attribute vec4 ubVertexIn${i};\nvarying vec4 ubVertex${i};`).join('\n')}`)
        .replace('#include <begin_vertex>', `#include <begin_vertex>
ubPart = int(ubPartIn + 0.5);
ubPosition = position;
ubUv = ubUvIn;
${strides.map(i => `ubVertex${i} = ubVertexIn${i};`).join('\n')}`)
      const channels = CHANNEL_NAMES.flatMap(name => Array.from({ length: CHANNELS[name].size }, () => name))
      const refs = (name: typeof CHANNEL_NAMES[number]) => s.roots.filter((_, i) => channels[i] === name)
      shader.fragmentShader = shader.fragmentShader
        .replace('#include <common>', `#include <common>
flat varying int ubPart;
varying vec3 ubPosition;
varying vec2 ubUv;
uniform int ubView;
uniform sampler2D ubParts;
${s.uniformCount ? `uniform vec4 ubUniforms[${s.uniformCount}];` : ''}
${strides.map(i => `varying vec4 ubVertex${i};`).join('\n')}
${s.library}`)
        .replace('#include <color_fragment>', `#include <color_fragment>
${s.body}
vec3 ubBaseColor = vec3(${refs('baseColor').join(', ')});
float ubMetalness = ${refs('metalness')[0]};
float ubRoughness = ${refs('roughness')[0]};
diffuseColor.rgb = ubBaseColor;`)
        .replace('#include <roughnessmap_fragment>', 'float roughnessFactor = ubRoughness;')
        .replace('#include <metalnessmap_fragment>', 'float metalnessFactor = ubMetalness;')
        .replace('#include <tonemapping_fragment>', `if (ubView == 0) {
#include <tonemapping_fragment>
} else {
gl_FragColor.rgb = ubView == 1 ? ubBaseColor : vec3(ubView == 2 ? ubMetalness : ubRoughness);
}`)
        .replace('#include <colorspace_fragment>', `if (ubView < 2) {
#include <colorspace_fragment>
}`)
    }
  }

  /** Takes another shader; compiles unless its text is the one in use. */
  setShader(shader: SurfaceShader): void {
    if (this.shader && JSON.stringify(this.shader) === JSON.stringify(shader)) return
    this.shader = shader
    const key = JSON.stringify(shader)
    this.customProgramCacheKey = () => key
    this.look.ubUniforms.value = new Float32Array(Math.max(1, shader.uniformCount) * 4)
    this.needsUpdate = true
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
    (this.look.ubParts.value as DataTexture).dispose()
    super.dispose()
  }
}

function partTexture(data: Float32Array, height: number): DataTexture {
  const texture = new DataTexture(data as Float32Array<ArrayBuffer>, PART_TABLE_WIDTH, height, RGBAFormat, FloatType)
  texture.minFilter = texture.magFilter = NearestFilter
  texture.needsUpdate = true
  return texture
}
