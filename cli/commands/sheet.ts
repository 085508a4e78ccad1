import { Option } from 'commander'
import { pngOf } from '../../core/bake/png'
import type { Pulled } from '../../core/color/palette'
import { fromHex, type Triple } from '../../core/color/convert'
import { paletteOf, sheetNumbers } from '../../core/compare/numbers'
import {
  MOST_STEPS,
  rangeOf,
  rollTile,
  sweepableAt,
  sweepTiles,
  sweepValues,
  type SheetTile,
  type Sweep,
  type Sweepable,
} from '../../core/compare/sheet'
import { sheetTable } from '../../core/compare/table'
import { titleOf } from '../../core/graph/check'
import { LookError, type Look } from '../../core/graph/look'
import { loadKernels } from '../../core/kernels/kernels'
import type { RigName } from '../../core/trace/rigs'
import { stills, type StillPart, type StillView } from '../../core/light/still'
import { compressor } from '../../node/bake/compress'
import { readPicture } from '../../node/bake/readPicture'
import { letter, type Sheet } from '../../node/render/lettering'
import { command, withMesh, type MeshOptions } from '../command'
import { file, lookAhead, write } from '../files'
import { openLook, openMesh } from '../pieces'
import { rigOption, showOption, STAGE_GRAY, sizeOption, withoutOption, type Size } from '../shown'
import { UsageError } from '../usage'
import { voiceOf } from '../voice'

/** The most tiles of a sheet. */
const MOST_TILES = 256
/** Room around tiles, in pixels, and the gray of it, encoded. */
const ROOM = 4
const AROUND = 0.96
/** The line below each tile, the baseline in it, the size of its letters, and how dark they are. */
const LABEL = 20
const BASELINE = 14
const LETTERS = 12
const INK = 40
/** Steps of a sweep where the call does not say. */
const STEPS = 4

interface Options extends MeshOptions {
  to: string
  seeds?: { from: number; to: number }
  sweep: string[]
  size: Size
  rig: RigName
  show: StillView
  without: StillPart[]
  numbers?: true
  like?: string
}

/** Reads FROM-TO. @throws UsageError */
function seedsOf(text: string): { from: number; to: number } {
  const found = /^(\d+)-(\d+)$/.exec(text)
  const [from, to] = [Number(found?.[1]), Number(found?.[2])]
  if (!found || to < from) throw new UsageError(`--seeds takes two numbers like 1-16, not "${text}".`)
  return { from, to }
}

/**
 * Reads NODE.SETTING, NODE.SETTING=A..B or NODE.SETTING=A..B:N. A node goes by its id or its name.
 * @throws UsageError
 */
function sweepOf(look: Look, text: string): Sweep {
  const found = /^([^=]+)\.([^.=:]+)(?:=(.+)\.\.(.+?))?(?::(\d+))?$/.exec(text)
  if (!found)
    throw new UsageError(
      `--sweep takes NODE.SETTING=FROM..TO:STEPS, like "finish1.roughness=0.2..0.8:5", not "${text}".`,
    )
  const [, name, param, from, to, count] = found as unknown as (string | undefined)[]
  const node = look.nodes.find(n => n.id === name) ?? look.nodes.find(n => titleOf(n) === name)
  const setting = sweepableAt(look, node?.id ?? name!, param!)
  const steps = count === undefined ? STEPS : Number(count)
  if (steps < 1 || steps > MOST_STEPS) throw new UsageError(`--sweep makes 1 to ${MOST_STEPS} steps, not ${count}.`)
  const range = from === undefined ? rangeOf(setting) : { from: endOf(setting, from), to: endOf(setting, to!) }
  return { node: setting.node, param: setting.param, ...range, count: steps }
}

function endOf({ declaration, title }: Sweepable, text: string): number | Triple {
  const value = declaration.type === 'color' ? fromHex(text.trim()) : Number(text)
  if (value === null || (typeof value === 'number' && (text.trim() === '' || !Number.isFinite(value))))
    throw new UsageError(`${title}: "${text}" is no ${declaration.type === 'color' ? 'color like #80a0c0' : 'number'}.`)
  return value
}

/** The tiles that a call asks for, and how many stand side by side. @throws UsageError */
function tilesOf(look: Look, { seeds, sweep }: Options): { tiles: SheetTile[]; columns: number } {
  if (Boolean(seeds) === sweep.length > 0)
    throw new UsageError('A sheet is of --seeds, or of one or two --sweep: columns first, then rows.')
  if (sweep.length > 2) throw new UsageError('A sheet sweeps two settings at most: columns first, then rows.')
  try {
    if (seeds) {
      const count = seeds.to - seeds.from + 1
      refuse(count)
      const tiles = Array.from({ length: count }, (_, i) => rollTile(seeds.from + i))
      return { tiles, columns: Math.ceil(Math.sqrt(count)) }
    }
    const [across, down] = sweep.map(text => sweepOf(look, text)) as [Sweep, Sweep?]
    const tiles = sweepTiles(look, across, down)
    refuse(tiles.length)
    return { tiles, columns: sweepValues(look, across).length }
  } catch (error) {
    throw error instanceof LookError ? new UsageError(error.message) : error
  }
}

