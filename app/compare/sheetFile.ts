import type { TableTile } from '#core/compare/table'

/** A tile of a sheet that is saved as a picture. */
export interface SavedTile extends TableTile {
  picture?: ImageData
}

/** Height of a line of words below a picture, and room around pictures, in pixels. */
const LINE = 20
const ROOM = 6

/** A sheet as one picture: its tiles in columns, their names below them. */
export async function sheetPicture(tiles: readonly SavedTile[], columns: number): Promise<Blob | null> {
  const [some] = tiles.flatMap(t => t.picture ?? [])
  if (!some) return null
  const { width, height } = some
  const rows = Math.ceil(tiles.length / columns)
  const canvas = new OffscreenCanvas(columns * (width + ROOM) + ROOM, rows * (height + LINE + ROOM) + ROOM)
  const context = canvas.getContext('2d')
  if (!context) return null
  const style = getComputedStyle(document.documentElement)
  context.fillStyle = style.getPropertyValue('--ub-panel').trim()
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.fillStyle = style.getPropertyValue('--ub-text').trim()
  context.font = `12px ${getComputedStyle(document.body).fontFamily}`
  context.textBaseline = 'middle'
  tiles.forEach(({ title, verdict, picture }, i) => {
    const x = ROOM + (i % columns) * (width + ROOM)
    const y = ROOM + Math.floor(i / columns) * (height + LINE + ROOM)
    if (picture) context.putImageData(picture, x, y)
    context.fillText([title, verdict].filter(Boolean).join(', '), x + 2, y + height + LINE / 2, width - 4)
  })
  return canvas.convertToBlob({ type: 'image/png' })
}
