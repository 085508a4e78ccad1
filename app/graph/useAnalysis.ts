import type { Analysis } from '#core/evaluate/analysis'
import type { Pace } from '#core/evaluate/gather'
import { evaluator } from '../shared/evaluation'
import { handsRest, inTurn } from '../stage/turns'

/** Pictures of data follow a drag at this distance at the latest, in milliseconds. */
const FOLLOWS = 250
/** The first picture goes before the first pictures of data, for so long. */
const FIRST = 10_000

/** How long nothing changes before swatches are made smooth, in milliseconds. */
const RESTS = 450
let resting: ReturnType<typeof setTimeout> | undefined
/** Device pixels for each CSS pixel of a swatch. */
const swatchRatio = (): number => (devicePixelRatio > 1 ? 2 : 1)

const analysis = shallowRef<Analysis | null>(null)
let running = false
let again = false

/** Swatches, port means and readings of the open look; the newest state wins while the worker is busy. */
export function useAnalysis() {
  const project = useProject()
  const looking = useLooking()
  async function refresh(): Promise<void> {
    if (running) {
      again = true
      return
    }
    running = true
    try {
      do {
        again = false
        if (!project.tables) analysis.value = null
        else {
          await inTurn(() => analyze('hasty'), looking.standing?.step ? FOLLOWS : FIRST)
        }
      } while (again)
      refineSoon()
    } finally {
      running = false
    }
  }
  /** @returns whether it was done, and not given up for what was asked meanwhile */
  async function analyze(pace: Pace): Promise<boolean> {
    if (!project.tables) return true
    const focus = project.selected.length === 1 ? project.selected[0] : undefined
    const next = await evaluator.analyze(project.look, pace, focus, [...project.scope], swatchRatio())
    if (!next && pace === 'exact' && project.tables) return false
    // Only pictures that have changed arrive; the others stay the same objects.
    analysis.value = next && { ...next, swatches: { ...analysis.value?.swatches, ...next.swatches } }
    return true
  }
  function refineSoon(): void {
    clearTimeout(resting)
    resting = setTimeout(() => void refine(), RESTS)
  }
  /** What was found out hastily is found out exactly now, and pictures of data become smooth. */
  async function refine(): Promise<void> {
    if (running || !analysis.value) return
    await handsRest()
    if (running || !project.tables) return
    running = true
    let done = true
    try {
      done = await inTurn(() => analyze('exact'))
    } finally {
      running = false
    }
    if (again) return refresh()
    if (!done) return refineSoon()
    const seen = analysis.value
    if (!seen) return
    const swatches = await inTurn(() => evaluator.refine(swatchRatio()))
    if (!swatches) return refineSoon()
    if (analysis.value === seen && Object.keys(swatches).length)
      analysis.value = { ...seen, swatches: { ...seen.swatches, ...swatches } }
  }
  return { analysis, refresh }
}
