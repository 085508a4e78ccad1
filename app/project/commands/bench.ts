import type { Ref, ShallowRef } from 'vue'
import type FileChooser from '../../shared/FileChooser.vue'
import type GraphEditor from '../../graph/GraphEditor.vue'
import type StageView from '../../stage/StageView.vue'
import type StepStrip from '../../steps/StepStrip.vue'

export const TABS = [
  { key: 'mesh', title: 'Mesh' },
  { key: 'build', title: 'Build' },
  { key: 'compare', title: 'Compare' },
  { key: 'deliver', title: 'Deliver' },
] as const
export type Tab = (typeof TABS)[number]['key']

type Held<C extends abstract new (...args: never) => unknown> = Readonly<ShallowRef<InstanceType<C> | null>>

/** What the page of a project consists of, as far as commands reach it. */
export interface Bench {
  tab: Ref<Tab>
  /** Whether reference pictures lie where the graph is. */
  board: Ref<boolean>
  finding: Ref<boolean>
  help: Ref<boolean>
  connecting: Ref<boolean>
  /** Whether the stage has the whole window. */
  alone: Ref<boolean>
  problem: Ref<string>
  graph: Held<typeof GraphEditor>
  strip: Held<typeof StepStrip>
  stage: Held<typeof StageView>
  lookChooser: Held<typeof FileChooser>
  mayLock: Readonly<Ref<boolean>>
  toggleLock: () => Promise<void>
  showFinding: () => void
}

/** When something can be done. */
export interface Conditions {
  building: () => boolean
  onMesh: () => boolean
  /** Whether nodes are selected: some, or at least so many. */
  some: () => boolean
  several: (n: number) => () => boolean
  parts: () => boolean
}
export function conditionsOf({ tab, board, graph }: Bench): Conditions {
  const building = (): boolean => tab.value === 'build' && !board.value
  return {
    building,
    onMesh: () => tab.value === 'mesh',
    some: () => building() && useProject().selected.length > 0,
    several: n => () => building() && (graph.value?.chosen.length ?? 0) >= n,
    parts: () => useMesh().selected.size > 0,
  }
}
