import { strToU8, zipSync } from 'fflate'
import { BufferTarget, CanvasSource, canEncodeVideo, Output, QUALITY_HIGH, WebMOutputFormat } from 'mediabunny'

/** Frames of a film in a second. */
export const RATE = 24
const CODECS = ['vp9', 'vp8', 'av1'] as const

/** Encoders take frames with an even number of pixels in each direction. */
const even = (n: number): number => Math.max(2, 2 * Math.floor(n / 2))

/** A codec of WebM that this browser can encode in; none where it cannot. */
async function codecFor(width: number, height: number): Promise<(typeof CODECS)[number] | undefined> {
  for (const codec of CODECS) if (await canEncodeVideo(codec, { width, height })) return codec
  return undefined
}

/**
 * Pictures one after the other as a film (WebM). An odd last row or column is left out.
 * @throws Error with a sentence where the browser cannot encode one
 */
export async function filmOf(frames: readonly ImageData[]): Promise<Blob> {
  const [width, height] = [even(frames[0]!.width), even(frames[0]!.height)]
  const codec = 'VideoEncoder' in globalThis ? await codecFor(width, height) : undefined
  if (!codec) throw new Error('This browser cannot encode films; save the turntable as pictures.')
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')!
  const target = new BufferTarget()
  const output = new Output({ format: new WebMOutputFormat(), target })
  const source = new CanvasSource(canvas, { codec, bitrate: QUALITY_HIGH })
  output.addVideoTrack(source, { frameRate: RATE })
  await output.start()
  for (const [i, frame] of frames.entries()) {
    context.putImageData(frame, 0, 0)
    await source.add(i / RATE, 1 / RATE)
  }
  await output.finalize()
  return new Blob([target.buffer!], { type: 'video/webm' })
}

export async function pngOf(picture: ImageData): Promise<Uint8Array> {
  const canvas = new OffscreenCanvas(picture.width, picture.height)
  canvas.getContext('2d')!.putImageData(picture, 0, 0)
  return new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
}

/** Pictures by their file names, in one ZIP; PNG is compressed already. */
export async function zipOf(pictures: ReadonlyMap<string, ImageData>): Promise<Blob> {
  const files: Record<string, Uint8Array> = {}
  for (const [name, picture] of pictures) files[name] = await pngOf(picture)
  if (!pictures.size) files['empty.txt'] = strToU8('No picture was ready.\n')
  return new Blob([zipSync(files, { level: 0 })], { type: 'application/zip' })
}
