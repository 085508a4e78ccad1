import { rollTiles } from '../../core/compare/sheet'
import { Workpiece } from '../../core/evaluate/workpiece'
import { loadKernels } from '../../core/kernels/kernels'
import { stills } from '../../core/light/still'
import { kioskRoof } from '../../demo/kioskRoof'
import { kioskRoofMossLook } from '../../demo/kioskRoofMossLook'
import { kioskRoofPreparation } from '../../demo/preparations'

const TILES = 16
const TILE = { width: 320, height: 240 }
/** One channel: the light is not what is measured. */
const LIGHT = { rig: 'overcast', show: 'baseColor', background: [0.7, 0.7, 0.7] as [number, number, number] } as const
const ROUNDS = 3
const SHEETS = 10

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]!
const timed = (work: () => void): number => {
  const from = performance.now()
  work()
  return performance.now() - from
}

/**
 * Sixteen rolls of the moss roof as tiles, against one picture with as many pixels; and how memory grows over ten
 * sheets. What a look needs of the whole surface (shares of parts, soft masks, neighbors that differ) is found out for
 * every roll, and once for the one picture, whatever their pixels are. So evaluation at the pixels is told apart: a
 * picture that is made again needs nothing else.
 */
export async function sheet(): Promise<Record<string, unknown>> {
  const kernels = await loadKernels()
  const { tables } = new Workpiece(kioskRoof().mesh, kioskRoofPreparation())
  const look = kioskRoofMossLook()
  const tiles = rollTiles(TILES, 1).map(tile => tile.of(look))
  const one: number[] = []
  const again: number[] = []
  const sixteen: number[] = []
  const sixteenAgain: number[] = []
  for (let i = 0; i < ROUNDS; i++) {
    const whole = stills(kernels, tables, { width: TILE.width * 4, height: TILE.height * 4, ...LIGHT })
    one.push(timed(() => whole(look)))
    again.push(timed(() => whole(look)))
    const small = stills(kernels, tables, { ...TILE, ...LIGHT })
    const each = tiles.map(l => [timed(() => small(l)), timed(() => small(l))] as const)
    sixteen.push(each.reduce((sum, [first]) => sum + first, 0))
    sixteenAgain.push(each.reduce((sum, [, second]) => sum + second, 0))
  }
  const memory: number[] = []
  for (let i = 0; i < SHEETS; i++) {
    const small = stills(kernels, tables, { ...TILE, ...LIGHT })
    tiles.slice(0, 4).forEach(l => small(l))
    memory.push(Math.round(process.memoryUsage().rss / 2 ** 20))
  }
  return {
    onePictureMs: Math.round(median(one)),
    onePictureAgainMs: Math.round(median(again)),
    sixteenTilesMs: Math.round(median(sixteen)),
    sixteenTilesAgainMs: Math.round(median(sixteenAgain)),
    ratioOfEvaluation: Number((median(sixteenAgain) / median(again)).toPrecision(3)),
    ratioWithWholeSurface: Number((median(sixteen) / median(one)).toPrecision(3)),
    memoryMbAfterEachSheet: memory,
  }
}
