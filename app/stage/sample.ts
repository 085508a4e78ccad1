import {
  FloatType,
  HalfFloatType,
  type WebGLRenderTarget,
  type BufferGeometry,
  type OrthographicCamera,
  type PerspectiveCamera,
  type WebGLRenderer,
} from 'three'
import { shiftOf } from '#core/evaluate/shifts'
import type { ChannelPicture } from '#core/evaluate/visible'
import { AROUND } from '#core/light/contact'
import type { Box } from '#core/mesh/mesh'
import { contactAround, groundArea, toClipOf } from './groundArea'
import { numbersTarget } from './passes'
import type { Slot } from './slots'
import { surfaceTarget } from './surfacePass'
import type { Tiles } from './tiles'

export type Camera = PerspectiveCamera | OrthographicCamera

/** The channels of a look at every pixel of a sample. */
export interface Channels {
  target: WebGLRenderTarget
  pictures: readonly ChannelPicture[]
  version: number
}

/**
 * One picture's worth of points: a view of the surface with some size and shift of its pixels, and what looks are
 * there.
 */
export class Sample {
  /**
   * What is seen, where the graphics card finds it; where it lets light through, behind it what is seen next, and so
   * on.
   */
  readonly layers: WebGLRenderTarget[] = []
  /** Triangles over what has to be lit, where that is known: the surface, and what is near it. */
  tiles?: { surface: BufferGeometry; near: BufferGeometry }
  readonly channels: Partial<Record<Slot, Channels>> = {}
  /** How much of the sky is hidden at each pixel by what is near. */
  contact?: WebGLRenderTarget
  private own?: Camera

  /**
   * @param step pixels of the whole picture, in both directions, for each of this one
   * @param number 0 looks through the middle of pixels, others are shifted by less than a pixel
   * @param full size of the whole picture
   * @param exact whether corners are where they are, as in pictures of the command; else where a card would put them
   */
  constructor(
    readonly key: string,
    readonly step: number,
    readonly number: number,
    readonly full: { width: number; height: number },
    readonly exact = false,
  ) {}

  get width(): number {
    return Math.ceil(this.full.width / this.step)
  }
  get height(): number {
    return Math.ceil(this.full.height / this.step)
  }
  /**
   * Where the first pixel of this picture begins in the whole one, in its pixels: a coarse pixel's middle is that of
   * one of its own.
   */
  get margin(): number {
    return -(this.step - 1) / 2
  }

  /** Takes the place of a camera. */
  place(camera: Camera): void {
    const {
      full: { width, height },
      step,
      margin,
    } = this
    const [dx, dy] = shiftOf(this.number)
    this.own = camera.clone() as Camera
    this.dropTiles()
    this.own.setViewOffset(
      width,
      height,
      margin + dx,
      height - (margin - dy + this.height * step),
      this.width * step,
      this.height * step,
    )
    this.own.updateMatrixWorld()
    this.own.matrixWorldInverse.copy(this.own.matrixWorld).invert()
  }

  /** Room on the graphics card for what is seen, in some layers. */
  roomForLayers(layers: number): void {
    while (this.layers.length < layers) this.layers.push(surfaceTarget(this.width, this.height))
    for (const spare of this.layers.splice(layers)) spare.dispose()
  }

  /** @param box of the mesh */
  setTiles(tiles: Tiles, box: Box): void {
    const touched = groundArea(toClipOf(this.camera), box, contactAround(box))
    this.tiles = { surface: tiles.surface(), near: tiles.near(Math.ceil(AROUND / this.step), touched) }
  }

  private dropTiles(): void {
    for (const geometry of Object.values(this.tiles ?? {})) geometry.dispose()
    this.tiles = undefined
  }

  /** The camera that saw it, through the middles of this sample's pixels. */
  get camera(): Camera {
    return this.own!
  }

  /** Room for the channels of a look; what was there stays where it fits. */
  roomFor(renderer: WebGLRenderer, slot: Slot, pictures: readonly ChannelPicture[], whole: boolean): Channels {
    const old = this.channels[slot]
    if (old && old.pictures.length === pictures.length) return old
    old?.target.dispose()
    const target = numbersTarget(this.width, this.height, pictures.length)
    // Heights are small differences of large numbers, so they keep all their digits.
    if (!whole)
      pictures.forEach((name, i) => {
        target.textures[i]!.type = name === 'relief' ? FloatType : HalfFloatType
      })
    renderer.initRenderTarget(target)
    return (this.channels[slot] = { target, pictures, version: -1 })
  }

  /** Bytes on the graphics card. */
  get bytes(): number {
    const pictures = Object.values(this.channels).reduce((n, c) => n + c.pictures.length, 0)
    return this.width * this.height * (this.layers.length * 20 + pictures * 16)
  }

  dispose(): void {
    for (const layer of this.layers) layer.dispose()
    this.dropTiles()
    for (const { target } of Object.values(this.channels)) target.dispose()
    this.contact?.dispose()
  }
}
