import type { WebGLRenderTarget } from 'three'

/** A part of a picture, in shares of its width and height from the lower left corner. */
export interface Region {
  left: number
  right: number
  bottom: number
  top: number
}
export const WHOLE: Region = { left: 0, right: 1, bottom: 0, top: 1 }

/** Sees that only a part of a target is drawn on. */
export function keepTo(target: WebGLRenderTarget, { left, right, bottom, top }: Region): void {
  const x = Math.round(left * target.width)
  const y = Math.round(bottom * target.height)
  const width = Math.round(right * target.width) - x
  const height = Math.round(top * target.height) - y
  target.scissorTest = true
  target.scissor.set(x, y, Math.max(0, width), Math.max(0, height))
}
