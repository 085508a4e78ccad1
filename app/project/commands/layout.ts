import type { Command } from '../keys'
import type { Bench, Conditions } from './bench'

/** How the graph lies and is seen. */
export const layoutCommands = (bench: Bench, is: Conditions): Command[] => [
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
  ).map(([side, title]): Command => ({
    group: 'Graph',
    title,
    words: 'align',
    can: is.several(2),
    run: () => bench.graph.value?.align(side),
  })),
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
