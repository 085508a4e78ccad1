import { SWATCH_HEIGHT, SWATCH_WIDTH } from '#core/evaluate/analysis'

/** Puts a swatch onto a canvas, with as many pixels as it has. */
export function paintSwatch(context: CanvasRenderingContext2D, pixels: Uint8ClampedArray | undefined): void {
  const { canvas } = context
  if (!pixels) {
    context.clearRect(0, 0, canvas.width, canvas.height)
    return
  }
  const ratio = Math.sqrt(pixels.length / 4 / (SWATCH_WIDTH * SWATCH_HEIGHT))
  if (canvas.width !== SWATCH_WIDTH * ratio) {
    canvas.width = SWATCH_WIDTH * ratio
    canvas.height = SWATCH_HEIGHT * ratio
  }
  context.putImageData(new ImageData(pixels as Uint8ClampedArray<ArrayBuffer>, canvas.width, canvas.height), 0, 0)
}
