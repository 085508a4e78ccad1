import type { Look } from '#core/graph/look'
import { fileStem } from '#core/exchange/names'
import { saveFile } from '../shared/saveFile'
import { filmOf, zipOf } from './film'
import type { SheetStage } from './SheetView.vue'
import type { TurntableSettings } from './TurntableDialog.vue'
import type { TileLight } from './useSheet'

/** Pictures with shifted pixels that make a frame. */
const SMOOTH = 4
/** How long it waits where something else came in between, in milliseconds. */
const AGAIN = 120

/** Makes turntables of looks from the stage: one at a time. */
export function useTurntable(stage: () => SheetStage | null) {
  /** Frames made so far; null while none is made. */
  const made = ref<number | null>(null)
  const problem = ref('')
  let stopped = false
  const stop = (): void => {
    stopped = true
  }

  /** @returns the frames; undefined where it was stopped */
  async function framesOf(look: Look, light: TileLight | undefined, { frames, step }: TurntableSettings) {
    const list: ImageData[] = []
    const width = (stage()?.width() ?? 0) / step
    while (list.length < frames && !stopped) {
      const turn = (360 * list.length) / frames
      const frame = await stage()?.tile(look, width, SMOOTH, light, { turn })
      if (frame) list.push(frame)
      else await new Promise(resolve => setTimeout(resolve, AGAIN))
      made.value = list.length
    }
    return stopped ? undefined : list
  }

  /** Makes a turntable and saves it. @returns whether it was saved */
  async function make(name: string, look: Look, light: TileLight | undefined, settings: TurntableSettings) {
    problem.value = ''
    stopped = false
    made.value = 0
    try {
      const frames = await framesOf(look, light, settings)
      if (!frames) return false
      const stem = `${fileStem(name, 'look')}-turntable`
      const numbered = new Map(frames.map((f, i) => [`${stem}/${String(i + 1).padStart(4, '0')}.png`, f]))
      if (settings.as === 'film') saveFile(await filmOf(frames), `${stem}.webm`)
      else saveFile(await zipOf(numbered), `${stem}.zip`)
      return true
    } catch (error) {
      problem.value = (error as Error).message
      return false
    } finally {
      made.value = null
    }
  }
  return { made, problem, make, stop }
}
