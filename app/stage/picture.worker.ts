import * as Comlink from 'comlink'
import * as z from 'zod'
import { opaque } from './readPicture'

const side = z.number().int().min(1).max(16_384)
const askedSchema = z
  .object({
    halves: z.instanceof(Uint16Array),
    width: side,
    height: side,
    inside: z.object({ width: side, height: side, background: z.string() }),
  })
  .refine(p => p.halves.length === p.width * p.height * 4, 'There are four numbers to a pixel.')

const pictureApi = {
  /** A picture of half floats as PNG of so many pixels: all of it, on a background where the shapes differ. */
  async png(asked: unknown): Promise<Blob | null> {
    const { halves, width, height, inside } = askedSchema.parse(asked)
    const whole = new OffscreenCanvas(width, height)
    whole.getContext('2d')?.putImageData(opaque(halves, width, height), 0, 0)
    const small = new OffscreenCanvas(inside.width, inside.height)
    const context = small.getContext('2d')
    if (!context) return null
    context.fillStyle = inside.background
    context.fillRect(0, 0, inside.width, inside.height)
    context.imageSmoothingQuality = 'high'
    const scale = Math.min(inside.width / width, inside.height / height)
    const [wide, high] = [width * scale, height * scale]
    context.drawImage(whole, (inside.width - wide) / 2, (inside.height - high) / 2, wide, high)
    return small.convertToBlob({ type: 'image/png' })
  },
}
export type PictureApi = typeof pictureApi

Comlink.expose(pictureApi)
