import type { Sightline } from '#core/evaluate/rasterize'
import type { Camera } from './sample'

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
