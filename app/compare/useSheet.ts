import { defineStore } from 'pinia'
import type { KeptSheet, SheetKind, SheetOrder } from '#core/compare/keptSheet'
import type { SheetNumbers } from '#core/compare/numbers'
import { rollTile, rollTiles, sweepTiles, sweepValues, type SheetTile, type Sweep } from '#core/compare/sheet'
import { withPins, type TakenPin } from '#core/compare/takeParts'
import { reseed } from '#core/graph/recipe'
import type { RigName } from '#core/trace/rigs'
import { distanceTiles, lightTiles } from './seenTiles'
import { useRolls, type COUNTS } from './useRolls'
import { useStates } from './useStates'
import { useSweeps } from './useSweeps'

/** How often the light is turned on a sheet of lights. */
export const TURNS = [1, 2, 4, 8] as const
/** What a sheet can hold. */
export const SHEETS = [
  { value: 'rolls', title: 'Rolls' },
  { value: 'sweep', title: 'Sweep' },
  { value: 'states', title: 'States' },
  { value: 'lights', title: 'Lights' },
  { value: 'distances', title: 'Distances' },
] as const satisfies { value: SheetKind; title: string }[]

/** In which order tiles stand. */
export const ORDERS = [
  { value: 'made', title: 'As made' },
  { value: 'starred', title: 'Starred first' },
  { value: 'away', title: 'Closest to a picture' },
  { value: 'alike', title: 'Fewest neighbors alike' },
  { value: 'hue', title: 'Most varied in hue' },
  { value: 'roughness', title: 'Most varied in roughness' },
] as const satisfies { value: SheetOrder; title: string }[]

/** What somebody thinks of a tile. */
export type Verdict = 'starred' | 'aside'

/** A rig, and how far it is turned about the vertical, in degrees. */
export interface TileLight {
  rig: RigName
  turn: number
}
export interface JudgedTile extends SheetTile {
  verdict?: Verdict
  /** The light that it is seen in, where that is not the stage's. */
  light?: TileLight
  /** How often as far away it is seen from as on the stage. */
  away?: number
  /** The look of the project that it is, which can be opened. */
  opens?: string
}

const RANKS = { starred: 0, none: 1, aside: 2 }
const LARGE = 1e9

/**
 * The sheet of the Compare tab: states of the look, of the light, or of the distance, side by side, and what was
 * thought of each.
 */