function refuse(count: number): void {
  if (count > MOST_TILES) throw new UsageError(`A sheet has ${MOST_TILES} tiles at most; this would be ${count}.`)
}

async function paletteIn(path: string): Promise<Pulled[]> {
  const bytes = await file(path)
  try {
    return paletteOf(readPicture(path, bytes))
  } catch {
    throw new UsageError(`${path}: this is not a PNG or EXR picture that can be read.`)
  }
}

export const sheetCommand = () =>
  withMesh(
    command('sheet', {
      summary: 'pictures of many states of a look side by side, and a table of them',
      examples: [
        ['sheet drift.look.json --mesh rack.glb --seeds 1-16 --to rolls.png', 'Sixteen rolls of all draws.'],
        [
          'sheet drift.look.json --mesh rack.glb --sweep "Drift.hue=0..40:5" --sweep "Glass.roughness=0.1..0.6:3" --to sweep.png',
          'Two settings over columns and rows.',
        ],
        [
          'sheet drift.look.json --mesh rack.glb --seeds 1-9 --to rolls.png --like quay.png > rolls.csv',
          'With numbers, among them how far each is from the colors of a picture.',
        ],
      ],
    }),
  )
    .argument('<look>', 'a look file')
    .requiredOption('--to <picture>', 'where the sheet goes: .png')
    .option('--seeds <from-to>', 'rolls of all draws, as --seed of other commands counts them', seedsOf)
    .addOption(
      new Option('--sweep <node.setting=from..to:steps>', 'a setting over the columns; a second one over the rows')
        .argParser((text: string, before: string[]) => [...before, text])
        .default([], 'none'),
    )
    .addOption(sizeOption({ width: 320, height: 240 }))
    .addOption(rigOption())
    .addOption(showOption())
    .addOption(withoutOption())
    .option('--numbers', 'spreads, palette and neighbors alike of every tile in the table')
    .option('--like <picture>', 'a PNG or EXR whose colors the look is to come close to')
    .action(async (path: string, options: Options) => {
      const voice = voiceOf(options)
      const { to, size, rig, show, without } = options
      if (!to.toLowerCase().endsWith('.png')) throw new UsageError(`${to}: sheet writes .png.`)
      await lookAhead(to)
      const open = await openLook(path)
      const { tiles, columns } = tilesOf(open.look, options)
      const like = options.like ? await paletteIn(options.like) : undefined
      const { tables } = (await openMesh(options, voice, open)).piece
      const kernels = await loadKernels()
      const picture = stills(kernels, tables, { ...size, rig, show, without, background: STAGE_GRAY })
      const sheet = blank(columns, Math.ceil(tiles.length / columns), size)
      const wantsNumbers = options.numbers || like
      if (wantsNumbers) tables.touching?.()
      const rows = tiles.map((tile, i) => {
        voice.progress(i / tiles.length, tile.title)
        const look = tile.of(open.look)
        lay(sheet, picture(look), tile.title, { column: i % columns, row: Math.floor(i / columns), size })
        return { title: tile.title, ...(wantsNumbers && { numbers: sheetNumbers(kernels, tables, look, like) }) }
      })
      voice.progress(1, to)
      await write(to, pngOf({ ...sheet, channels: 4 }, compressor))
      voice.answer({ file: to, columns, tiles: rows }, () => sheetTable(rows))
    })

function blank(columns: number, rows: number, size: Size): Sheet {
  const width = columns * (size.width + ROOM) + ROOM
  const height = rows * (size.height + LABEL + ROOM) + ROOM
  const data = new Uint8Array(width * height * 4).fill(Math.round(AROUND * 255))
  for (let i = 3; i < data.length; i += 4) data[i] = 255
  return { width, height, data }
}

/** Lays a picture onto a sheet, with its title below it. */
function lay(
  sheet: Sheet,
  pixels: Uint8ClampedArray,
  title: string,
  { column, row, size }: { column: number; row: number; size: Size },
): void {
  const x = ROOM + column * (size.width + ROOM)
  const y = ROOM + row * (size.height + LABEL + ROOM)
  letter(sheet, title, { x: x + 2, y: y + size.height + BASELINE, size: LETTERS, width: size.width - 4, gray: INK })
  for (let line = 0; line < size.height; line++) {
    const from = pixels.subarray(line * size.width * 4, (line + 1) * size.width * 4)
    sheet.data.set(from, ((y + line) * sheet.width + x) * 4)
  }
}
