import type { Command } from '../keys'
import { useLooks } from '../useLooks'
import { TABS, type Bench } from './bench'

/** What the sheet of the Compare tab takes itself, while it has the focus. */
const SHEET_KEYS = [
  ['Keep a roll', 'Enter'],
  ['Keep a roll and build on', 'Shift+Enter'],
  ['Show a roll beside the look', 'Space'],
  ['Star a roll', 'S'],
  ['Set a roll aside', 'X'],
] as const

/** The work as a whole. */
export function workCommands(bench: Bench): Command[] {
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
    ).map(([title, keys, by]): Command => ({
      group: 'Work',
      title,
      keys: [keys],
      words: 'switch another',
      can: () => looks.shown.value.length > 1,
      run: () => void looks.step(by),
    })),
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
    ...SHEET_KEYS.map(([title, keys]): Command => ({
      group: 'Compare',
      title,
      keys: [keys],
      told: true,
      can: () => bench.tab.value === 'compare',
      run: () => {},
    })),
    ...TABS.map((t): Command => ({
      group: 'Work',
      title: `Go to ${t.title}`,
      words: 'tab',
      run: () => {
        bench.tab.value = t.key
      },
    })),
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
