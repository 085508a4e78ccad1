<script setup lang="ts">
import { SplitterGroup, SplitterPanel, SplitterResizeHandle } from 'reka-ui'
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { COMPANION_ENDINGS, MESH_ENDINGS } from '#core/exchange/meshFile'
import { LOOK_ENDINGS } from '#core/exchange/readLookFile'
import { addressOf, request } from '../../request'
import { useMe } from '../../people/useMe'
import { CHANNELS } from '#core/graph/types'
import ReplaceDialog from '../../components/mesh/ReplaceDialog.vue'
import ShownPanel from '../../components/mesh/ShownPanel.vue'
import { pressed, type Command } from '../../keys'
import { RIGS, type RigName } from '#core/trace/rigs'
import { VIEWS } from '../../stage/lightPass'
import type { Picked } from '../../workers/evaluate.worker'

const project = useProject()
const mesh = useMesh()
const looking = useLooking()
const route = useRoute()
const colorMode = useColorMode()
const { refresh } = useAnalysis()
const { others, people, savedElsewhere } = usePresence()
const { mayManage, me } = useMe()
const overlooked = ref(false)
const TABS = [
  { key: 'mesh', title: 'Mesh' },
  { key: 'build', title: 'Build' },
  { key: 'deliver', title: 'Deliver' },
] as const
const tab = ref<(typeof TABS)[number]['key']>('build')
const picked = shallowRef<Picked | null>(null)
const stage = useTemplateRef('stage')
const graph = useTemplateRef('graph')
const strip = useTemplateRef('strip')
const chooser = useTemplateRef('chooser')
const lookChooser = useTemplateRef('lookChooser')
const upload = ref<number | null>(null)
const problem = ref('')
/** What of a material document could not be taken over. */
const taken = ref<string[]>([])
const over = ref(false)
const help = ref(false)
const board = ref(false)
const job = computed(() =>
  upload.value === null || !upload.value
    ? (mesh.computing ?? '')
    : `Storing the mesh, ${Math.round(upload.value * 100)} %`,
)

/** The number that the map on the stage has under the cursor. */
const underCursor = computed(() => {
  const at = picked.value
  const shown = mesh.shownMap
  const indices = project.tables?.mesh.indices
  if (!at || !shown || !indices) return undefined
  const [a, b, c] = [0, 1, 2].map(
    k => shown.map.values[indices[at.triangle * 3 + k]! * shown.map.components + shown.component]!,
  ) as [number, number, number]
  return a + (b - a) * at.u + (c - a) * at.v
})

const revisionAsked = (): number | undefined => Number(route.query.revision) || undefined
onMounted(async () => {
  await project.open(String(route.params.id), revisionAsked())
  if (!project.tables && !project.failure) tab.value = 'mesh'
})
// Another project, or another revision of this one, at the same page.
watch(
  () => [route.params.id, route.query.revision],
  () => {
    if (route.name === 'project-id') void project.open(String(route.params.id), revisionAsked())
  },
)
onBeforeRouteLeave(async () => {
  await keepPicture()
  await project.save()
  const lost = !['saved'].includes(project.saveState)
  return (
    !lost ||
    window.confirm(
      'Not all of this project is saved. This browser keeps it and saves it when the project is opened here again. Leave anyway?',
    )
  )
})
/** Whether the project may be locked, or unlocked again, by who sits here. */
const mayLock = computed(
  () =>
    me.value?.role !== 'look' &&
    (!project.meta?.locked || mayManage.value || project.meta.lockedBy === (me.value?.name ?? null)),
)
async function toggleLock(): Promise<void> {
  problem.value = ''
  await project.lock(!project.meta?.locked).catch((error: Error) => {
    problem.value = error.message
  })
}
async function restoreViewed(): Promise<void> {
  const { number } = project.viewed!
  await project.restore(number).catch((error: Error) => {
    problem.value = error.message
  })
  if (!problem.value) await navigateTo(`/project/${project.meta!.id}`)
}
useHead({ title: () => (project.meta ? `${project.meta.name} · Ubblet` : 'Ubblet') })

