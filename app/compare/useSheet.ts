import { defineStore } from 'pinia'
import { hasSeed, reseed } from '#core/graph/recipe'
import type { Look } from '#core/graph/look'

/** How many tiles a sheet can have. */
export const COUNTS = [4, 9, 16, 25, 36, 64] as const
/** What somebody thinks of a tile. */
export type Verdict = 'starred' | 'aside'

/** A roll of the draws: by how much every seed is moved; 0 is the look as it is. */
export interface Roll {
  number: number
  verdict?: Verdict
}

/** The sheet of the Compare tab: rolls of the draws side by side, and what was thought of each. */
export const useSheet = defineStore('sheet', () => {
  const project = useProject()
  const count = ref<(typeof COUNTS)[number]>(16)
  /** The first roll of the sheet after the look as it is. */
  const first = ref(1)
  /** The node that is rolled alone; none where all are. */
  const only = ref('')
  const verdicts = ref(new Map<number, Verdict>())
  const starredFirst = ref(false)

  const drawing = computed(() => project.look.nodes.filter(hasSeed))
  const rolled = computed(() => (drawing.value.some(n => n.id === only.value) ? new Set([only.value]) : undefined))
  const rolls = computed<Roll[]>(() => {
    const list: Roll[] = [{ number: 0 }]
    for (let i = 0; i < count.value - 1; i++) list.push({ number: first.value + i })
    const judged = list.map(r => ({ ...r, verdict: verdicts.value.get(r.number) }))
    const rank = { starred: 0, none: 1, aside: 2 }
    const sorted = starredFirst.value
      ? judged.toSorted((a, b) => rank[a.verdict ?? 'none'] - rank[b.verdict ?? 'none'] || a.number - b.number)
      : judged
    return sorted as Roll[]
  })

  const lookOf = (roll: number): Look => reseed(project.look, roll, rolled.value)

  /** Gives a tile a verdict, or takes the same one back. */
  function judge(roll: number, verdict: Verdict): void {
    const next = new Map(verdicts.value)
    if (next.get(roll) === verdict) next.delete(roll)
    else next.set(roll, verdict)
    verdicts.value = next
  }
  /** Makes a roll the look, as one step back. Verdicts follow: the rolls are counted from it now. */
  function keep(roll: number): void {
    if (!roll) return
    const only = rolled.value
    project.edit(`Keep roll ${roll}`, look => reseed(look, roll, only))
    verdicts.value = new Map([...verdicts.value].map(([r, v]) => [r - roll, v] as const).filter(([r]) => r >= 0))
  }
  const more = (): void => {
    first.value += count.value - 1
  }
  const back = (): void => {
    first.value = Math.max(1, first.value - (count.value - 1))
  }
  // Another project begins anew.
  watch(
    () => project.meta?.id,
    () => {
      first.value = 1
      only.value = ''
      verdicts.value = new Map()
    },
  )

  return { count, first, only, starredFirst, drawing, rolls, lookOf, judge, keep, more, back }
})
