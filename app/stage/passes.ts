import {
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  FloatType,
  Mesh,
  NearestFilter,
  RGBAFormat,
  RGBAIntegerFormat,
  Scene,
  UnsignedIntType,
  WebGLRenderTarget,
  type Camera,
  type Material,
  type WebGLRenderer,
} from 'three'

/** Draws a material over a whole target: one triangle that covers it. */
export class FullPass {
  private readonly geometry = new BufferGeometry().setAttribute(
    'position',
    new BufferAttribute(Float32Array.of(-1, -1, 0, 3, -1, 0, -1, 3, 0), 3),
  )
  private readonly mesh = new Mesh(this.geometry)
  readonly scene = new Scene()

  constructor() {
    // Materials that shade take it for a surface.
    this.geometry.setAttribute('normal', new BufferAttribute(Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1), 3))
    this.mesh.frustumCulled = false
    this.scene.add(this.mesh)
  }

  /** @param over triangles over the part of the target that matters; all of it where they are left out */
  draw(
    renderer: WebGLRenderer,
    material: Material,
    target: WebGLRenderTarget | null,
    camera: Camera,
    over: BufferGeometry = this.geometry,
  ): void {
    if (!over.getAttribute('position').count) return
    this.mesh.material = material
    this.mesh.geometry = over
    renderer.setRenderTarget(target)
    renderer.render(this.scene, camera)
    renderer.setRenderTarget(null)
    this.mesh.geometry = this.geometry
  }

  /** Compiles a material as it will be drawn, in the background. */
  async ready(
    renderer: WebGLRenderer,
    material: Material,
    target: WebGLRenderTarget | null,
    camera: Camera,
  ): Promise<void> {
    this.mesh.material = material
    renderer.setRenderTarget(target)
    const done = renderer.compileAsync(this.scene, camera)
    renderer.setRenderTarget(null)
    await done
  }

  dispose(): void {
    this.geometry.dispose()
  }
}

/** A target for pictures of four whole floats, read number by number. */
export const numbersTarget = (width: number, height: number, count = 1): WebGLRenderTarget =>
  new WebGLRenderTarget(width, height, {
    count,
    format: RGBAFormat,
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
    generateMipmaps: false,
  })

/** The vertex shader of passes over a whole target. */
export const FULL_VERTEX = 'void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }'

/** For samplers of whole numbers that are not read at present: WebGL wants a texture of the right kind in any case. */
export const noWords = new DataTexture(new Uint32Array(4), 1, 1, RGBAIntegerFormat, UnsignedIntType)
noWords.internalFormat = 'RGBA32UI'
noWords.needsUpdate = true

/**
 * Puts something else in the place of a piece of a shader.
 * @throws Error where there is no such piece, so that another version of it is noticed
 */
export function exchanged(text: string, piece: RegExp, by: string): string {
  if (!piece.test(text)) throw new Error(`The shader has no ${piece.source}.`)
  return text.replace(piece, by)
}