// Swatches and readings come after the frame: the stage goes first.
let asked = false
watch([() => project.look, () => project.tables, () => project.selected, () => project.scope], () => {
  if (asked) return
  asked = true
  requestAnimationFrame(() =>
    setTimeout(() => {
      asked = false
      void refresh()
    }),
  )
})

// The picture on the home page follows the work, but not at every move.
let pictured: { look: unknown; tables: unknown } | undefined
async function keepPicture(): Promise<void> {
  const { look, tables } = project
  if (!project.meta || !tables || project.readOnly || (pictured?.look === look && pictured.tables === tables)) return
  pictured = { look, tables }
  const blob = await stage.value?.picture(480, 300)
  const revision = project.saveState === 'saved' ? `?revision=${project.newest}` : ''
  if (blob && project.meta)
    await request(`/api/projects/${project.meta.id}/thumbnail${revision}`, { method: 'PUT', bytes: blob }).catch(() => {
      pictured = undefined
    })
}
const pictureSoon = useDebounceFn(keepPicture, 2500, { maxWait: 15_000 })
watch(
  () => project.saveState,
  state => {
    if (state === 'saved' && project.tables) setTimeout(() => void pictureSoon(), 500)
  },
)
watch(
  () => project.tables,
  tables => {
    if (tables) setTimeout(() => void keepPicture(), 800)
  },
)

/** Runs something that may bring in a mesh, with its upload's progress; answers come as a sentence or not at all. */
async function bringing(work: (progress: (share: number) => void) => Promise<string | null>): Promise<void> {
  over.value = false
  upload.value = 0
  problem.value =
    (await work(x => {
      upload.value = x
    })) ?? ''
  upload.value = null
  if (!problem.value) tab.value = 'mesh'
}
/** A picture goes into the project; anything else is a mesh. */
async function addPicture(file: File): Promise<void> {
  over.value = false
  problem.value = (await project.addPicture(file)) ?? ''
  if (!problem.value && build()) board.value = true
}
/** A look, or a material document, takes the place of the look; one undo brings the old one back. */
async function bringLook(file: File): Promise<void> {
  over.value = false
  const answer = await project.takeLook(file)
  problem.value = 'error' in answer ? answer.error : ''
  taken.value = 'ok' in answer ? answer.ok : []
  if ('ok' in answer) tab.value = 'build'
}
const isLook = (file: File): boolean =>
  LOOK_ENDINGS.some(e => file.name.toLowerCase().endsWith(e)) || /\.json$/i.test(file.name)
const isPicture = (file: File): boolean => /^image\/(png|jpeg|webp)$/.test(file.type)
/** The same from a field for files, which is free again for the same file. */
function bringFrom(e: Event): void {
  const input = e.target as HTMLInputElement
  void bring(input.files)
  input.value = ''
}
/** Takes files in: a look, pictures, or a mesh with what belongs to it. */
async function bring(list: FileList | null | undefined): Promise<void> {
  const files = [...(list ?? [])]
  if (!files.length) return
  if (files.length === 1 && isLook(files[0]!)) return bringLook(files[0]!)
  if (!files.every(isPicture)) return bringing(progress => project.importMesh(files, progress))
  for (const file of files) await addPicture(file)
}

