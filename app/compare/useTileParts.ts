import { useEventListener } from '@vueuse/core'
import { evaluator } from '../shared/evaluation'
import type { SheetStage } from './SheetView.vue'
import { useSheet, type JudgedTile } from './useSheet'

/** Pixels after which a press is a drag. */
const FAR = 5

interface Sheet {
  stage: () => SheetStage | null
  tiles: () => readonly JudgedTile[]
  /** A tile shows something else now. */
  changed: (id: string) => void
}

/** Radians by which the camera goes around the mesh for each pixel that is dragged. */
const TURN = 0.008

/**
 * What the pointer does on the tiles of a sheet: a part that is dragged goes to another tile; what is dragged beside
 * the mesh, or with Alt held, turns the camera of all. Selected parts go to the look at a press.
 */
export function useTileParts({ stage, tiles, changed }: Sheet) {
  const project = useProject()
  const mesh = useMesh()
  const sheet = useSheet()
  /** The part that is being dragged, in words, and where the cursor is. */
  const held = shallowRef<{ words: string; x: number; y: number } | null>(null)
  /** The tile under it, which would take it. */
  const over = ref('')
  let grabbed: { tile: JudgedTile; part: Promise<number | null>; name?: string; from: [number, number] } | undefined
  /** Where the pointer was last, while it turns the camera, and whether it has gone far enough to be meant. */
  let turning: { at: [number, number]; far: boolean } | undefined

  const nameOf = (part: number): string => project.tables?.parts.parts[part]?.name ?? ''

  /**
   * A tile was pressed at a place of its picture. Those that are seen from elsewhere, or differ in light alone, have no
   * parts to take, but turn.
   */
  function grab(tile: JudgedTile, { x, y }: { x: number; y: number }, e: PointerEvent): void {
    if (e.altKey) {
      turning = { at: [e.clientX, e.clientY], far: false }
      e.preventDefault()
      return
    }
    const takes = !tile.away && !tile.light && !project.readOnly
    const part = stage()?.partAt(x, y) ?? Promise.resolve(null)
    const mine: typeof grabbed = { tile, part, from: [e.clientX, e.clientY] }
    grabbed = mine
    void part.then(found => {
      if (grabbed !== mine) return
      if (found === null) turning = { at: mine.from, far: false }
      else if (takes) mine.name = nameOf(found)
    })
  }
  useEventListener(window, 'pointermove', (e: PointerEvent) => {
    if (turning) {
      const [dx, dy] = [e.clientX - turning.at[0], e.clientY - turning.at[1]]
      if (!turning.far && Math.hypot(dx, dy) < FAR) return
      stage()?.orbit(-dx * TURN, -dy * TURN, 1)
      turning = { at: [e.clientX, e.clientY], far: true }
      return
    }
    if (!grabbed) return
    const [x, y] = grabbed.from
    if (!held.value && Math.hypot(e.clientX - x, e.clientY - y) < FAR) return
    if (!grabbed.name) return
    const under = document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-tile]')?.dataset.tile
    over.value = under && under !== grabbed.tile.id ? under : ''
    held.value = { words: `${grabbed.name} of ${grabbed.tile.title}`, x: e.clientX, y: e.clientY }
  })
  const end = (): void => {
    grabbed = turning = undefined
    held.value = null
    over.value = ''
  }
  useEventListener(window, 'pointercancel', end)
  useEventListener(window, 'keydown', (e: KeyboardEvent) => {
    if (e.key === 'Escape' && held.value) end()
  })
  useEventListener(window, 'pointerup', () => {
    const [source, target] = [grabbed, tiles().find(t => t.id === over.value)]
    end()
    if (!source || !target) return
    void source.part.then(part => {
      if (part !== null) void take(source.tile, target, [part])
    })
  })

  /** Has parts of a tile be drawn in another as they are in the first. */
  async function take(source: JudgedTile, target: JudgedTile, list: readonly number[]): Promise<void> {
    const keys = list.flatMap(p => project.tables?.parts.parts[p]?.key ?? [])
    const { look } = project
    const pins = await evaluator.pinsFrom(source.of(look), target.of(look), keys)
    if (project.look !== look || !pins.length) return
    const what = list.length === 1 ? nameOf(list[0]!) : `${list.length} parts`
    changed(target.id)
    sheet.give(target, pins, `Take ${what} from ${source.title}`)
  }

  /** The selected parts of a tile become so in the look. */
  const takeSelected = (source: JudgedTile): Promise<void> =>
    take(source, { id: 'roll 0', title: 'As it is', of: look => look }, [...mesh.selected])

  return { held, over, grab, takeSelected }
}
