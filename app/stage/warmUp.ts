import { Vector2 } from 'three'
import type { ChannelPicture } from '#core/evaluate/visible'
import { pictureTarget, type Lighting } from './lightPass'
import { Sample } from './sample'
import type { Passes } from './standing'

const ORIGIN = new Vector2()
/** Pixels along the sides of what is drawn for nobody to see. */
const SIZE = 8

/**
 * Has the shaders made ready that light a look and put it onto the canvas, while its values are still being found out:
 * compiled in the background, and drawn with once, for a graphics card finishes them only then.
 * @param pictures the pictures of channels that the look has
 */
export async function warmUp(
  passes: Passes,
  lighting: Lighting,
  pictures: readonly ChannelPicture[],
  camera: Sample['camera'],
): Promise<void> {
  const { renderer, light, contact, full, present, shadow, typical, box, reach } = passes
  const sample = new Sample('warm', 1, 0, { width: SIZE, height: SIZE })
  const target = pictureTarget(SIZE, SIZE)
  try {
    sample.place(camera)
    sample.roomFor(renderer, 'now', pictures, passes.backend.wholeFloats)
    const lit = { sample, slot: 'now', shadow, typical, box } as const
    await light.ready(renderer, lit, lighting, target)
    contact.draw(renderer, full, sample, reach)
    light.draw(renderer, lit, lighting, target, 1)
    // A pixel in the corner of the canvas, which is drawn anew after this.
    renderer.setScissor(0, 0, 1, 1)
    renderer.setScissorTest(true)
    present.draw(renderer, { sample, slot: 'now', picture: target }, ORIGIN, false, false)
    renderer.setScissorTest(false)
  } finally {
    sample.dispose()
    target.dispose()
  }
}
