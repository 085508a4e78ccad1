import type { Analysis } from '#core/evaluate/analysis'
import { evaluator } from '../evaluation'

const analysis = shallowRef<Analysis | null>(null)
let running = false, again = false

/** Swatches, port means and readings of the open look; the newest state wins while the worker is busy. */
export function useAnalysis() {
  const project = useProject()
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
          const focus = project.selected.length === 1 ? project.selected[0] : undefined
          const next = await evaluator.analyze(project.look, focus, [...project.scope])
          // Only pictures that have changed arrive; the others stay the same objects.
          analysis.value = next && { ...next, swatches: { ...analysis.value?.swatches, ...next.swatches } }
        }
      } while (again)
    }
    finally {
      running = false
    }
  }
  return { analysis, refresh }
}
