import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { Look } from '#core/graph/look'
import { nodeOf } from '#core/graph/ports'
import { soloed } from '#core/graph/strip'
import type { Surroundings } from '#core/trace/light'
import type { RigName } from '#core/trace/rigs'
import type { View } from './lightPass'
import type { Eye } from './stage'
import type { Standing } from './standing'

/** Who evaluates looks: the graphics card, the processor, or whichever is faster here. */
export type Evaluates = 'either' | 'card' | 'workers'
/**
 * A second view beside the first: how it looks, in what light (null: the same), and whether it follows the first
 * camera.
 */
export interface SecondView {
  eye: Eye
  rig: RigName | null
  linked: boolean
}
/** Most threads that evaluate for the stage. */
const MOST_THREADS = 4

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
  const evaluates = useLocalStorage<Evaluates>('ubblet evaluates', 'either')
  /** Who does at present. */
  const evaluatedBy = ref<'card' | 'workers'>('workers')
  const threads = Math.max(1, Math.min(MOST_THREADS, globalThis.navigator?.hardwareConcurrency ?? 2))
  /**
   * Who evaluates: as the address asks (`?stage=cpu` or `?stage=gpu`), as is chosen, or as suits a graphics card that
   * is none.
   */
  function backend(software: boolean): 'card' | 'workers' {
    const asked = { cpu: 'workers', gpu: 'card' }[String(useRoute().query.stage)] as 'card' | 'workers' | undefined
    if (asked) return asked
    if (evaluates.value !== 'either') return evaluates.value
    return software ? 'workers' : 'card'
  }

  /** The port that is looked at in place of the result. */
  const probe = shallowRef<{ node: string; port: string } | null>(null)
  const tone = ref<Tone>('asIs')
  /** As the program names it: with the recipes that are open. */
  const probeKey = computed(() =>
    probe.value ? [...project.scope, probe.value.node, probe.value.port].join('/') : undefined,
  )
  watch(
    () => [project.page, project.scope] as const,
    ([page, scope], [, before]) => {
      if (probe.value && (scope !== before || !nodeOf(page, probe.value.node))) probe.value = null
    },
  )
  /** Looks at a port; at the same one again, back at the result. */
  function look(node: string, port: string): void {
    probe.value = probe.value?.node === node && probe.value.port === port ? null : { node, port }
  }

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
    view,
    rig,
    ownLight,
    turn,
    brightness,
    eye,
    edges,
    balls,
    spinning,
    switches,
    second,
    standing,
    evaluates,
    evaluatedBy,
    threads,
    backend,
    probe,
    tone,
    probeKey,
    look,
    solo,
    shown,
    kept,
    wipe,
    keep,
    dropper,
  }
})