/** Whether the stage has the whole window. */
const alone = ref(false)
const finding = ref(false)
const connecting = ref(false)
const build = (): boolean => tab.value === 'build' && !board.value
const onMesh = (): boolean => tab.value === 'mesh'
const some = (): boolean => build() && project.selected.length > 0
const several = (n: number) => (): boolean => build() && (graph.value?.chosen.length ?? 0) >= n
const parts = (): boolean => mesh.selected.size > 0
async function toClipboard(): Promise<void> {
  await navigator.clipboard.writeText(graph.value!.clip()).catch(() => {
    problem.value = 'The browser does not let the page write to the clipboard; Ctrl+C does.'
  })
}
async function fromClipboard(): Promise<void> {
  const text = await navigator.clipboard.readText().catch(() => undefined)
  problem.value =
    text === undefined
      ? 'The browser does not let the page read the clipboard; Ctrl+V does.'
      : (graph.value!.paste(text) ?? '')
}
/** Everything that can be done here: the menu, the list of keys and the keys themselves are made of it. */
const COMMANDS: Command[] = [
  {
    group: 'Work',
    title: 'Find an action',
    keys: ['/'],
    run: () => {
      finding.value = true
    },
  },
  {
    group: 'Work',
    title: 'All keys',
    keys: ['?'],
    words: 'help shortcuts',
    run: () => {
      help.value = true
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
    can: () => mayLock.value && !project.viewed,
    run: () => void toggleLock(),
  },
  { group: 'Work', title: 'Save now', keys: ['Ctrl+S'], everywhere: true, run: () => void project.save() },
  ...TABS.map(
    (t): Command => ({
      group: 'Work',
      title: `Go to ${t.title}`,
      words: 'tab',
      run: () => {
        tab.value = t.key
      },
    }),
  ),
  {
    group: 'Work',
    title: 'Next finding of the checks',
    keys: ['V'],
    words: 'problem warning error check',
    can: () => project.findings.length > 0,
    run: showFinding,
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
    run: () => lookChooser.value?.click(),
  },
  {
    group: 'Work',
    title: 'Reference pictures',
    keys: ['D'],
    words: 'pinboard mood collect palette',
    can: () => tab.value === 'build',
    run: () => {
      board.value = !board.value
    },
  },
  {
    group: 'Graph',
    title: 'Add a node',
    keys: ['A'],
    words: 'new create',
    can: build,
    run: () => graph.value?.openMenu(),
  },
  {
    group: 'Graph',
    title: 'Connect the selected node',
    keys: ['C'],
    words: 'wire link',
    can: several(1),
    run: () => {
      connecting.value = true
    },
  },
  {
    group: 'Graph',
    title: 'Another kind for the selected node',
    keys: ['X'],
    words: 'swap replace change exchange',
    can: some,
    run: () => graph.value?.exchange(),
  },
  {
    group: 'Graph',
    title: 'Switch off or on',
    keys: ['O'],
    words: 'disable mute bypass enable',
    can: some,
    run: () => graph.value?.toggle(),
  },
  {
    group: 'Graph',
    title: 'Show on the stage what the node gives out',
    keys: ['P'],
    words: 'probe preview look',
    can: some,
    run: () => graph.value?.probe(),
  },
  {
    group: 'Graph',
    title: 'Remove what is selected',
    keys: ['Delete', 'Backspace'],
    words: 'erase',
    can: build,
    run: () => graph.value?.removeSelected(),
  },
  { group: 'Graph', title: 'Duplicate', keys: ['Ctrl+D'], can: some, run: () => graph.value?.duplicate() },
  { group: 'Graph', title: 'Copy', keys: ['Ctrl+C'], told: true, can: some, run: () => void toClipboard() },
  {
    group: 'Graph',
    title: 'Cut',
    keys: ['Ctrl+X'],
    told: true,
    can: some,
    run: () => void toClipboard().then(() => graph.value?.removeSelected()),
  },
  { group: 'Graph', title: 'Paste', keys: ['Ctrl+V'], told: true, can: build, run: () => void fromClipboard() },
  { group: 'Graph', title: 'Select all nodes', keys: ['Ctrl+A'], can: build, run: () => graph.value?.selectAll() },
  {
    group: 'Graph',
    title: 'Lay out in order',
    keys: ['L'],
    words: 'tidy layout arrange clean',
    can: build,
    run: () => graph.value?.tidy(),
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
      can: several(2),
      run: () => graph.value?.align(side),
    }),
  ),
  {
    group: 'Graph',
    title: 'Spread evenly across',
    words: 'distribute horizontal',
    can: several(3),
    run: () => graph.value?.distribute(0),
  },
  {
    group: 'Graph',
    title: 'Spread evenly down',
    words: 'distribute vertical',
    can: several(3),
    run: () => graph.value?.distribute(1),
  },
  {
    group: 'Graph',
    title: 'Show the whole graph',
    keys: ['G'],
    words: 'zoom fit',
    can: build,
    run: () => graph.value?.fit(),
  },
  {
    group: 'Graph',
    title: 'Show the selected nodes',
    keys: ['Shift+G'],
    words: 'zoom fit',
    can: build,
    run: () => graph.value?.fitSelection(),
  },
  {
    group: 'Graph',
    title: 'Overview of the graph',
    keys: ['M'],
    words: 'minimap map',
    can: build,
    run: () => {
      graph.value!.minimap = !graph.value!.minimap
    },
  },
  {
    group: 'Graph',
    title: 'Fold into a recipe',
    keys: ['R'],
    words: 'group',
    can: () => build() && Boolean(graph.value?.foldable),
    run: () => graph.value?.fold(),
  },
  {
    group: 'Graph',
    title: 'Unfold',
    keys: ['Shift+R'],
    words: 'ungroup recipe',
    can: () => build() && Boolean(graph.value?.selectedRecipes.length),
    run: () => graph.value?.unfold(),
  },
  {
    group: 'Graph',
    title: 'Open the recipe',
    keys: ['Enter'],
    words: 'inside',
    can: () => build() && graph.value?.selectedRecipes.length === 1,
    run: () => graph.value?.open(),
  },
  {
    group: 'Graph',
    title: 'Close the recipe',
    keys: ['Escape'],
    can: () => build() && project.scope.length > 0,
    run: () => graph.value?.close(),
  },
  {
    group: 'Graph',
    title: 'Replace the wire by an echo',
    keys: ['E'],
    can: () => build() && Boolean(graph.value?.someWires),
    run: () => graph.value?.echo(),
  },
  {
    group: 'Graph',
    title: 'Add a note',
    keys: ['N'],
    words: 'comment text',
    can: () => build() && !project.scope.length,
    run: () => graph.value?.write(),
  },
  {
    group: 'Graph',
    title: 'Add a frame',
    keys: ['Shift+N'],
    words: 'box comment',
    can: () => build() && !project.scope.length,
    run: () => graph.value?.frame(),
  },
  {
    group: 'Stage',
    title: 'The stage alone, or with everything around it',
    keys: ['Q'],
    words: 'full screen maximize large',
    run: () => {
      alone.value = !alone.value
    },
  },
  {
    group: 'Stage',
    title: 'Everything around the stage again',
    keys: ['Escape'],
    can: () => alone.value,
    run: () => {
      alone.value = false
    },
  },
  {
    group: 'Stage',
    title: 'Two views side by side, or one',
    keys: ['Y'],
    words: 'split second camera compare',
    can: () => !onMesh(),
    run: () => {
      looking.second = looking.second ? null : { eye: 'front', rig: null, linked: false }
    },
  },
  { group: 'Steps', title: 'Add a step', keys: ['S'], words: 'layer', can: build, run: () => strip.value?.add() },
  {
    group: 'Stage',
    title: 'Fit the selected parts, or the whole mesh',
    keys: ['F'],
    words: 'zoom frame camera',
    run: () => stage.value?.frame(),
  },
  {
    group: 'Stage',
    title: 'Isolate the selected parts',
    keys: ['I'],
    words: 'only alone',
    can: parts,
    run: () => mesh.isolate(),
  },
  {
    group: 'Stage',
    title: 'Hide the selected parts',
    keys: ['H'],
    can: parts,
    run: () => mesh.hide([...mesh.hidden, ...mesh.selected]),
  },
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
    can: () => parts() && !(build() && project.scope.length),
    run: () => mesh.select([]),
  },
  {
    group: 'Stage',
    title: 'UV layout',
    keys: ['U'],
    can: () => onMesh() && Boolean(project.tables?.mesh.uvs),
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
      can: () => !onMesh(),
      run: () => {
        looking.probe = null
        looking.view = v
      },
    }),
  ),
]
const TOLD: [string, string][] = [
  ['Double click', 'Add a node; on a wire, put one in'],
  ['Shift and drag', 'Select nodes by a box'],
  ['Alt and drag', 'On the canvas: cut every wire that the line crosses'],
  ['Arrows', 'Move the selected cards; on the stage, turn the mesh; in a number, step it'],
  ['+ and −', 'On the stage: nearer, farther'],
  ['Shift, Alt', 'While dragging a number: finer, coarser'],
  ['Ctrl and arrows', 'On a step: earlier, later'],
]
const groups = computed(() =>
  [...new Set(COMMANDS.map(c => c.group))].map(group => ({
    group,
    rows: COMMANDS.filter(c => c.group === group && c.keys).map((c): [string, string] => [
      c.keys!.join(', ').replaceAll('+', ' '),
      c.title,
    ]),
  })),
)

