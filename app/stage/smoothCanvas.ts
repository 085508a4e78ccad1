import {
  GLSL3,
  NoBlending,
  ShaderMaterial,
  SRGBColorSpace,
  Vector2,
  WebGLRenderTarget,
  type Camera,
  type WebGLRenderer,
} from 'three'
import { FULL_VERTEX, type FullPass } from './passes'

/** Samples of a pixel where edges are smooth. */
const SAMPLES = 4

const FRAGMENT = `
uniform sampler2D ubDrawn;
layout(location = 0) out vec4 color;
void main() {
  color = texelFetch(ubDrawn, ivec2(gl_FragCoord.xy), 0);
}`

/** A rectangle in pixels of the page, from the lower left corner. */
export interface Place {
  x: number
  y: number
  width: number
  height: number
}

/** From now on draws into a rectangle of what is drawn to: the canvas, or what stands for it. */
export function drawInto(renderer: WebGLRenderer, { x, y, width, height }: Place): void {
  const target = renderer.getRenderTarget()
  if (!target) {
    renderer.setViewport(x, y, width, height)
    return
  }
  target.viewport.set(x, y, width, height).multiplyScalar(renderer.getPixelRatio()).round()
  renderer.setRenderTarget(target)
}

/**
 * Draws onto all pixels of the canvas from now on. Its size in the page need not be a whole number of pixels, and a
 * rectangle that is rounded from it is up to a pixel wider than the canvas.
 */
export function drawIntoAll(renderer: WebGLRenderer): void {
  const { width, height } = renderer.domElement
  const ratio = renderer.getPixelRatio()
  drawInto(renderer, { x: 0, y: 0, width: width / ratio, height: height / ratio })
}

/**
 * Smooth edges of what is drawn onto a canvas that has none of its own: with them, a graphics card that is made of
 * software takes three times as long for every picture, also for those that are smooth as they are.
 */
export class SmoothCanvas {
  private target?: WebGLRenderTarget
  private readonly uniforms = { ubDrawn: { value: null as unknown } }
  private readonly material = new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: FULL_VERTEX,
    fragmentShader: FRAGMENT,
    depthTest: false,
    depthWrite: false,
    blending: NoBlending,
    uniforms: this.uniforms,
  })

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly full: FullPass,
  ) {}

  /** Draws something with smooth edges onto the canvas. @param camera any: what is drawn is copied */
  draw(camera: Camera, work: () => void): void {
    const { renderer } = this
    const target = this.sized(renderer.getDrawingBufferSize(new Vector2()))
    renderer.setRenderTarget(target)
    work()
    renderer.setRenderTarget(null)
    drawIntoAll(renderer)
    this.uniforms.ubDrawn.value = target.texture
    this.full.draw(renderer, this.material, null, camera)
  }

  private sized({ x, y }: Vector2): WebGLRenderTarget {
    const old = this.target
    if (old?.width === x && old.height === y) return old
    old?.dispose()
    const made = new WebGLRenderTarget(x, y, { samples: SAMPLES, colorSpace: SRGBColorSpace, generateMipmaps: false })
    // Colors are written into such a target as they are onto the canvas: encoded, with their tones mapped.
    Object.assign(made, { isXRRenderTarget: true })
    made.texture.internalFormat = 'RGBA8'
    return (this.target = made)
  }

  dispose(): void {
    this.target?.dispose()
    this.material.dispose()
  }
}
