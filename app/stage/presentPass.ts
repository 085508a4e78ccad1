import {
  AlwaysDepth,
  GLSL3,
  Matrix4,
  NoBlending,
  ShaderMaterial,
  Vector2,
  Vector3,
  Vector4,
  type Texture,
  type WebGLRenderer,
  type WebGLRenderTarget,
} from 'three'
import { STATE_DECLARATION } from './partState'
import { FULL_VERTEX, type FullPass } from './passes'
import type { Sample } from './sample'
import type { Slot } from './slots'

const FRAGMENT = `
uniform sampler2D ubPicture;
uniform highp sampler2D ubRelief;
${STATE_DECLARATION}
uniform vec4 ubWindow;
uniform vec2 ubOrigin;
uniform vec3 ubAccent;
uniform mat4 ubProjection;
layout(location = 0) out vec4 color;
#ifdef UB_OUTLINES
bool ubMarked(ivec2 at) {
  int part = int(texelFetch(ubRelief, clamp(at, ivec2(0), textureSize(ubRelief, 0) - 1), 0).a + 0.5) - 1;
  return part >= 0 && texelFetch(ubState, ubPartCell(part), 0).g > 0.5;
}
#endif
void main() {
  vec2 at = gl_FragCoord.xy - ubOrigin;
  vec2 place = (at - ubWindow.xy) / ubWindow.zw;
  color = vec4(texture(ubPicture, place).rgb, 1.0);
  ivec2 pixel = ivec2(place * vec2(textureSize(ubRelief, 0)));
  #ifdef UB_OUTLINES
  bool here = ubMarked(pixel);
  bool edge = false;
  for (int k = 1; k <= 2; k++) edge = edge || ubMarked(pixel + ivec2(k, 0)) != here || ubMarked(pixel - ivec2(k, 0)) != here || ubMarked(pixel + ivec2(0, k)) != here || ubMarked(pixel - ivec2(0, k)) != here;
  if (edge) color.rgb = ubAccent;
  #endif
  gl_FragDepth = 1.0;
  #ifdef UB_DEPTHS
  vec4 relief = texelFetch(ubRelief, pixel, 0);
  vec4 clip = ubProjection * vec4(0.0, 0.0, -relief.g, 1.0);
  if (relief.a != 0.0) gl_FragDepth = clip.z / clip.w * 0.5 + 0.5;
  #endif
}`

/** A picture, the sample that it was made of, and what of it gives depths and parts. */
export interface Shown {
  sample: Sample
  slot: Slot
  picture: WebGLRenderTarget
}

/**
 * Puts a picture that is ready onto the canvas, with outlines around the selected parts. A program for each of what it
 * may be asked for: graphics cards that are made of software run through all that a program has, wanted or not.
 */
export class PresentPass {
  private readonly uniforms = {
    ubPicture: { value: null as Texture | null },
    ubRelief: { value: null as Texture | null },
    ubState: { value: null as Texture | null },
    ubWindow: { value: new Vector4() },
    ubOrigin: { value: new Vector2() },
    ubAccent: { value: new Vector3(0, 0.5, 0.4) },
    ubProjection: { value: new Matrix4() },
  }
  private readonly materials = new Map<string, ShaderMaterial>()

  constructor(private readonly full: FullPass) {}

  set state(texture: Texture) {
    this.uniforms.ubState.value = texture
  }
  set accent(rgb: readonly number[]) {
    this.uniforms.ubAccent.value.fromArray(rgb as number[])
  }

  private materialFor(outlines: boolean, depths: boolean): ShaderMaterial {
    const defines = { ...(outlines && { UB_OUTLINES: true }), ...(depths && { UB_DEPTHS: true }) }
    const key = Object.keys(defines).join()
    const old = this.materials.get(key)
    if (old) return old
    const made = new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: FULL_VERTEX,
      fragmentShader: FRAGMENT,
      depthFunc: AlwaysDepth,
      blending: NoBlending,
      defines,
      uniforms: this.uniforms,
    })
    this.materials.set(key, made)
    return made
  }

  /**
   * Onto the canvas, or what stands for it.
   * @param outlines whether selected parts are outlined
   * @param depths whether lines will be drawn over it that the surface hides
   */
  draw(
    renderer: WebGLRenderer,
    { sample, slot, picture }: Shown,
    origin: Vector2,
    outlines: boolean,
    depths: boolean,
  ): void {
    const { uniforms } = this
    const { camera } = sample
    uniforms.ubPicture.value = picture.texture
    const { target, pictures } = sample.channels[slot]!
    uniforms.ubRelief.value = target.textures[pictures.indexOf('relief')]!
    uniforms.ubWindow.value.set(sample.margin, sample.margin, sample.width * sample.step, sample.height * sample.step)
    uniforms.ubOrigin.value.copy(origin)
    uniforms.ubProjection.value.copy(camera.projectionMatrix)
    const canvas = renderer.getRenderTarget()
    this.full.draw(renderer, this.materialFor(outlines, depths), canvas, camera)
    renderer.setRenderTarget(canvas)
  }

  dispose(): void {
    for (const material of this.materials.values()) material.dispose()
  }
}