const typing = (e: Event): boolean =>
  (e.target instanceof HTMLInputElement && !['checkbox', 'radio'].includes(e.target.type)) ||
  e.target instanceof HTMLSelectElement ||
  e.target instanceof HTMLTextAreaElement
/** Text that is being typed has an undo of its own, the browser's. */
const writing = (e: Event): boolean =>
  e.target instanceof HTMLTextAreaElement ||
  (e.target instanceof HTMLInputElement &&
    !['checkbox', 'radio'].includes(e.target.type) &&
    e.target.dataset.settled === undefined)
const busy = (): boolean => help.value || finding.value || connecting.value
function obey(e: KeyboardEvent): boolean {
  const keys = pressed(e)
  const command = COMMANDS.find(c => !c.told && c.keys?.includes(keys) && (!c.can || c.can()))
  if (!command) return false
  command.run()
  e.preventDefault()
  return true
}
// Before the fields, which keep their keys to themselves: a number that is not being typed leaves undo to the page.
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    if (!e.ctrlKey && !e.metaKey) return
    const keys = pressed(e)
    const everywhere = COMMANDS.some(c => c.everywhere && c.keys?.includes(keys))
    if (everywhere || (typing(e) && !writing(e) && /^Ctrl\+(Shift\+)?[ZY]$/.test(keys))) obey(e)
  },
  { capture: true },
)
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.defaultPrevented || typing(e) || busy()) return
  // Buttons and links keep their own keys.
  if ((e.key === 'Enter' || e.key === ' ') && (e.target as Element).closest?.('button, a, [role=slider]')) return
  obey(e)
})

