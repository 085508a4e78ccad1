<script setup lang="ts">
import { SplitterGroup, SplitterPanel, SplitterResizeHandle } from 'reka-ui'
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { isExr } from '#core/evaluate/pictures'
import { surfaceValue } from '#core/evaluate/surfaceReading'
import { COMPANION_ENDINGS } from '#core/exchange/meshFile'
import { MESH_ENDINGS } from '#core/exchange/readers'
import { LOOK_ENDINGS } from '#core/exchange/readLookFile'
import { valueAt } from '#core/mesh/sample'
import { request } from '../../shared/request'
import { useMe } from '../../people/useMe'
import ReplaceDialog from '../../mesh/ReplaceDialog.vue'
import ShownPanel from '../../mesh/ShownPanel.vue'
import { menuOf, type MenuEntry } from '../../project/keys'
import { useKeys, writing } from '../../project/useKeys'
import { commandsOf, MENUS } from '../../project/commands'
import type { Tab } from '../../project/commands/bench'
import KeysHelp from '../../project/KeysHelp.vue'
import ProjectBanners from '../../project/ProjectBanners.vue'
import TopLine from '../../project/TopLine.vue'
import SheetView from '../../compare/SheetView.vue'
import type { Picked } from '../../shared/evaluate.worker'

const project = useProject()
const mesh = useMesh()
const route = useRoute()
const { refresh } = useAnalysis()
const { others, people, savedElsewhere } = usePresence()
const { mayManage, me } = useMe()
const elsewhere = computed(() => {
  if (savedElsewhere.value) return 'saved'
  return others.value.size ? 'open' : undefined
})
const tab = ref<Tab>('build')
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
const job = computed(() => {
  if (!upload.value) return mesh.computing ?? ''
  if (upload.value === 1) return 'The server is reading the mesh'
  return `Storing the mesh, ${Math.round(upload.value * 100)} %`
})

/** The number that the map on the stage has under the cursor. */
const underCursor = computed(() => {
  const at = picked.value
  const { indices, uvs } = project.tables?.mesh ?? {}
  if (!at || !indices) return undefined
  const between = (values: Float32Array, stride: number, k: number): number =>
    valueAt(indices, values, stride, k, at.triangle, at.u, at.v)
  const surface = mesh.shownSurface
  if (surface && uvs) return surfaceValue(surface.picture, surface.component, between(uvs, 2, 0), between(uvs, 2, 1))
  const shown = mesh.shownMap
  return shown && between(shown.map.values, shown.map.components, shown.component)
})

