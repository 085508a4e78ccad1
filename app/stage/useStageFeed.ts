import { evaluator } from '../shared/evaluation'
import { shapeOf } from './shownLook'
import type { Inspected, Stage } from './stage'

/** What the Mesh tab shows of the mesh. */
function inspected(): Inspected {
  const mesh = useMesh()
  const { shownMap, shownSurface, span, falseColors } = mesh
  const { shown } = mesh
  if (shown.kind === 'surface') {
    if (!shownSurface) return { kind: 'level', level: 'part' }
    const { picture, component } = shownSurface
    return { kind: 'surface', picture, lane: component, span, falseColors }
  }
  if (shown.kind !== 'map') return shown
  if (!shownMap) return { kind: 'level', level: 'part' }
  const { map, component } = shownMap
  return { kind: 'values', values: map.values, stride: map.components, offset: component, span, falseColors }
}

/**
 * Has the stage follow what is shown: its mesh, view, light, switches, the kept state and the parts.
 * @param mode what the stage is for
 * @param costly values that the worker sends for the stage's own look
 */
export function useStageFeed(
  stage: Readonly<Ref<Stage | undefined>>,
  mode: () => 'look' | 'mesh',
  costly: { forget(): void },
): void {
  const project = useProject()
  const mesh = useMesh()
  const looking = useLooking()
  const { analysis } = useAnalysis()
  const colorMode = useColorMode()
  const { view } = storeToRefs(looking)

  // What is shown of it, and in what light.
  const seen = computed(() => looking.probe && analysis.value?.ports[`${looking.probe.node}/${looking.probe.port}`])
  watch([stage, view, () => looking.tone, seen, () => looking.probe], () => {
    const { low = 0, high = 1 } = seen.value ?? {}
    stage.value?.setView(looking.probe ? 'finished' : view.value, {
      span: looking.tone === 'asIs' ? [0, 1] : [low, high],
      falseColors: looking.tone === 'falseColors',
    })
  })
  watch([stage, () => looking.rig, () => looking.ownLight], () => {
    if (looking.rig === 'own') stage.value?.setPictureRig(looking.ownLight!.picture)
    else stage.value?.setRig(looking.rig)
  })
  // While the mesh is on its way.
  watch([stage, () => project.meta?.mesh, () => looking.shown], () => {
    if (stage.value && project.meta?.mesh && !project.tables) stage.value.expect(looking.shown)
  })
  watch([stage, () => looking.turn, () => looking.brightness], () =>
    stage.value?.setLight(looking.turn, looking.brightness),
  )
  watch([stage, () => looking.eye], () => stage.value?.setEye(looking.eye))
  watch([stage, () => looking.second], () => stage.value?.setSecond(looking.second))
  watch([stage, () => ({ ...looking.switches })], () => stage.value?.setSwitches({ ...looking.switches }))
  watch([stage, () => looking.balls, () => looking.edges, () => looking.spinning, () => mode()], () => {
    if (!stage.value) return
    stage.value.showsBalls = looking.balls && mode() === 'look'
    stage.value.showsEdges = looking.edges
    stage.value.spinning = looking.spinning
  })
  // The kept state is evaluated once; it changes only when the mesh does.
  watch([stage, () => looking.kept, () => project.tables], async () => {
    const { kept } = looking
    const take = stage.value?.keep(kept)
    if (!kept || !take) return
    const values = await evaluator.gatherOther(kept, 'exact')
    costly.forget()
    if (looking.kept === kept) take(shapeOf(kept), values)
  })
  watch([stage, () => looking.wipe], () => stage.value?.setWipe(looking.wipe))
  watch(
    [stage, () => colorMode.value],
    () => {
      const css = getComputedStyle(document.documentElement)
      stage.value?.setBackground(css.getPropertyValue('--ub-stage').trim())
      stage.value?.setAccent(css.getPropertyValue('--ub-accent').trim())
    },
    { flush: 'post' },
  )
  watch(
    [
      ...[stage, mode, () => mesh.shown, () => mesh.shownMap, () => mesh.shownSurface],
      ...[() => mesh.falseColors, () => mesh.span, () => project.tables],
    ],
    () => {
      if (stage.value && project.tables) stage.value.setInspected(mode() === 'look' ? null : inspected())
    },
  )
  watch([stage, mode, () => mesh.cage, () => project.tables], () => {
    if (stage.value && project.tables) stage.value.setCage(mode() === 'mesh' ? mesh.cage : undefined)
  })
  watch([stage, () => mesh.selected, () => mesh.hidden, () => project.tables, () => mode()], () =>
    stage.value?.setParts(mesh.selected, mesh.hidden),
  )
  watch([stage, () => mesh.flat, mode, () => project.opened], async () => {
    const flat = mesh.flat && mode() === 'mesh'
    if (flat) await mesh.loadLayout()
    stage.value?.setFlat(flat, mesh.layout)
  })
}
