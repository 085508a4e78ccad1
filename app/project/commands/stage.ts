import { CHANNELS } from '#core/graph/types'
import { RIGS, type RigName } from '#core/trace/rigs'
import { VIEWS } from '../../stage/lightPass'
import type { Command } from '../keys'
import type { Bench, Conditions } from './bench'

/** How the stage shows the look. */
export function viewCommands(bench: Bench, is: Conditions): Command[] {
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
    ...Object.entries(RIGS).map(([key, r]): Command => ({
      group: 'Stage',
      title: `Light: ${r.title}`,
      words: 'rig environment',
      run: () => {
        looking.rig = key as RigName
      },
    })),
    ...(
      [
        ['perspective', 'Look with perspective'],
        ['front', 'Look from the front'],
        ['side', 'Look from the side'],
        ['top', 'Look from above'],
      ] as const
    ).map(([eye, title]): Command => ({
      group: 'Stage',
      title,
      words: 'camera orthographic',
      run: () => {
        looking.eye = eye
      },
    })),
    ...VIEWS.map((v, i): Command => ({
      group: 'Stage',
      title: `Show ${i ? CHANNELS[v as keyof typeof CHANNELS].title.toLowerCase() : 'the finished surface'}`,
      keys: [String(i + 1)],
      words: 'channel',
      can: () => !is.onMesh(),
      run: () => {
        looking.probe = null
        looking.view = v
      },
    })),
  ]
}

/** Parts, and what is kept beside the look. */
export function partCommands(bench: Bench, is: Conditions): Command[] {
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
    ...(['material', 'size', 'name'] as const).map((by): Command => ({
      group: 'Stage',
      title: `Select alike by ${by}`,
      words: 'similar same parts',
      can: is.parts,
      run: () => mesh.alike(by),
    })),
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
