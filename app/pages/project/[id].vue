<script setup lang="ts">
import { useEventListener, useThrottleFn } from '@vueuse/core'
import { COMPANION_ENDINGS, MESH_ENDINGS } from '#core/exchange/meshFile'
import { request } from '../../request'
import ReplaceDialog from '../../components/mesh/ReplaceDialog.vue'
import ShownPanel from '../../components/mesh/ShownPanel.vue'
import type { Picked } from '../../workers/evaluate.worker'

const project = useProject(), mesh = useMesh()
const route = useRoute()
const colorMode = useColorMode()
const { refresh } = useAnalysis()
const TABS = [{ key: 'mesh', title: 'Mesh' }, { key: 'build', title: 'Build' }, { key: 'deliver', title: 'Deliver' }] as const
const tab = ref<typeof TABS[number]['key']>('build')
const picked = shallowRef<Picked | null>(null)
const stage = useTemplateRef('stage'), graph = useTemplateRef('graph'), chooser = useTemplateRef('chooser')
const upload = ref<number | null>(null)
const problem = ref('')
const over = ref(false)
const help = ref(false)
const KEYS = [
  ['A', 'Add a node'], ['F', 'Show the whole mesh, or on the Mesh tab what is selected'], ['U', 'On the Mesh tab: the UV layout'], ['I, H', 'On the Mesh tab: isolate, hide what is selected'], ['G', 'Show the whole graph'], ['Delete', 'Remove what is selected'], ['Ctrl D', 'Duplicate the selected nodes'], ['R, Shift R', 'Fold the selected nodes into a recipe, unfold one'], ['Enter, Escape', 'Open the selected recipe, close it'], ['E', 'Replace the selected wire by an echo'], ['N, Shift N', 'Add a note, a frame around the selected nodes'],
  ['Ctrl Z', 'Undo'], ['Ctrl Shift Z', 'Redo'], ['Ctrl S', 'Save now'], ['Arrows', 'Move the selected cards; on the stage, turn the mesh; in a number, step it'],
  ['+ and −', 'On the stage: nearer, farther'], ['Shift, Alt', 'While dragging a number: finer, coarser'], ['?', 'This list'],
]
const job = computed(() => upload.value === null || !upload.value ? mesh.computing ?? '' : `Storing the mesh, ${Math.round(upload.value * 100)} %`)

/** The number that the map on the stage has under the cursor. */
const underCursor = computed(() => {
  const at = picked.value, shown = mesh.shownMap, indices = project.tables?.mesh.indices
  if (!at || !shown || !indices) return undefined
  const [a, b, c] = [0, 1, 2].map(k => shown.map.values[indices[at.triangle * 3 + k]! * shown.map.components + shown.component]!) as [number, number, number]
  return a + (b - a) * at.u + (c - a) * at.v
})

onMounted(async () => {
  await project.open(String(route.params.id))
  if (!project.tables && !project.failure) tab.value = 'mesh'
})
onBeforeRouteLeave(async () => {
  await keepPicture()
  await project.save()
})
useHead({ title: () => project.meta ? `${project.meta.name} · Ubblet` : 'Ubblet' })

// Swatches and readings come after the frame: the stage goes first.
let asked = false
watch([() => project.look, () => project.tables, () => project.selected, () => project.scope], () => {
  if (asked) return
  asked = true
  requestAnimationFrame(() => setTimeout(() => {
    asked = false
    void refresh()
  }))
})

// The picture on the home page follows the work, but not at every move.
let pictured: { look: unknown, tables: unknown } | undefined
async function keepPicture(): Promise<void> {
  const { look, tables } = project
  if (!project.meta || !tables || (pictured?.look === look && pictured.tables === tables)) return
  pictured = { look, tables }
  const blob = await stage.value?.picture(480, 300)
  if (blob && project.meta) await request(`/api/projects/${project.meta.id}/thumbnail`, { method: 'PUT', bytes: blob }).catch(() => { pictured = undefined })
}
const pictureSoon = useThrottleFn(keepPicture, 15_000, true, false)
watch(() => project.saveState, (state) => { if (state === 'saved' && project.tables) setTimeout(() => void pictureSoon(), 500) })
watch(() => project.tables, (tables) => { if (tables) setTimeout(() => void keepPicture(), 800) })

/** Runs something that may bring in a mesh, with its upload's progress; answers come as a sentence or not at all. */
async function bringing(work: (progress: (share: number) => void) => Promise<string | null>): Promise<void> {
  over.value = false
  upload.value = 0
  problem.value = await work((x) => { upload.value = x }) ?? ''
  upload.value = null
  if (!problem.value) tab.value = 'mesh'
}
/** A picture goes into the project; anything else is a mesh. */
async function addPicture(file: File): Promise<void> {
  over.value = false
  problem.value = await project.addPicture(file) ?? ''
}
const bring = (files: FileList | null | undefined) => files?.length === 1 && /^image\/(png|jpeg|webp)$/.test(files[0]!.type) ? addPicture(files[0]!) : files?.length ? bringing(progress => project.importMesh([...files], progress)) : undefined