// The browser's clipboard: nodes as text, pictures for the board.
const takesClip = (e: Event): boolean => !writing(e) && !busy() && build()
useEventListener(window, 'copy', (e: ClipboardEvent) => {
  if (!takesClip(e) || !graph.value?.copyable || String(getSelection())) return
  e.clipboardData?.setData('text/plain', graph.value.clip())
  e.preventDefault()
})
useEventListener(window, 'cut', (e: ClipboardEvent) => {
  if (!takesClip(e) || !graph.value?.copyable) return
  e.clipboardData?.setData('text/plain', graph.value.clip())
  graph.value.removeSelected()
  e.preventDefault()
})
useEventListener(window, 'paste', (e: ClipboardEvent) => {
  if (writing(e) || busy()) return
  const file = [...(e.clipboardData?.files ?? [])].find(f => f.type.startsWith('image/'))
  if (file) void addPicture(file)
  else if (build()) problem.value = graph.value!.paste(e.clipboardData?.getData('text/plain') ?? '') ?? ''
  e.preventDefault()
})
useEventListener(window, 'beforeunload', e => {
  if (project.saveState !== 'saved') {
    void project.save()
    e.preventDefault()
  }
})
useEventListener(window, 'dragover', (e: DragEvent) => {
  if (!e.dataTransfer?.types.includes('Files')) return
  e.preventDefault()
  over.value = true
})
useEventListener(window, 'dragleave', (e: DragEvent) => {
  if (!e.relatedTarget) over.value = false
})
useEventListener(window, 'drop', (e: DragEvent) => {
  e.preventDefault()
  over.value = false
  void bring(e.dataTransfer?.files)
})

const rename = (e: Event) => {
  const target = e.target as HTMLInputElement
  project
    .rename(target.value)
    .catch((error: Error) => {
      problem.value = error.message
    })
    .finally(() => {
      target.value = project.meta?.name ?? ''
    })
}
const nextFinding = ref(0)
function showFinding(): void {
  const withNode = project.findings.filter(f => f.node)
  if (!withNode.length) return
  tab.value = 'build'
  if (project.scope.length) project.enter([])
  project.selected = [withNode[nextFinding.value++ % withNode.length]!.node!]
}
</script>

