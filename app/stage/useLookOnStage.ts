import { evaluator } from '../shared/evaluation'
import { CostlyValues } from './costlyValues'
import { shapeOf } from './shownLook'
import type { Stage } from './stage'
import { handsRest } from './turns'

/**
 * Has the stage take in the mesh and the look, and what the worker finds for it of the whole surface.
 * @param taken is told how many milliseconds a look took to be taken in
 */
export function useLookOnStage(stage: Readonly<Ref<Stage | undefined>>, taken: (ms: number) => void) {
  const project = useProject()
  const looking = useLooking()
  /** The channels that every finish has, and those that this look sets. */
  const channels = shallowRef<ReadonlySet<string>>(new Set())

  watch([stage, () => project.tables], () => {
    if (stage.value && project.tables) stage.value.setMesh(project.tables)
  })
  /** A look of another shape is taken in after whatever else a key or a click has changed is on the screen. */
  let taking: ReturnType<typeof setTimeout> | undefined
  watch([stage, () => project.tables, () => looking.shown, () => looking.probeKey], () => {
    clearTimeout(taking)
    if (!stage.value || !project.tables) return
    if (stage.value.fits(looking.shown, looking.probeKey)) takeLook()
    else taking = setTimeout(takeLook)
  })
  function takeLook(): void {
    if (!stage.value || !project.tables) return
    const from = performance.now()
    const waits = stage.value.setLook(looking.shown, looking.probeKey)
    channels.value = stage.value.channels
    taken(performance.now() - from)
    clearTimeout(resting)
    if (!waits) lagging.value = false
    else {
      costly.soon()
      resting = setTimeout(() => costly.exactly(), REST)
    }
  }

  // Coverage, softening and the like come from the worker. While the hands move they follow as fast as they can, from
  // fewer points; when they rest, from all. The stage shows the last good state meanwhile, and says so.
  const REST = 250
  const EXACT_WAITS = 8000
  const lagging = ref(false)
  let resting: ReturnType<typeof setTimeout> | undefined
  const costly = new CostlyValues({
    seen() {
      const { tables } = project
      const { shown: look, probeKey: port } = looking
      return stage.value && tables ? { tables, shape: shapeOf(look, port), look, port } : null
    },
    find: ({ look, port }, pace, all) =>
      pace === 'exact' ? evaluator.gatherUnhurried(look, all, port) : evaluator.gather(look, all, port),
    give: (shape, values) => stage.value?.give(shape, values),
    rests: () => handsRest(EXACT_WAITS),
    lags(on) {
      lagging.value = on
    },
  })
  onBeforeUnmount(() => clearTimeout(taking))

  return { channels, lagging, costly }
}