/** Keys of the Mesh tab alone. */
const meshKeys: Record<string, () => unknown> = {
  f: () => stage.value?.frame(), u: () => { if (project.tables?.mesh.uvs) mesh.flat = !mesh.flat }, i: () => mesh.isolate(), h: () => mesh.hide([...mesh.hidden, ...mesh.selected]),
  escape: () => mesh.select([]),
}
const typing = (e: Event): boolean => e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement || e.target instanceof HTMLTextAreaElement
/** Text that is being typed has an undo of its own, the browser's. */
const writing = (e: Event): boolean => e.target instanceof HTMLTextAreaElement
  || (e.target instanceof HTMLInputElement && !['checkbox', 'radio'].includes(e.target.type) && e.target.dataset.settled === undefined)
// Before the fields, which keep their keys to themselves.
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (!e.ctrlKey && !e.metaKey) return
  const key = e.key.toLowerCase()
  if (key === 's') void project.save()
  else if (writing(e)) return
  else if (key === 'y' || (key === 'z' && e.shiftKey)) project.redo()
  else if (key === 'z') project.undo()
  else return
  e.preventDefault()
}, { capture: true })
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  const command = e.ctrlKey || e.metaKey, key = e.key.toLowerCase()
  if (e.key === '?' && !typing(e)) help.value = true
  else if (tab.value === 'mesh' && !typing(e) && !command && !e.altKey && meshKeys[key]) meshKeys[key]!()
  else if (tab.value !== 'build' || typing(e)) return
  else if (command && key === 'd') {
    e.preventDefault()
    graph.value?.duplicate()
  }
  else if (command || e.altKey) return
  else if (key === 'delete' || key === 'backspace') graph.value?.removeSelected()
  else if (key === 'a') {
    e.preventDefault()
    graph.value?.openMenu()
  }
  else if (key === 'f') stage.value?.frame()
  else if (key === 'g') graph.value?.fit()
  else if (key === 'r') graph.value?.[e.shiftKey ? 'unfold' : 'fold']()
  else if (key === 'n') graph.value?.[e.shiftKey ? 'frame' : 'write']()
  else if (key === 'e') graph.value?.echo()
  else if (key === 'enter' && e.target === document.body) graph.value?.open()
  else if (key === 'escape' && project.scope.length) graph.value?.close()
})
useEventListener(window, 'beforeunload', (e) => {
  if (!['saved', 'stale'].includes(project.saveState)) {
    void project.save()
    e.preventDefault()
  }
})
useEventListener(window, 'dragover', (e: DragEvent) => {
  if (!e.dataTransfer?.types.includes('Files')) return
  e.preventDefault()
  over.value = true
})
useEventListener(window, 'dragleave', (e: DragEvent) => { if (!e.relatedTarget) over.value = false })
useEventListener(window, 'drop', (e: DragEvent) => {
  e.preventDefault()
  over.value = false
  void bring(e.dataTransfer?.files)
})

