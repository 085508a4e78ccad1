import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { Look } from '#core/graph/look'
import { nodeOf } from '#core/graph/find'
import { soloed } from '#core/graph/strip'
import type { Surroundings } from '#core/trace/light'
import type { RigName } from '#core/trace/rigs'
import type { View } from './lightPass'
import type { Eye } from './stage'
import type { Standing } from './standing'
import { useEvaluates } from './useEvaluates'
import { useProbe } from './useProbe'

/**
 * A second view beside the first: how it looks, in what light (null: the same), and whether it follows the first
 * camera.
 */
export interface SecondView {
  eye: Eye
  rig: RigName | null
  linked: boolean
}
export type Tone = 'asIs' | 'fitted' | 'falseColors'

/** How the look is looked at on the stage: nothing of this is part of the document. */
export const useLooking = defineStore('looking', () => {
  const project = useProject()
  const view = ref<View>('finished')
  const rig = ref<RigName | 'own'>('overcast')
  /** The picture of surroundings that lights the stage where the rig is one's own. */
  const ownLight = shallowRef<{ name: string; picture: Surroundings }>()
  /** Of the light, in degrees and as a factor. */
  const turn = ref(0)
  const brightness = ref(1)
  const eye = ref<Eye>('perspective')
  const edges = ref(false)
  const balls = ref(false)
  const spinning = ref(false)

  /** For the eyes alone: none of it is part of a delivery. */
  const switches = useLocalStorage(
    'ubblet stage',
    { shadows: true, contact: true, ground: true, smooth: true },
    { mergeDefaults: true },
  )
  const second = shallowRef<SecondView | null>(null)
  /** How the picture stands. */
  const standing = shallowRef<Standing>()
  const tone = ref<Tone>('asIs')
  const { probe, probeKey, look } = useProbe()

  /** The step that is seen alone over the base. */
  const solo = ref<string | null>(null)
  const shown = computed<Look>(() =>
    solo.value && nodeOf(project.look, solo.value) ? soloed(project.look, solo.value) : project.look,
  )

  /** A state of the look that is kept beside the one that is worked on, and where on the stage it ends. */
  const kept = shallowRef<Look | null>(null)
  const wipe = ref(0.5)
  const keep = (): void => {
    kept.value = kept.value ? null : project.look
  }
  // A state that is kept stays for the other looks of the project, to be seen beside them.
  watch(
    () => project.lookId,
    () => {
      solo.value = null
    },
  )
  watch(
    () => project.meta?.id,
    () => {
      kept.value = probe.value = null
      spinning.value = false
      if (rig.value === 'own') rig.value = 'overcast'
    },
  )

  /** Asks for a color from the stage or a picture: who asked, and what to do with it. */
  const dropper = shallowRef<{ label: string; take: (color: [number, number, number]) => void } | null>(null)

  return {
    ...{ view, rig, ownLight, turn, brightness, eye, edges, balls, spinning, switches, second, standing, tone },
    ...useEvaluates(),
    ...{ probe, probeKey, look },
    ...{ solo, shown, kept, wipe, keep, dropper },
  }
})