<template>
  <div class="bench">
    <header class="top">
      <NuxtLink to="/" class="home" aria-label="All projects"
        ><img :src="addressOf('/mark.svg')" alt="" width="20" height="20"
      /></NuxtLink>
      <input
        class="name"
        :value="project.meta?.name"
        aria-label="Name of the project"
        maxlength="120"
        spellcheck="false"
        @change="rename"
        @keydown.stop
      />
      <nav role="tablist" aria-label="Work">
        <button
          v-for="t in TABS"
          :key="t.key"
          role="tab"
          type="button"
          :aria-selected="tab === t.key"
          :class="{ on: tab === t.key }"
          @click="tab = t.key"
        >
          {{ t.title }}
        </button>
      </nav>
      <span class="grow" />
      <button
        type="button"
        class="tool"
        :disabled="!project.undoLabel"
        :title="project.undoLabel ? `Undo: ${project.undoLabel} (Ctrl+Z)` : 'Nothing to undo'"
        aria-label="Undo"
        @click="project.undo()"
      >
        <UIcon name="i-lucide-undo-2" />
      </button>
      <button
        type="button"
        class="tool"
        :disabled="!project.redoLabel"
        :title="project.redoLabel ? `Redo: ${project.redoLabel} (Ctrl+Shift+Z)` : 'Nothing to redo'"
        aria-label="Redo"
        @click="project.redo()"
      >
        <UIcon name="i-lucide-redo-2" />
      </button>
      <button
        v-if="tab === 'build'"
        type="button"
        class="tool"
        :aria-pressed="board"
        aria-label="Reference pictures"
        title="Reference pictures (D)"
        @click="board = !board"
      >
        <UIcon name="i-lucide-images" />
      </button>
      <span v-if="people.length" class="people" role="status" :title="`Also here: ${people.join(', ')}`"
        ><UIcon name="i-lucide-users" aria-hidden="true" /> {{ people.join(', ') }}</span
      >
      <HistoryList />
      <button
        type="button"
        class="checks"
        :class="{ some: project.findings.length }"
        :disabled="!project.findings.length"
        @click="showFinding"
      >
        <UIcon :name="project.findings.length ? 'i-lucide-triangle-alert' : 'i-lucide-check'" />
        {{
          project.findings.length
            ? `${project.findings.length} ${project.findings.length === 1 ? 'finding' : 'findings'}`
            : 'Checks are clear'
        }}
      </button>
      <button type="button" class="tool" aria-label="Find an action" title="Find an action (/)" @click="finding = true">
        <UIcon name="i-lucide-search" />
      </button>
      <button type="button" class="tool" aria-label="Keys" title="Keys (?)" @click="help = true">
        <UIcon name="i-lucide-keyboard" />
      </button>
      <button
        type="button"
        class="tool"
        :aria-label="colorMode.value === 'dark' ? 'Light theme' : 'Dark theme'"
        @click="colorMode.preference = colorMode.value === 'dark' ? 'light' : 'dark'"
      >
        <UIcon :name="colorMode.value === 'dark' ? 'i-lucide-sun' : 'i-lucide-moon'" />
      </button>
    </header>

    <p v-if="problem" class="banner" role="alert">
      {{ problem }} The project is as it was. <button type="button" @click="problem = ''">Close</button>
    </p>
    <div v-if="taken.length" class="banner quiet" role="status">
      The document is the look now; undo brings the old one back. Not everything could be taken over:
      <ul class="report">
        <li v-for="line in taken" :key="line">{{ line }}</li>
      </ul>
      <button type="button" @click="taken = []">Close</button>
    </div>
    <p v-if="project.failure" class="banner" role="alert">
      {{ project.failure }} <NuxtLink to="/">Back to all projects</NuxtLink>
    </p>
    <p v-if="project.viewed" class="banner quiet" role="status">
      You look at revision {{ project.viewed.number }}, saved
      {{ new Date(project.viewed.saved).toLocaleString('en-US') }}. It cannot be changed.
      <UButton
        size="xs"
        color="neutral"
        variant="outline"
        :disabled="Boolean(project.meta?.locked)"
        @click="restoreViewed"
        >Restore it as the newest</UButton
      >
      <UButton size="xs" color="neutral" variant="link" @click="navigateTo(`/project/${project.meta!.id}`)"
        >Back to the newest</UButton
      >
    </p>
    <p v-else-if="project.meta?.locked" class="banner quiet" role="status">
      This project is locked against changes<template v-if="project.meta.lockedBy">
        by {{ project.meta.lockedBy }}</template
      >. It can be looked at and delivered.
      <UButton v-if="mayLock" size="xs" color="neutral" variant="outline" @click="toggleLock">Unlock</UButton>
    </p>
    <p v-if="project.takenUp" class="banner quiet" role="status">
      Changes that could not be saved the last time were kept by this browser and are here again; undo takes them back.
      <button type="button" @click="project.takenUp = false">Close</button>
    </p>
    <p v-if="project.saveState === 'stale'" class="banner" role="alert">
      This project was saved in another window in the meantime. Nothing is lost: choose which state goes on.
      <button type="button" @click="project.resolveStale('mine')">Go on with mine</button>
      <button type="button" @click="project.resolveStale('theirs')">Take the other; mine stays one undo away</button>
    </p>
    <p v-else-if="(others.size || savedElsewhere) && !overlooked" class="banner quiet" role="status">
      {{
        savedElsewhere
          ? 'This project was changed in another window, or by somebody else. Go on there, or reload this one to see what it saved; what you change here is kept in any case.'
          : 'This project is open in another window, too. Changes in both do not mix: whoever saves second is asked which state goes on.'
      }}
      <button type="button" @click="overlooked = true">Close</button>
    </p>
    <p v-if="project.signedOut" class="banner" role="alert">
      You are signed out; this browser keeps what is not saved.
      <a :href="addressOf('/sign-in')" target="_blank">Sign in in another tab</a>, and it is saved.
    </p>
    <p v-if="project.saveState === 'refused'" class="banner" role="alert">{{ project.saveError }}</p>

    <main>
      <SplitterGroup direction="horizontal" auto-save-id="ubblet workbench" class="split">
        <SplitterPanel id="stage" :order="1" :default-size="40" :min-size="22" class="left">
          <SplitterGroup direction="vertical" auto-save-id="ubblet stage and controls">
            <SplitterPanel id="picture" :order="1" :default-size="55" :min-size="20" class="pane">
              <StageView
                ref="stage"
                :mode="tab === 'mesh' ? 'mesh' : 'look'"
                :class="{ alone }"
                @picked="picked = $event"
              >
                <p v-if="project.busy" class="over">{{ project.busy }} …</p>
                <p v-else-if="!project.tables && !project.failure" class="over">No mesh yet. Drop a file here.</p>
              </StageView>
            </SplitterPanel>
            <template v-if="tab !== 'deliver'">
              <SplitterResizeHandle id="below the stage" class="handle lying" aria-label="Height of the stage" />
              <SplitterPanel id="controls" :order="2" :default-size="45" :min-size="15" class="pane">
                <ShownPanel v-if="tab === 'mesh' && project.tables" :value="underCursor" />
                <ControlPanel v-else-if="tab === 'build'" />
              </SplitterPanel>
            </template>
          </SplitterGroup>
        </SplitterPanel>
        <SplitterResizeHandle id="beside the stage" class="handle" aria-label="Width of the stage" />
        <SplitterPanel id="work" :order="2" :default-size="60" :min-size="30" class="pane">
          <PictureBoard v-if="tab === 'build' && board" @close="board = false" />
          <div v-show="tab === 'build' && !board" class="build">
            <StepStrip ref="strip" />
            <div class="page">
              <GraphEditor ref="graph" />
              <FirstVisit />
            </div>
          </div>
          <MeshPanel
            v-if="tab === 'mesh'"
            @choose="chooser?.click()"
            @unwrap="bringing(project.unwrap)"
            @frame="stage?.frame()"
          />
          <DeliverPanel v-if="tab === 'deliver'" :stage="stage" />
        </SplitterPanel>
      </SplitterGroup>
    </main>
    <FootLine :picked="picked" :job="job" />
    <input
      ref="chooser"
      type="file"
      multiple
      :accept="[...MESH_ENDINGS, ...COMPANION_ENDINGS].join()"
      hidden
      aria-label="Mesh files"
      @change="bringFrom"
    />
    <input
      ref="lookChooser"
      type="file"
      :accept="LOOK_ENDINGS.join()"
      hidden
      aria-label="Look file"
      @change="bringFrom"
    />
    <UModal v-model:open="help" title="Keys" description="What the keyboard does on this page.">
      <template #body>
        <div tabindex="0" role="group" aria-label="All keys">
          <template v-for="g in groups" :key="g.group">
            <h3 class="ub-h">{{ g.group }}</h3>
            <dl class="keys">
              <template v-for="[k, what] in g.rows" :key="what"
                ><dt class="num">{{ k }}</dt>
                <dd>{{ what }}</dd></template
              >
            </dl>
          </template>
          <h3 class="ub-h">By hand</h3>
          <dl class="keys">
            <template v-for="[k, what] in TOLD" :key="k"
              ><dt>{{ k }}</dt>
              <dd>{{ what }}</dd></template
            >
          </dl>
        </div>
      </template>
    </UModal>
    <CommandMenu v-model:open="finding" :commands="COMMANDS" />
    <ConnectMenu v-model:open="connecting" />
    <ReplaceDialog @apply="bringing(project.replace)" @cancel="project.forget()" />
    <div v-if="over" class="drop">
      Drop a mesh with the files that it names, a picture, a look or a material document, to bring it into this project
    </div>
  </div>