const rename = (e: Event) => {
  const target = e.target as HTMLInputElement
  project.rename(target.value).catch((error: Error) => { problem.value = error.message }).finally(() => { target.value = project.meta?.name ?? '' })
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
      <NuxtLink to="/" class="home" aria-label="All projects"><img src="/mark.svg" alt="" width="20" height="20"></NuxtLink>
      <input class="name" :value="project.meta?.name" aria-label="Name of the project" maxlength="120" spellcheck="false" @change="rename" @keydown.stop>
      <nav role="tablist" aria-label="Work">
        <button v-for="t in TABS" :key="t.key" role="tab" type="button" :aria-selected="tab === t.key" :class="{ on: tab === t.key }" @click="tab = t.key">{{ t.title }}</button>
      </nav>
      <span class="grow" />
      <button type="button" class="tool" :disabled="!project.undoLabel" :title="project.undoLabel ? `Undo: ${project.undoLabel} (Ctrl+Z)` : 'Nothing to undo'" aria-label="Undo" @click="project.undo()"><UIcon name="i-lucide-undo-2" /></button>
      <button type="button" class="tool" :disabled="!project.redoLabel" :title="project.redoLabel ? `Redo: ${project.redoLabel} (Ctrl+Shift+Z)` : 'Nothing to redo'" aria-label="Redo" @click="project.redo()"><UIcon name="i-lucide-redo-2" /></button>
      <button type="button" class="checks" :class="{ some: project.findings.length }" :disabled="!project.findings.length" @click="showFinding">
        <UIcon :name="project.findings.length ? 'i-lucide-triangle-alert' : 'i-lucide-check'" /> {{ project.findings.length ? `${project.findings.length} ${project.findings.length === 1 ? 'finding' : 'findings'}` : 'Checks are clear' }}
      </button>
      <button type="button" class="tool" aria-label="Keys" title="Keys (?)" @click="help = true"><UIcon name="i-lucide-keyboard" /></button>
      <button type="button" class="tool" :aria-label="colorMode.value === 'dark' ? 'Light theme' : 'Dark theme'" @click="colorMode.preference = colorMode.value === 'dark' ? 'light' : 'dark'"><UIcon :name="colorMode.value === 'dark' ? 'i-lucide-sun' : 'i-lucide-moon'" /></button>
    </header>

    <p v-if="problem" class="banner" role="alert">{{ problem }} The project is as it was. <button type="button" @click="problem = ''">Close</button></p>
    <p v-if="project.failure" class="banner" role="alert">{{ project.failure }} <NuxtLink to="/">Back to all projects</NuxtLink></p>
    <p v-if="project.saveState === 'stale'" class="banner" role="alert">
      This project was saved in another window in the meantime. Nothing is lost: choose which state goes on.
      <button type="button" @click="project.resolveStale('mine')">Go on with mine</button>
      <button type="button" @click="project.resolveStale('theirs')">Take the other; mine stays one undo away</button>
    </p>
    <p v-if="project.saveState === 'refused'" class="banner" role="alert">{{ project.saveError }}</p>

    <main>
      <div class="left">
        <StageView ref="stage" :mode="tab === 'mesh' ? 'mesh' : 'look'" @picked="picked = $event">
          <p v-if="project.busy" class="over">{{ project.busy }} …</p>
          <p v-else-if="!project.tables && !project.failure" class="over">No mesh yet. Drop a file here.</p>
        </StageView>
        <ShownPanel v-if="tab === 'mesh' && project.tables" :value="underCursor" />
        <ControlPanel v-else />
      </div>
      <GraphEditor v-show="tab === 'build'" ref="graph" />
      <MeshPanel v-if="tab === 'mesh'" @choose="chooser?.click()" @unwrap="bringing(project.unwrap)" @frame="stage?.frame()" />
      <DeliverPanel v-if="tab === 'deliver'" />
    </main>
    <FootLine :picked="picked" :job="job" />
    <input ref="chooser" type="file" multiple :accept="[...MESH_ENDINGS, ...COMPANION_ENDINGS].join()" hidden aria-label="Mesh files" @change="bring(($event.target as HTMLInputElement).files); ($event.target as HTMLInputElement).value = ''">
    <UModal v-model:open="help" title="Keys" description="What the keyboard does on this page.">
      <template #body>
        <dl class="keys"><template v-for="[k, what] in KEYS" :key="k"><dt class="num">{{ k }}</dt><dd>{{ what }}</dd></template></dl>
      </template>
    </UModal>
    <ReplaceDialog @apply="bringing(project.replace)" @cancel="project.forget()" />
    <div v-if="over" class="drop">Drop a mesh with the files that it names, or a picture, to bring it into this project</div>
  </div>
</template>

<style scoped>
.bench { height: 100%; display: flex; flex-direction: column; }
.top { display: flex; align-items: stretch; gap: 6px; height: 40px; padding: 0 12px; border-bottom: 1px solid var(--ub-line); }
.home { display: grid; place-items: center; padding-right: 4px; }
.name { width: 230px; background: none; border: 0; font-weight: 500; padding: 0 6px; text-overflow: ellipsis; }
nav { display: flex; gap: 4px; padding-left: 10px; }
nav button { padding: 0 14px; color: var(--ub-quiet); border-bottom: 2px solid transparent; }
nav button.on { color: var(--ub-text); font-weight: 500; border-bottom-color: var(--ub-accent); }
.grow { flex: 1; }
.tool { width: 30px; display: grid; place-items: center; color: var(--ub-quiet); }
.tool:disabled { opacity: .4; }
.checks { display: flex; align-items: center; gap: 6px; padding: 0 10px; color: var(--ub-quiet); }
.checks.some { color: var(--ub-warn); }
main { flex: 1; min-height: 0; display: grid; grid-template-columns: 2fr 3fr; }
main > * { min-width: 0; min-height: 0; }
.left { display: grid; grid-template-rows: 55fr 45fr; border-right: 1px solid var(--ub-line); min-height: 0; }
.left > * { min-height: 0; }
.over { position: absolute; inset: 0; display: grid; place-items: center; color: var(--ub-text); pointer-events: none; }
.banner { padding: 6px 14px; background: var(--ub-card); border-bottom: 1px solid var(--ub-line); color: var(--ub-warn); }
.banner button, .banner a { text-decoration: underline; text-underline-offset: 3px; margin-left: 12px; color: var(--ub-text); }
.drop { position: fixed; inset: 10px; z-index: 50; display: grid; place-items: center; font-size: 18px; background: color-mix(in srgb, var(--ub-panel) 88%, transparent); border: 2px dashed var(--ub-accent); pointer-events: none; }
.keys { display: grid; grid-template-columns: 120px 1fr; gap: 6px 14px; }
.keys dt { color: var(--ub-quiet); }
</style>
