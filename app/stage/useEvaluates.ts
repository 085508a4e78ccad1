import { useLocalStorage } from '@vueuse/core'

/** Who evaluates looks: the graphics card, the processor, or whichever is faster here. */
export type Evaluates = 'either' | 'card' | 'workers'

/** Most threads that evaluate for the stage. */
const MOST_THREADS = 4

/** Who evaluates for the stage, and with how many threads. */
export function useEvaluates() {
  const evaluates = useLocalStorage<Evaluates>('ubblet evaluates', 'either')
  /** Who does at present. */
  const evaluatedBy = ref<'card' | 'workers'>('workers')
  const threads = Math.max(1, Math.min(MOST_THREADS, globalThis.navigator?.hardwareConcurrency ?? 2))
  /**
   * Who evaluates: as the address asks (`?stage=cpu` or `?stage=gpu`), as is chosen, or as suits a graphics card that
   * is none.
   */
  function backend(software: boolean): 'card' | 'workers' {
    const asked = { cpu: 'workers', gpu: 'card' }[String(useRouter().currentRoute.value.query.stage)] as
      | 'card'
      | 'workers'
      | undefined
    if (asked) return asked
    if (evaluates.value !== 'either') return evaluates.value
    return software ? 'workers' : 'card'
  }
  return { evaluates, evaluatedBy, threads, backend }
}
