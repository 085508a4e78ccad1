import { Color, GLSL3, ShaderMaterial, type Texture, type WebGLRenderer, type WebGLRenderTarget } from 'three'
import { MESH_COLORS, type MeshColors } from './meshColors'
import { WEIGHED } from './lightPass'
import { FULL_VERTEX, type FullPass } from './passes'
import type { Sample } from './sample'

const FRAGMENT = `
uniform highp sampler2D ubTold;
uniform vec3 ubBackground;
uniform float ubStep;
uniform float ubWeight;
layout(location = 0) out vec4 color;
${MESH_COLORS}
void main() {
  vec4 told = texelFetch(ubTold, ivec2(gl_FragCoord.xy), 0);
  color = vec4(ubBackground, ubWeight);
  if (told.a < 0.5) return;
  color.rgb = ubShownAs(int(told.a + 0.5) - 1, told.r, told.rb, gl_FragCoord.xy * ubStep, told.b);
}`

/** In place of light: the mesh itself in colors of its parts, or in those of numbers. */
export class InspectPass {
  private readonly material: ShaderMaterial

  constructor(
    private readonly full: FullPass,
    colors: MeshColors,
  ) {
    this.material = new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: FULL_VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: {
        ...colors.uniforms,
        ubTold: { value: null as Texture | null },
        ubBackground: { value: new Color() },
        ubStep: { value: 1 },
        ubWeight: { value: 1 },
      },
      ...WEIGHED,
    })
  }

  /**
   * @param background encoded for display
   * @param weight how much it counts beside what the target holds
   */
  draw(renderer: WebGLRenderer, sample: Sample, background: Color, target: WebGLRenderTarget, weight: number): void {
    const { uniforms } = this.material
    uniforms.ubTold!.value = sample.channels.mesh?.target.texture ?? null
    ;(uniforms.ubBackground!.value as Color).copy(background)
    uniforms.ubStep!.value = sample.step
    uniforms.ubWeight!.value = weight
    if (weight === 1) {
      renderer.setRenderTarget(target)
      renderer.setClearColor(background, 1)
      renderer.clear()
    }
    this.full.draw(renderer, this.material, target, sample.camera, sample.tiles?.surface)
  }

  dispose(): void {
    this.material.dispose()
  }
}
