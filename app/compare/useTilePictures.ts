import type { ShallowRef } from 'vue'
import { paletteOf } from '#core/compare/numbers'
import type { Look } from '#core/graph/look'
import { evaluator } from '../shared/evaluation'
import type { SheetStage } from './SheetView.vue'
import { useSheet } from './useSheet'

interface Sheet {
  /** By tile; filled in here. */
  pictures: ShallowRef<Map<string, ImageData>>
  stage: () => SheetStage | null
  /** Of all tiles side by side, in pixels. */
  width: () => number
  columns: () => number
  /** Whether something else has the stage's room for pictures. */
  waits: () => boolean
}

/**
 * The pictures of a sheet's tiles, and their numbers: coarse ones first, smooth ones after that, and anew with whatever
 * they depend on.
 */
export function useTilePictures({ pictures, stage: stageNow, width, columns, waits }: Sheet) {
  const project = useProject()
  const looking = useLooking()
  const sheet = useSheet()
  const { order, tiles, numbers, showsNumbers, reference } = storeToRefs(sheet)

  /** How many pictures with shifted pixels are in each: first all tiles come, then smooth ones. */
  const ROUGH = 1
  const SMOOTH = 4
  /** What the pictures were made of, and how smooth each is. */
  let made: { look: Look; key: string; counts: Map<string, number> } | undefined
  const painted = ref(0)
  /** Whether a tile is still to come, or to be made smooth. */
  const busy = ref(true)
  const AGAIN = 120
  let asked = 0
  /** Everything but the tiles that a picture depends on. */
  const wanted = (): string => `${stageNow()?.viewKey()} ${looking.view} ${sheet.only} ${columns()}`

  /** Whether every tile shows, smooth, what is wanted now. */
  const complete = (): boolean =>
    made?.look === project.look && made.key === wanted() && tiles.value.every(t => made!.counts.get(t.id) === SMOOTH)

  async function paint(): Promise<void> {
    const mine = ++asked
    const stage = stageNow()
    const { look, tables } = project
    if (!stage || !tables || !width() || waits()) return
    const key = wanted()
    busy.value = true
    if (made?.look !== look || made.key !== key) made = { look, key, counts: new Map() }
    const { counts } = made
    const across = (width() / columns()) * Math.min(2, window.devicePixelRatio)
    for (const count of [ROUGH, SMOOTH]) {
      painted.value = tiles.value.filter(t => (counts.get(t.id) ?? 0) >= ROUGH).length
      for (const { id, of, light, away } of tiles.value.filter(t => (counts.get(t.id) ?? 0) < count)) {
        const picture = await stage.tile(of(look), across, count, light, { away })
        if (mine !== asked) return
        if (!picture) return void setTimeout(() => mine === asked && void paint(), AGAIN)
        counts.set(id, count)
        pictures.value = new Map([...pictures.value, [id, picture]])
        if (count === ROUGH) painted.value++
      }
      if (count === ROUGH) await tell(mine, look)
      if (mine !== asked) return
    }
    busy.value = false
  }
  const stale = computed(() => painted.value < tiles.value.length)

  // ---- Numbers ----

  const needsNumbers = computed(
    () => sheet.withNumbers && (showsNumbers.value || (order.value !== 'made' && order.value !== 'starred')),
  )
  /** The colors of the picture that the look is to come close to. */
  const palette = computed(() => {
    const picture = project.pictures.find(p => p.name === reference.value)
    return picture ? paletteOf(picture) : []
  })
  let counted: { look: Look; palette: unknown; tables: unknown } | undefined
  /** Finds the numbers of tiles that have none. */
  async function tell(mine: number, look: Look): Promise<void> {
    if (!needsNumbers.value) return
    const { tables } = project
    const kept = counted?.look === look && counted.palette === palette.value && counted.tables === tables
    const found = new Map(kept ? numbers.value : [])
    counted = { look, palette: palette.value, tables }
    if (kept && tiles.value.every(t => found.has(t.id))) return
    for (const { id, of } of tiles.value) {
      if (found.has(id)) continue
      const next = await evaluator.numbers(of(look), palette.value)
      if (mine !== asked) return
      if (next) found.set(id, next)
    }
    numbers.value = found
  }

  /** Nothing is painted until it is asked for, or something changes. */
  const stop = (): void => {
    asked++
  }

  // The sheet follows once the stage has come to rest: what is turned or dragged goes first.
  watch(
    [
      () => looking.standing?.final,
      () => stageNow()?.viewKey(),
      () => project.look,
      () => project.tables,
      () => looking.view,
      () => tiles.value.map(t => t.id).join(),
      () => sheet.only,
      () => sheet.taken,
      needsNumbers,
      palette,
      // Not the ref itself: it is a shallow one, and with such a source this would run whatever of all these is only
      // looked at anew.
      width,
      columns,
    ],
    () => {
      if (looking.standing?.final) return void paint()
      // They are of what was before until the stage has come to rest, and what is under way would be of both.
      if (complete()) return
      stop()
      busy.value = true
    },
    { immediate: true },
  )
  onBeforeUnmount(stop)

  /** A tile shows something else now. */
  function drop(id: string): void {
    made?.counts.delete(id)
    numbers.value = new Map([...numbers.value].filter(([other]) => other !== id))
  }
  return { painted, busy, stale, paint, drop, stop }
}