</template>

<style scoped>
.bench {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.top {
  display: flex;
  align-items: stretch;
  gap: 6px;
  height: 40px;
  padding: 0 12px;
  border-bottom: 1px solid var(--ub-line);
}
.home {
  display: grid;
  place-items: center;
  padding-right: 4px;
}
.name {
  width: 230px;
  background: none;
  border: 0;
  font-weight: 500;
  padding: 0 6px;
  text-overflow: ellipsis;
}
nav {
  display: flex;
  gap: 4px;
  padding-left: 10px;
}
nav button {
  padding: 0 14px;
  color: var(--ub-quiet);
  border-bottom: 2px solid transparent;
}
nav button.on {
  color: var(--ub-text);
  font-weight: 500;
  border-bottom-color: var(--ub-accent);
}
.grow {
  flex: 1;
}
.tool {
  width: 30px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.tool:disabled {
  opacity: 0.4;
}
.people {
  display: flex;
  align-items: center;
  gap: 5px;
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ub-quiet);
  font-size: 12px;
}
.checks {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 10px;
  color: var(--ub-quiet);
}
.checks.some {
  color: var(--ub-warn);
}
main {
  flex: 1;
  min-height: 0;
}
.pane {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
}
.handle {
  width: 5px;
  margin: 0 -2px;
  z-index: 5;
  background: linear-gradient(to right, transparent 2px, var(--ub-line) 2px, var(--ub-line) 3px, transparent 3px);
  cursor: col-resize;
}
.handle.lying {
  width: auto;
  height: 5px;
  margin: -2px 0;
  background: none;
  cursor: row-resize;
}
.handle:hover,
.handle[data-state='drag'],
.handle:focus-visible {
  background: var(--ub-accent);
}
.build {
  display: grid;
  grid-template-rows: auto 1fr;
}
.build > * {
  min-width: 0;
  min-height: 0;
}
.page {
  position: relative;
  display: grid;
}
.page > * {
  min-height: 0;
  min-width: 0;
}
.over {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  color: var(--ub-text);
  pointer-events: none;
}
.banner {
  padding: 6px 14px;
  background: var(--ub-card);
  border-bottom: 1px solid var(--ub-line);
  color: var(--ub-warn);
}
.banner.quiet {
  color: var(--ub-text);
}
.banner button,
.banner a {
  text-decoration: underline;
  text-underline-offset: 3px;
  margin-left: 12px;
  color: var(--ub-text);
}
.report {
  max-height: 120px;
  overflow-y: auto;
  padding-left: 16px;
  list-style: disc;
  font-size: 12px;
}
.drop {
  position: fixed;
  inset: 10px;
  z-index: 50;
  display: grid;
  place-items: center;
  font-size: 18px;
  background: color-mix(in srgb, var(--ub-panel) 88%, transparent);
  border: 2px dashed var(--ub-accent);
  pointer-events: none;
}
.keys {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 6px 14px;
}
.keys dt {
  color: var(--ub-quiet);
}
</style>
