import type { Backend } from './backend'
import type { Pane } from './pane'

/**
 * What is seen in a rectangle of the canvas.
 * @param panes the views, side by side
 * @param corners left, top, right and bottom, 0 to 1 from the upper left
 * @returns `SEEN_WORDS` numbers for each pixel
 */
export async function seenIn(
  panes: readonly Pane[],
  backend: Backend,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
): Promise<Uint32Array> {
  const index = panes.length > 1 && x0 >= 0.5 ? 1 : 0
  const sample = panes[index]!.seenNow()
  const { width, height } = sample
  const place = (x: number): number => (x * panes.length - index) * width
  const left = Math.min(width - 1, Math.max(0, Math.floor(place(Math.min(x0, x1)))))
  const right = Math.min(width, Math.max(left + 1, Math.ceil(place(Math.max(x0, x1)))))
  const bottom = Math.min(height - 1, Math.max(0, Math.floor((1 - Math.max(y0, y1)) * height)))
  const top = Math.min(height, Math.max(bottom + 1, Math.ceil((1 - Math.min(y0, y1)) * height)))
  return backend.seenIn(sample, { left, right, bottom, top })
}