/** How often a picture that the stage does not have yet is asked for again. */
const PICTURE_TRIES = 10
/** How long leaving waits for the picture on the home page, in milliseconds. */
const PICTURE_MOST = 5000
const revisionAsked = (): number | undefined => Number(route.query.revision) || undefined
const lookAsked = (): string | undefined => (route.query.look ? String(route.query.look) : undefined)
onMounted(async () => {
  await project.open(String(route.params.id), revisionAsked(), lookAsked())
  if (!project.tables && !project.failure) tab.value = 'mesh'
})
// Another project, another revision of this one, or another of its looks, at the same page.
watch(
  () => [route.params.id, route.query.revision, route.query.look] as const,
  async ([id, revision], [before]) => {
    if (route.name !== 'project-id') return
    const same = id === before && id === project.meta?.id && !revision && !project.viewed
    if (!same) return project.open(String(id), revisionAsked(), lookAsked())
    problem.value = (await project.showLook(lookAsked() ?? project.arrivedAt)) ?? ''
    // What could not be left is still open, and so is its address.
    if (problem.value) await navigateTo({ path: route.path, query: { look: project.lookId }, replace: true })
  },
)
onBeforeRouteLeave(async () => {
  await Promise.race([keepPicture(), new Promise(resolve => setTimeout(resolve, PICTURE_MOST))])
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
    (project.meta?.role ?? me.value?.role) !== 'look' &&
    (!project.meta?.locked ||
      mayManage.value ||
      project.meta.role === 'manage' ||
      project.meta.lockedBy === (me.value?.name ?? null)),
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
  if (!problem.value) await navigateTo({ path: route.path, query: { look: project.lookId } })
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
let pictured: { look: unknown; tables: unknown; revision: number | undefined; kept: Promise<void> } | undefined
/** Keeps a picture of the project as it is. Whoever asks again meanwhile waits for the same one. */
function keepPicture(): Promise<void> {
  const { look, tables } = project
  if (!project.meta || !tables || project.readOnly || project.hasPicture) return Promise.resolve()
  const revision = project.saveState === 'saved' ? project.newest : undefined
  const isSame = pictured?.look === look && pictured.tables === tables
  // What was taken before it was saved belongs to no revision.
  const isKept = isSame && (revision === undefined || pictured?.revision === revision)
  if (!pictured || !isKept) pictured = { look, tables, revision, kept: takePicture(revision) }
  return pictured.kept
}
/** How often it has been asked for in vain: the stage may not be ready. */
let tries = 0
onBeforeUnmount(() => {
  tries = PICTURE_TRIES
})
async function takePicture(revision: number | undefined): Promise<void> {
  // A locked project keeps the pictures that it has.
  if (project.meta?.locked) return
  const { look, lookId } = project
  const blob = await stage.value?.picture(480, 300)
  if (!blob) {
    pictured = undefined
    if (tries++ < PICTURE_TRIES) void pictureSoon()
    return
  }
  tries = 0
  const of = revision !== undefined && project.look === look ? `&revision=${revision}` : ''
  try {
    if (!project.meta || lookId !== project.lookId) throw new Error('It is a picture of another look.')
    const path = `/api/projects/${project.meta.id}/thumbnail?look=${lookId}${of}`
    const { thumbnail } = await request<{ thumbnail: string }>(path, { method: 'PUT', bytes: blob })
    project.looks = project.looks.map(l => (l.id === lookId ? { ...l, thumbnail } : l))
  } catch {
    // The next occasion tries again.
    pictured = undefined
  }
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

/**
 * Runs something that may bring in a mesh, with its upload's progress; answers come as a sentence or not at all.
 * @param then what is shown afterwards, where it went well
 */
async function bringing(
  work: (progress: (share: number) => void) => Promise<string | null>,
  then: Tab = 'mesh',
): Promise<void> {
  over.value = false
  upload.value = 0
  problem.value =
    (await work(x => {
      upload.value = x
    })) ?? ''
  upload.value = null
  if (!problem.value) tab.value = then
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
  if ('ok' in answer) showBuild()
}
/** Shows the whole graph, once it has become another one. */
function showBuild(): void {
  tab.value = 'build'
  board.value = false
  graph.value?.fitAnew()
}
const isLook = (file: File): boolean =>
  LOOK_ENDINGS.some(e => file.name.toLowerCase().endsWith(e)) || /\.json$/i.test(file.name)
const isPicture = (file: File): boolean => /^image\/(png|jpeg|webp)$/.test(file.type) || isExr(file.name)
/** Takes files in: a look, pictures, or a mesh with what belongs to it. */
async function bring(files: File[]): Promise<void> {
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
const COMMANDS = commandsOf({
  tab,
  board,
  finding,
  help,
  connecting,
  alone,
  problem,
  graph,
  strip,
  stage,
  lookChooser,
  mayLock,
  toggleLock,
  showFinding,
})

/** What the context menus offer now. */
const graphMenu = shallowRef<MenuEntry[][]>([])
const partMenu = shallowRef<MenuEntry[][]>([])

const busy = (): boolean => help.value || finding.value || connecting.value
useKeys(COMMANDS, busy)

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
  void bring([...(e.dataTransfer?.files ?? [])])
})

async function rename(name: string): Promise<void> {
  try {
    await project.rename(name)
  } catch (error) {
    problem.value = (error as Error).message
  }
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
    <TopLine
      v-model:tab="tab"
      v-model:board="board"
      :people="people"
      @rename="rename"
      @finding="showFinding"
      @find="finding = true"
      @keys="help = true"
    />

    <ProjectBanners
      v-model:problem="problem"
      :lost="taken"
      :may-lock="mayLock"
      :elsewhere="elsewhere"
      @forget-lost="taken = []"
      @toggle-lock="toggleLock"
      @restore="restoreViewed"
    />

    <main>
      <SplitterGroup direction="horizontal" auto-save-id="ubblet workbench" class="split">
        <SplitterPanel id="stage" :order="1" :default-size="40" :min-size="22" class="left">
          <SplitterGroup direction="vertical" auto-save-id="ubblet stage and controls">
            <SplitterPanel id="picture" :order="1" :default-size="55" :min-size="20" class="pane">
              <UContextMenu :items="partMenu">
                <StageView
                  ref="stage"
                  :mode="tab === 'mesh' ? 'mesh' : 'look'"
                  :class="{ alone }"
                  @picked="picked = $event"
                  @aim="partMenu = menuOf(COMMANDS, MENUS.part)"
                >
                  <p v-if="project.busy" class="over">{{ project.busy }} …</p>
                  <p v-else-if="!project.tables && !project.failure" class="over">No mesh yet. Drop a file here.</p>
                </StageView>
              </UContextMenu>
            </SplitterPanel>
            <template v-if="tab !== 'deliver'">
              <SplitterResizeHandle id="below the stage" class="handle lying" aria-label="Height of the stage" />
              <SplitterPanel id="controls" :order="2" :default-size="45" :min-size="15" class="pane">
                <ShownPanel v-if="tab === 'mesh' && project.tables" :value="underCursor" />
                <ControlPanel v-else-if="tab === 'build' || tab === 'compare'" />
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
              <UContextMenu :items="graphMenu">
                <GraphEditor ref="graph" @aim="graphMenu = menuOf(COMMANDS, MENUS[$event])" />
              </UContextMenu>
              <FirstVisit />
            </div>
          </div>
          <MeshPanel
            v-if="tab === 'mesh'"
            @choose="chooser?.open()"
            @unwrap="bringing(project.unwrap)"
            @frame="stage?.frame()"
            @build="showBuild"
          />
          <SheetView v-if="tab === 'compare'" :stage="stage" @build="tab = 'build'" />
          <DeliverPanel v-if="tab === 'deliver'" :stage="stage" @unwrap="bringing(project.unwrap, 'deliver')" />
        </SplitterPanel>
      </SplitterGroup>
    </main>
    <FootLine :picked="picked" :job="job" />
    <FileChooser
      ref="chooser"
      multiple
      :accept="[...MESH_ENDINGS, ...COMPANION_ENDINGS].join()"
      label="Mesh files"
      @choose="bring"
    />
    <FileChooser ref="lookChooser" :accept="LOOK_ENDINGS.join()" label="Look file" @choose="bring" />
    <KeysHelp v-model:open="help" :commands="COMMANDS" />
    <CommandMenu v-model:open="finding" :commands="COMMANDS" />
    <ConnectMenu v-model:open="connecting" />
    <ReplaceDialog @apply="bringing(project.replace, tab)" @cancel="project.forget()" />
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
</style>
