import type { Sightline } from '#core/evaluate/rasterize'
import type { Camera, Sample } from './sample'

/** From where a camera sees, and through which pixels. @param snap steps of a pixel into which corners are put */
export function lineOf(camera: Camera, width: number, height: number, snap?: number): Sightline {
  const clip = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
  return {
    clip: clip.elements,
    world: clip.clone().invert().elements,
    view: camera.matrixWorldInverse.elements,
    near: camera.near,
    width,
    height,
    ...(snap && { snap }),
  }
}

/**
 * What a sample sees. A coarse picture has corners where the whole one has them, whose pixels it will be among.
 * @param snap steps of a pixel of the whole picture into which corners are put, unless the sample is exact
 */
export const sightOf = ({ camera, width, height, step, exact }: Sample, snap: number): Sightline =>
  lineOf(camera, width, height, exact ? undefined : snap * step)
