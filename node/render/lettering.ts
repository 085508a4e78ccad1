import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { parse, type Font } from 'opentype.js'

/** The interface's own font. */
const FONT = '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff'
/** Lines of samples in a pixel, and samples in each, for smooth edges. */
const FINE = 4
/** Straight pieces that a curve of a letter is made of. */
const PIECES = 6
const MORE = '…'

type Point = [number, number]
type Edge = [x0: number, y0: number, x1: number, y1: number]

let loaded: Font | undefined
function font(): Font {
  if (loaded) return loaded
  const bytes = readFileSync(createRequire(import.meta.url).resolve(FONT))
  return (loaded = parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer))
}

/** A text that is no wider than some pixels: its end is left out where it is. */
function fitted(text: string, size: number, width: number): string {
  const fits = (t: string): boolean => font().getAdvanceWidth(t, size) <= width
  if (fits(text)) return text
  for (let end = text.length - 1; end > 0; end--) {
    const shorter = `${text.slice(0, end).trimEnd()}${MORE}`
    if (fits(shorter)) return shorter
  }
  return ''
}

/** A point of a Bézier curve, by de Casteljau's construction. @param t 0 to 1 */
function onCurve(points: readonly Point[], t: number): Point {
  if (points.length === 1) return points[0]!
  return onCurve(
    points
      .slice(1)
      .map(([x, y], i) => [points[i]![0] + (x - points[i]![0]) * t, points[i]![1] + (y - points[i]![1]) * t]),
    t,
  )
}

/** The outlines of a text as straight edges. @param y of its baseline */
function outlines(text: string, x: number, y: number, size: number): Edge[] {
  const edges: Edge[] = []
  let [start, at]: [Point, Point] = [
    [0, 0],
    [0, 0],
  ]
  const line = (to: Point): void => {
    edges.push([...at, ...to])
    at = to
  }
  const curve = (...points: Point[]): void => {
    const all = [at, ...points]
    for (let i = 1; i <= PIECES; i++) line(onCurve(all, i / PIECES))
  }
  for (const c of font().getPath(text, x, y, size).commands) {
    if (c.type === 'M') start = at = [c.x, c.y]
    else if (c.type === 'L') line([c.x, c.y])
    else if (c.type === 'Q') curve([c.x1, c.y1], [c.x, c.y])
    else if (c.type === 'C') curve([c.x1, c.y1], [c.x2, c.y2], [c.x, c.y])
    else line(start)
  }
  return edges
}

/** Where a line of samples is inside of outlines, from and to, by the rule of nonzero winding. */
function insideAt(edges: readonly Edge[], y: number): Point[] {
  const crossings = edges
    .filter(([, y0, , y1]) => y0 <= y !== y1 <= y)
    .map(([x0, y0, x1, y1]): [number, number] => [x0 + ((y - y0) / (y1 - y0)) * (x1 - x0), y1 > y0 ? 1 : -1])
    .sort((a, b) => a[0] - b[0])
  const spans: Point[] = []
  let winding = 0
  crossings.forEach(([x, turn], i) => {
    if (winding !== 0) spans.push([crossings[i - 1]![0], x])
    winding += turn
  })
  return spans
}

/** A picture with four bytes to a pixel, row by row from the top. */
export interface Sheet {
  width: number
  height: number
  data: Uint8Array
}

/**
 * Writes a text onto a picture.
 * @param y of its baseline, in pixels from the top @param width that it may have @param gray of the letters, 0 to 255
 */
export function letter(
  sheet: Sheet,
  text: string,
  { x, y, size, width, gray }: { x: number; y: number; size: number; width: number; gray: number },
): void {
  const edges = outlines(fitted(text, size, width), x, y, size)
  const [top, bottom] = [Math.max(0, Math.floor(y - size)), Math.min(sheet.height, Math.ceil(y + size / 2))]
  for (let row = top; row < bottom; row++) {
    const cover = new Float32Array(sheet.width)
    for (let line = 0; line < FINE; line++)
      for (const [from, to] of insideAt(edges, row + (line + 0.5) / FINE)) addSpan(cover, from, to)
    cover.forEach((share, column) => {
      if (!share) return
      for (let k = 0; k < 3; k++) {
        const at = (row * sheet.width + column) * 4 + k
        sheet.data[at] = Math.round(sheet.data[at]! + (gray - sheet.data[at]!) * Math.min(1, share))
      }
    })
  }
}

/** Adds a line of samples that is covered between two places to the shares of the pixels in it. */
function addSpan(cover: Float32Array, from: number, to: number): void {
  const last = Math.min(cover.length - 1, Math.floor(to))
  for (let column = Math.max(0, Math.floor(from)); column <= last; column++)
    cover[column]! += Math.max(0, Math.min(to, column + 1) - Math.max(from, column)) / FINE
}
