import { watchDebounced } from '@vueuse/core'
import { check, type Finding } from '#core/graph/check'
import { nodeOf } from '#core/graph/find'
import type { MeshTables } from '#core/evaluate/tables'
import type { Picture } from '#core/evaluate/pictures'
import { evaluator } from '../shared/evaluation'
import { handsRest } from '../stage/turns'
import type { ProjectState } from './useProjectState'

/**
 * The stage has a new state first; then the checks follow, at this distance at the latest. Where they were given up for
 * something in a hurry, they are tried again after so long. In milliseconds.
 */
const CHECK_AFTER = 100
const CHECK_AGAIN = 1000
const CHECK_WAITS = 5000

/** What the checks say of the look: at once what the document tells, and after a rest what only its values tell. */
export function useFindings(
  { look, preparation }: ProjectState,
  tables: Readonly<Ref<MeshTables | undefined>>,
  pictures: Readonly<Ref<readonly Picture[]>>,
) {
  /**
   * The look as it was when the hands last rested so many milliseconds. Not made reactive inside: it goes to workers
   * and keys caches.
   */
  function rests(debounce: number) {
    const rested = shallowRef(look.value)
    watchDebounced(
      look,
      now => {
        rested.value = now
      },
      { debounce },
    )
    return rested
  }
  // The checks follow when the hands rest: while a number is dragged they would cost every frame.
  const rested = rests(120)
  const told = computed<Finding[]>(() =>
    check(
      rested.value,
      tables.value
        ? {
            maps: [...tables.value.mesh.maps, ...preparation.value.maps].map(m => m.name),
            sets: preparation.value.sets.map(s => s.name),
            pictures: pictures.value.map(p => p.name),
          }
        : {},
    ),
  )
  // What only values tell comes from the worker, when the hands have rested longer.
  const measured = shallowRef<Finding[]>([])
  const texels = ref(1024)
  const resting = rests(900)
  let checking = false
  let wanted = 0
  async function checkOnMesh(): Promise<void> {
    wanted++
    if (checking) return
    checking = true
    try {
      for (let done = 0; tables.value && done !== wanted;) {
        done = wanted
        await new Promise(resolve => setTimeout(resolve, CHECK_AFTER))
        await handsRest(CHECK_WAITS)
        if (!tables.value) break
        const found = await evaluator.check(resting.value, texels.value)
        if (found) measured.value = found
        // A look that has changed is checked when it rests again.
        else if (resting.value === look.value) {
          done--
          await new Promise(resolve => setTimeout(resolve, CHECK_AGAIN))
        }
      }
    } finally {
      checking = false
    }
  }
  watch([resting, tables, texels], () => void checkOnMesh())
  /** What was measured stays until it is measured again, as long as its node is there. */
  const findings = computed<Finding[]>(() => [
    ...told.value,
    ...measured.value.filter(f => !f.node || nodeOf(rested.value, f.node)),
  ])
  function forget(): void {
    measured.value = []
  }
  return { findings, texels, forget }
}
