import type { Command } from '../keys'
import type { Bench, Conditions } from './bench'

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

/** What is selected in the graph. */
export const nodeCommands = (bench: Bench, is: Conditions): Command[] => [
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

/** Recipes and echoes. */
export const recipeCommands = (bench: Bench, is: Conditions): Command[] => [
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

/** The strip of steps. */
export const stepCommands = (bench: Bench, is: Conditions): Command[] => [
  {
    group: 'Steps',
    title: 'Add a step',
    keys: ['S'],
    words: 'layer',
    can: is.building,
    run: () => bench.strip.value?.add(),
  },
]