export const useSheet = defineStore('sheet', () => {
  const project = useProject()
  const kind = ref<SheetKind>('rolls')
  const order = ref<SheetOrder>('made')
  const verdicts = ref(new Map<string, Verdict>())
  const showsNumbers = ref(false)
  /** Whether all tiles are shown in gray of the same luminance. */
  const gray = ref(false)
  /** The picture whose palette the look is to come close to. */
  const reference = ref('')
  /** By tile; filled in by whoever shows them. */
  const numbers = shallowRef(new Map<string, SheetNumbers>())

  /** What tiles were given of others, by the tile that has it. */
  const taken = shallowRef(new Map<string, TakenPin[]>())
  /** Draws single parts in a tile as they are elsewhere: in the look itself, where the tile is that. */
  function give(tile: JudgedTile, pins: TakenPin[], label: string): void {
    if (tile.id === rollTile(0).id) {
      project.edit(label, look => withPins(look, pins))
      project.settle()
    } else taken.value = new Map([...taken.value, [tile.id, [...(taken.value.get(tile.id) ?? []), ...pins]]])
  }
  function withTaken(tile: JudgedTile): JudgedTile {
    const pins = taken.value.get(tile.id)
    if (!pins) return tile
    const count = new Set(pins.map(p => p.pin.part)).size
    const title = `${tile.title}, ${count} ${count === 1 ? 'part' : 'parts'} of others`
    return { ...tile, title, of: look => withPins(tile.of(look), pins) }
  }

  const rolls = useRolls()
  const sweeps = useSweeps()
  const turns = ref<(typeof TURNS)[number]>(2)
  const lights = computed(() => lightTiles(turns.value))
  const states = useStates()
  watch(
    [kind, () => states.chosen.value],
    () => {
      if (kind.value === 'states') states.fetchChosen()
    },
    { flush: 'post' },
  )
  watch([kind, () => project.newest, () => project.lookId], () => {
    if (kind.value === 'states') void states.listRevisions()
  })

  const made = computed<JudgedTile[]>(() => {
    if (kind.value === 'lights') return lights.value
    if (kind.value === 'distances') return [...distanceTiles]
    if (kind.value === 'rolls') return rollTiles(rolls.count.value, rolls.first.value, rolls.rolled.value)
    if (kind.value === 'states') return states.chosen.value.length ? [rollTile(0), ...states.tiles.value] : []
    const { across, down } = sweeps
    return across.value ? sweepTiles(project.look, across.value, down.value ?? undefined) : []
  })
  const tiles = computed<JudgedTile[]>(() => {
    const judged = made.value.map(tile => ({ ...withTaken(tile), verdict: verdicts.value.get(tile.id) }))
    return (order.value === 'made' ? judged : judged.toSorted((a, b) => rankOf(a) - rankOf(b))) as JudgedTile[]
  })
  function rankOf({ id, verdict }: JudgedTile): number {
    if (order.value === 'starred') return RANKS[verdict ?? 'none']
    const found = numbers.value.get(id)
    if (order.value === 'away' || order.value === 'alike') return found?.[order.value] ?? LARGE
    return order.value === 'hue' || order.value === 'roughness' ? -(found?.[order.value] ?? 0) : 0
  }
  /** Whether its tiles are states of the look, which come to something in numbers. */
  const withNumbers = computed(() => kind.value !== 'lights' && kind.value !== 'distances')
  /** How many tiles stand side by side, where the sheet says so. */
  const width = computed(() => {
    if (order.value !== 'made') return undefined
    if (kind.value === 'lights') return turns.value > 1 ? turns.value : undefined
    const { across, down } = sweeps
    return kind.value === 'sweep' && across.value && down.value
      ? sweepValues(project.look, across.value).length
      : undefined
  })

  /** Gives a tile a verdict, or takes the same one back. */
  function judge(tile: JudgedTile, verdict: Verdict): void {
    const next = new Map(verdicts.value)
    if (next.get(tile.id) === verdict) next.delete(tile.id)
    else next.set(tile.id, verdict)
    verdicts.value = next
  }

  /**
   * Makes a tile's look the look, as one step back.
   * @returns what tiles are called after it that were called otherwise
   */
  function keep(tile: JudgedTile): (id: string) => string {
    const by = rollOf(tile.id)
    const pins = taken.value.get(tile.id) ?? []
    taken.value = new Map()
    if (by === undefined) {
      project.edit(`Keep ${tile.title}`, tile.of)
      return id => id
    }
    const only = rolls.rolled.value
    project.edit(`Keep roll ${by}`, look => withPins(reseed(look, by, only), pins))
    // Rolls are counted from the look, so verdicts go with them.
    const renamed = (id: string): string => (rollOf(id) === undefined ? id : rollTile(rollOf(id)! - by).id)
    verdicts.value = new Map(
      [...verdicts.value].map(([id, v]) => [renamed(id), v] as const).filter(([id]) => (rollOf(id) ?? 0) >= 0),
    )
    return renamed
  }
  const rollOf = (id: string): number | undefined => (id.startsWith('roll ') ? Number(id.slice(5)) : undefined)

  // Another look begins anew.
  watch(
    () => project.lookId,
    () => {
      reference.value = ''
      rolls.forget()
      sweeps.forget()
      states.forget()
      verdicts.value = new Map()
      taken.value = new Map()
      numbers.value = new Map()
    },
  )

  /** All that makes the sheet what it is, to be kept. */
  const toKeep = (): Omit<KeptSheet, 'seen'> => ({
    look: project.lookId,
    kind: kind.value,
    order: order.value,
    numbers: showsNumbers.value,
    reference: reference.value,
    rolls: { count: rolls.count.value, first: rolls.first.value, only: [...rolls.only.value] },
    columns: sweeps.columns.value,
    rows: sweeps.rows.value,
    states: states.picked.value,
    turns: turns.value,
    verdicts: Object.fromEntries(verdicts.value),
  })
  /** Makes the sheet one that was kept. */
  function reopen(kept: KeptSheet): void {
    kind.value = kept.kind
    order.value = kept.order
    showsNumbers.value = kept.numbers
    reference.value = kept.reference
    rolls.count.value = kept.rolls.count as (typeof COUNTS)[number]
    rolls.first.value = kept.rolls.first
    rolls.only.value = kept.rolls.only
    sweeps.columns.value = kept.columns as Sweep | null
    sweeps.rows.value = kept.rows as Sweep | null
    states.picked.value = kept.states
    turns.value = kept.turns as (typeof TURNS)[number]
    verdicts.value = new Map(Object.entries(kept.verdicts))
  }

  const { count, first, only, toggleDraw, drawing, more, back } = rolls
  const { settings, columns, rows, settingOf, sweepOver } = sweeps
  const { chosen: statesChosen, toggle: toggleState, problem: statesProblem } = states
  return {
    ...{ toKeep, reopen, kind, order, showsNumbers, gray, reference, numbers },
    ...{ count, first, only, toggleDraw, drawing, more, back },
    ...{ settings, columns, rows, settingOf, sweepOver },
    ...{ turns, states: states.states, statesChosen, toggleState, statesProblem },
    ...{ tiles, withNumbers, width, judge, taken, give, keep },
  }
})
