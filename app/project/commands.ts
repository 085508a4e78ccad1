import type { Ref, ShallowRef } from 'vue'
import { CHANNELS } from '#core/graph/types'
import { RIGS, type RigName } from '#core/trace/rigs'
import type FileChooser from '../shared/FileChooser.vue'
import type GraphEditor from '../graph/GraphEditor.vue'
import type StageView from '../stage/StageView.vue'
import type StepStrip from '../steps/StepStrip.vue'
import type { Command } from './keys'
import { useLooks } from './useLooks'
import { VIEWS } from '../stage/lightPass'

export const TABS = [
  { key: 'mesh', title: 'Mesh' },
  { key: 'build', title: 'Build' },
  { key: 'compare', title: 'Compare' },
  { key: 'deliver', title: 'Deliver' },
] as const
/** What the sheet of the Compare tab takes itself, while it has the focus. */
const SHEET_KEYS = [
  ['Keep a roll', 'Enter'],
  ['Keep a roll and build on', 'Shift+Enter'],
  ['Show a roll beside the look', 'Space'],
  ['Star a roll', 'S'],
  ['Set a roll aside', 'X'],
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
interface Conditions {
  building: () => boolean
  onMesh: () => boolean
  /** Whether nodes are selected: some, or at least so many. */
  some: () => boolean
  several: (n: number) => () => boolean
  parts: () => boolean
}
function conditionsOf({ tab, board, graph }: Bench): Conditions {
  const building = (): boolean => tab.value === 'build' && !board.value
  return {
    building,
    onMesh: () => tab.value === 'mesh',
    some: () => building() && useProject().selected.length > 0,
    several: n => () => building() && (graph.value?.chosen.length ?? 0) >= n,
    parts: () => useMesh().selected.size > 0,
  }
}

async function toClipboard({ graph, problem }: Bench): Promise<void> {
  try {
    await navigator.clipboard.writeText(graph.value!.clip())
  } catch {
    problem.value = 'The browser does not let the page write to the clipboard; Ctrl+C does.'
  }
}
async function fromClipboard({ graph, problem }: Bench): Promise<void> {
  try {
    problem.value = graph.value!.paste(await navigator.clipboard.readText()) ?? ''
  } catch {
    problem.value = 'The browser does not let the page read the clipboard; Ctrl+V does.'
  }
}

/** The work as a whole. */
function workCommands(bench: Bench): Command[] {
  const project = useProject()
  const colorMode = useColorMode()
  const looks = useLooks()
  const mayAdd = (): boolean => Boolean(project.meta) && !project.readOnly
  return [
    {
      group: 'Work',
      title: 'Find an action',
      keys: ['/'],
      run: () => {
        bench.finding.value = true
      },
    },
    {
      group: 'Work',
      title: 'All keys',
      keys: ['?'],
      words: 'help shortcuts',
      run: () => {
        bench.help.value = true
      },
    },
    {
      group: 'Work',
      title: 'Undo',
      keys: ['Ctrl+Z'],
      words: 'back',
      can: () => Boolean(project.undoLabel),
      run: () => project.undo(),
    },
    {
      group: 'Work',
      title: 'Redo',
      keys: ['Ctrl+Shift+Z', 'Ctrl+Y'],
      words: 'forth again',
      can: () => Boolean(project.redoLabel),
      run: () => project.redo(),
    },
    {
      group: 'Work',
      title: 'Lock or unlock the project',
      words: 'protect freeze approve',
      can: () => bench.mayLock.value && !project.viewed,
      run: () => void bench.toggleLock(),
    },
    ...(
      [
        ['Next look', 'Shift+PageDown', 1],
        ['Previous look', 'Shift+PageUp', -1],
      ] as const
    ).map(
      ([title, keys, by]): Command => ({
        group: 'Work',
        title,
        keys: [keys],
        words: 'switch another',
        can: () => looks.shown.value.length > 1,
        run: () => void looks.step(by),
      }),
    ),
    { group: 'Work', title: 'New look', can: mayAdd, run: () => void looks.addEmpty() },
    {
      group: 'Work',
      title: 'Duplicate this look',
      words: 'copy',
      can: mayAdd,
      run: () => {
        const current = looks.shown.value.find(l => l.id === project.lookId)
        if (current) void looks.duplicate(current)
      },
    },
    { group: 'Work', title: 'Save now', keys: ['Ctrl+S'], everywhere: true, run: () => void project.save() },
    ...SHEET_KEYS.map(
      ([title, keys]): Command => ({
        group: 'Compare',
        title,
        keys: [keys],
        told: true,
        can: () => bench.tab.value === 'compare',
        run: () => {},
      }),
    ),
    ...TABS.map(
      (t): Command => ({
        group: 'Work',
        title: `Go to ${t.title}`,
        words: 'tab',
        run: () => {
          bench.tab.value = t.key
        },
      }),
    ),
    {
      group: 'Work',
      title: 'Next finding of the checks',
      keys: ['V'],
      words: 'problem warning error check',
      can: () => project.findings.length > 0,
      run: bench.showFinding,
    },
    {
      group: 'Work',
      title: 'Light or dark theme',
      words: 'appearance',
      run: () => {
        colorMode.preference = colorMode.value === 'dark' ? 'light' : 'dark'
      },
    },
    {
      group: 'Work',
      title: 'Bring in a look or a material document',
      words: 'import open materialx mtlx json',
      run: () => bench.lookChooser.value?.open(),
    },
    {
      group: 'Work',
      title: 'Reference pictures',
      keys: ['D'],
      words: 'pinboard mood collect palette',
      can: () => bench.tab.value === 'build',
      run: () => {
        bench.board.value = !bench.board.value
      },
    },
  ]
}

/** What is selected in the graph. */
const nodeCommands = (bench: Bench, is: Conditions): Command[] => [
  {
    group: 'Graph',
    title: 'Add a node',
    keys: ['A'],
    words: 'new create',
    can: is.building,
    run: () => bench.graph.value?.openMenu(),
  },
  {
    group: 'Graph',
    title: 'Put a node into the wire',
    can: () => is.building() && Boolean(bench.graph.value?.someWires),
    run: () => bench.graph.value?.openInWire(),
  },
  {
    group: 'Graph',
    title: 'Connect the selected node',
    keys: ['C'],
    words: 'wire link',
    can: is.several(1),
    run: () => {
      bench.connecting.value = true
    },
  },
  {
    group: 'Graph',
    title: 'Another kind for the selected node',
    keys: ['X'],
    words: 'swap replace change exchange',
    can: is.some,
    run: () => bench.graph.value?.exchange(),
  },
  {
    group: 'Graph',
    title: 'Switch off or on',
    keys: ['O'],
    words: 'disable mute bypass enable',
    can: is.some,
    run: () => bench.graph.value?.toggle(),
  },
  {
    group: 'Graph',
    title: 'Show on the stage what the node gives out',
    keys: ['P'],
    words: 'probe preview look',
    can: is.some,
    run: () => bench.graph.value?.probe(),
  },
  {
    group: 'Graph',
    title: 'Remove what is selected',
    keys: ['Delete', 'Backspace'],
    words: 'erase',
    can: is.building,
    run: () => bench.graph.value?.removeSelected(),
  },
  { group: 'Graph', title: 'Duplicate', keys: ['Ctrl+D'], can: is.some, run: () => bench.graph.value?.duplicate() },
  { group: 'Graph', title: 'Copy', keys: ['Ctrl+C'], told: true, can: is.some, run: () => void toClipboard(bench) },
  {
    group: 'Graph',
    title: 'Cut',
    keys: ['Ctrl+X'],
    told: true,
    can: is.some,
    run: () => void toClipboard(bench).then(() => bench.graph.value?.removeSelected()),
  },
  {
    group: 'Graph',
    title: 'Paste',
    keys: ['Ctrl+V'],
    told: true,
    can: is.building,
    run: () => void fromClipboard(bench),
  },
  {
    group: 'Graph',
    title: 'Select all nodes',
    keys: ['Ctrl+A'],
    can: is.building,
    run: () => bench.graph.value?.selectAll(),
  },
]

/** How the graph lies and is seen. */
const layoutCommands = (bench: Bench, is: Conditions): Command[] => [
  {
    group: 'Graph',
    title: 'Lay out in order',
    keys: ['L'],
    words: 'tidy layout arrange clean',
    can: is.building,
    run: () => bench.graph.value?.tidy(),
  },
  ...(
    [
      ['left', 'Line up at the left'],
      ['middle', 'Line up in a column'],
      ['right', 'Line up at the right'],
      ['top', 'Line up at the top'],
      ['center', 'Line up in a row'],
      ['bottom', 'Line up at the bottom'],
    ] as const
  ).map(
    ([side, title]): Command => ({
      group: 'Graph',
      title,
      words: 'align',
      can: is.several(2),
      run: () => bench.graph.value?.align(side),
    }),
  ),
  {
    group: 'Graph',
    title: 'Spread evenly across',
    words: 'distribute horizontal',
    can: is.several(3),
    run: () => bench.graph.value?.distribute(0),
  },
  {
    group: 'Graph',
    title: 'Spread evenly down',
    words: 'distribute vertical',
    can: is.several(3),
    run: () => bench.graph.value?.distribute(1),
  },
  {
    group: 'Graph',
    title: 'Show the whole graph',
    keys: ['G'],
    words: 'zoom fit',
    can: is.building,
    run: () => bench.graph.value?.fit(),
  },
  {
    group: 'Graph',
    title: 'Show the selected nodes',
    keys: ['Shift+G'],
    words: 'zoom fit',
    can: is.building,
    run: () => bench.graph.value?.fitSelection(),
  },
  {
    group: 'Graph',
    title: 'Overview of the graph',
    keys: ['M'],
    words: 'minimap map',
    can: is.building,
    run: () => {
      bench.graph.value!.minimap = !bench.graph.value!.minimap
    },
  },
  {
    group: 'Graph',
    title: 'Add a note',
    keys: ['N'],
    words: 'comment text',
    can: () => is.building() && !useProject().scope.length,
    run: () => bench.graph.value?.write(),
  },
  {
    group: 'Graph',
    title: 'Add a frame',
    keys: ['Shift+N'],
    words: 'box comment',
    can: () => is.building() && !useProject().scope.length,
    run: () => bench.graph.value?.frame(),
  },
]

/** Recipes and echoes. */
const recipeCommands = (bench: Bench, is: Conditions): Command[] => [
  {
    group: 'Graph',
    title: 'Fold into a recipe',
    keys: ['R'],
    words: 'group',
    can: () => is.building() && Boolean(bench.graph.value?.foldable),
    run: () => bench.graph.value?.fold(),
  },
  {
    group: 'Graph',
    title: 'Unfold',
    keys: ['Shift+R'],
    words: 'ungroup recipe',
    can: () => is.building() && Boolean(bench.graph.value?.selectedRecipes.length),
    run: () => bench.graph.value?.unfold(),
  },
  {
    group: 'Graph',
    title: 'Open the recipe',
    keys: ['Enter'],
    words: 'inside',
    can: () => is.building() && bench.graph.value?.selectedRecipes.length === 1,
    run: () => bench.graph.value?.open(),
  },
  {
    group: 'Graph',
    title: 'Close the recipe',
    keys: ['Escape'],
    can: () => is.building() && useProject().scope.length > 0,
    run: () => bench.graph.value?.close(),
  },
  {
    group: 'Graph',
    title: 'Replace the wire by an echo',
    keys: ['E'],
    can: () => is.building() && Boolean(bench.graph.value?.someWires),
    run: () => bench.graph.value?.echo(),
  },
]

/** How the stage shows the look. */
function viewCommands(bench: Bench, is: Conditions): Command[] {
  const looking = useLooking()
  return [
    {
      group: 'Stage',
      title: 'The stage alone, or with everything around it',
      keys: ['Q'],
      words: 'full screen maximize large',
      run: () => {
        bench.alone.value = !bench.alone.value
      },
    },
    {
      group: 'Stage',
      title: 'Everything around the stage again',
      keys: ['Escape'],
      can: () => bench.alone.value,
      run: () => {
        bench.alone.value = false
      },
    },
    {
      group: 'Stage',
      title: 'Two views side by side, or one',
      keys: ['Y'],
      words: 'split second camera compare',
      can: () => !is.onMesh(),
      run: () => {
        looking.second = looking.second ? null : { eye: 'front', rig: null, linked: false }
      },
    },
    {
      group: 'Stage',
      title: 'Edges of triangles',
      keys: ['W'],
      words: 'wireframe',
      run: () => {
        looking.edges = !looking.edges
      },
    },
    {
      group: 'Stage',
      title: 'Turn slowly, or stop',
      keys: ['T'],
      words: 'turntable rotate spin',
      run: () => {
        looking.spinning = !looking.spinning
      },
    },
    {
      group: 'Stage',
      title: 'Gray and mirror ball',
      keys: ['B'],
      words: 'chrome reference',
      run: () => {
        looking.balls = !looking.balls
      },
    },
    ...Object.entries(RIGS).map(
      ([key, r]): Command => ({
        group: 'Stage',
        title: `Light: ${r.title}`,
        words: 'rig environment',
        run: () => {
          looking.rig = key as RigName
        },
      }),
    ),
    ...(
      [
        ['perspective', 'Look with perspective'],
        ['front', 'Look from the front'],
        ['side', 'Look from the side'],
        ['top', 'Look from above'],
      ] as const
    ).map(
      ([eye, title]): Command => ({
        group: 'Stage',
        title,
        words: 'camera orthographic',
        run: () => {
          looking.eye = eye
        },
      }),
    ),
    ...VIEWS.map(
      (v, i): Command => ({
        group: 'Stage',
        title: `Show ${i ? CHANNELS[v as keyof typeof CHANNELS].title.toLowerCase() : 'the finished surface'}`,
        keys: [String(i + 1)],
        words: 'channel',
        can: () => !is.onMesh(),
        run: () => {
          looking.probe = null
          looking.view = v
        },
      }),
    ),
  ]
}

/** Parts, and what is kept beside the look. */
function partCommands(bench: Bench, is: Conditions): Command[] {
  const project = useProject()
  const mesh = useMesh()
  const looking = useLooking()
  return [
    {
      group: 'Stage',
      title: 'Fit the selected parts, or the whole mesh',
      keys: ['F'],
      words: 'zoom frame camera',
      run: () => bench.stage.value?.frame(),
    },
    {
      group: 'Stage',
      title: 'Isolate the selected parts',
      keys: ['I'],
      words: 'only alone',
      can: is.parts,
      run: () => mesh.isolate(),
    },
    {
      group: 'Stage',
      title: 'Hide the selected parts',
      keys: ['H'],
      can: is.parts,
      run: () => mesh.hide([...mesh.hidden, ...mesh.selected]),
    },
    ...(['material', 'size', 'name'] as const).map(
      (by): Command => ({
        group: 'Stage',
        title: `Select alike by ${by}`,
        words: 'similar same parts',
        can: is.parts,
        run: () => mesh.alike(by),
      }),
    ),
    { group: 'Stage', title: 'Grow to neighbors', words: 'select more', can: is.parts, run: () => mesh.grow() },
    {
      group: 'Stage',
      title: 'Show all parts',
      keys: ['Shift+H'],
      words: 'unhide',
      can: () => mesh.hidden.size > 0,
      run: () => mesh.hide([]),
    },
    {
      group: 'Stage',
      title: 'Let go of the selected parts',
      keys: ['Escape'],
      words: 'deselect',
      can: () => is.parts() && !(is.building() && project.scope.length),
      run: () => mesh.select([]),
    },
    {
      group: 'Stage',
      title: 'UV layout',
      keys: ['U'],
      can: () => is.onMesh() && Boolean(project.tables?.mesh.uvs),
      run: () => {
        mesh.flat = !mesh.flat
      },
    },
    {
      group: 'Stage',
      title: 'Keep this state, or forget it',
      keys: ['K'],
      words: 'compare wipe before after',
      can: () => Boolean(project.tables),
      run: () => looking.keep(),
    },
  ]
}

/** The strip of steps. */
const stepCommands = (bench: Bench, is: Conditions): Command[] => [
  {
    group: 'Steps',
    title: 'Add a step',
    keys: ['S'],
    words: 'layer',
    can: is.building,
    run: () => bench.strip.value?.add(),
  },
]

/** What the context menus of the graph and the stage offer, by the titles of commands. */
export const MENUS = {
  node: [
    ['Show on the stage what the node gives out', 'Switch off or on', 'Connect the selected node'],
    ['Another kind for the selected node', 'Open the recipe', 'Fold into a recipe', 'Unfold'],
    ['Line up at the left', 'Line up in a row', 'Spread evenly across', 'Spread evenly down'],
    ['Duplicate', 'Copy', 'Cut', 'Remove what is selected'],
  ],
  wire: [['Put a node into the wire', 'Replace the wire by an echo', 'Remove what is selected']],
  canvas: [
    ['Add a node', 'Paste', 'Add a note', 'Add a frame'],
    ['Lay out in order', 'Show the whole graph', 'Overview of the graph', 'Select all nodes', 'Close the recipe'],
  ],
  part: [
    ['Fit the selected parts, or the whole mesh', 'Isolate the selected parts', 'Hide the selected parts'],
    ['Select alike by material', 'Select alike by size', 'Select alike by name', 'Grow to neighbors'],
    ['Show all parts', 'Let go of the selected parts', 'Keep this state, or forget it'],
  ],
} as const

/**
 * Everything that can be done on the page of a project: menus, the list of keys and the keys themselves are made of it.
 */
export function commandsOf(bench: Bench): Command[] {
  const is = conditionsOf(bench)
  return [workCommands, nodeCommands, layoutCommands, recipeCommands, viewCommands, partCommands, stepCommands].flatMap(
    make => make(bench, is),
  )
}
