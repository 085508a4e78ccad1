<script setup lang="ts">
import { useElementSize, useDevicePixelRatio, useThrottleFn } from '@vueuse/core'
import { setParam } from '#core/graph/edit'
import { nodeOf } from '#core/graph/ports'
import { CHANNELS, type Pin } from '#core/graph/types'
import { signature } from '#core/program/lower'
import { evaluator, kernels } from '../evaluation'
import { Stage } from '../stage/stage'
import { VIEWS, type View } from '../stage/lookMaterial'
import { LEVELS } from '../stores/mesh'
import type { Picked } from '../workers/evaluate.worker'

/** `mode` is what the stage is for: judging the look, or looking at what the mesh is made of. */
const props = defineProps<{ mode: 'look' | 'mesh' }>()
const emit = defineEmits<{ picked: [what: Picked | null] }>()
const project = useProject(), mesh = useMesh()
const colorMode = useColorMode()
const holder = useTemplateRef('holder'), canvas = useTemplateRef('canvas')
const { width, height } = useElementSize(holder)
const { pixelRatio } = useDevicePixelRatio()
const stage = shallowRef<Stage>()
const view = ref<View>('finished')
const failure = ref('')
/** The channels that every finish has, and those that this look sets. */
const channels = shallowRef<ReadonlySet<string>>(new Set())
const views = computed(() => VIEWS.filter((v, i) => i < 4 || channels.value.has(v) || view.value === v))
const titles: Record<View, string> = { finished: 'Finished', ...Object.fromEntries(Object.entries(CHANNELS).map(([k, c]) => [k, c.title])) } as Record<View, string>
const levelTitles = { object: 'Objects', group: 'Groups', part: 'Parts', patch: 'Patches' }

onMounted(async () => {
  const loaded = await kernels()
  try {
    stage.value = markRaw(new Stage(canvas.value!, loaded))
  }
  catch {
    failure.value = 'The stage needs WebGL 2, which this browser does not offer. The graph and the delivery work without it.'
    return
  }
  stage.value.drawn = (submitMs) => {
    const { dataset } = canvas.value!
    dataset.frames = String(Number(dataset.frames ?? 0) + 1)
    dataset.submitMs = submitMs.toFixed(3)
    dataset.compiled = String(stage.value!.material.compiled)
    placeMarks()
  }
})
onBeforeUnmount(() => stage.value?.dispose())

watch([stage, width, height, pixelRatio], () => stage.value?.resize(width.value, height.value, Math.min(2, pixelRatio.value)))
watch([stage, () => project.tables], () => { if (stage.value && project.tables) stage.value.setMesh(project.tables) })
watch([stage, () => project.tables, () => project.look], () => {
  if (!stage.value || !project.tables) return
  const from = performance.now(), waits = stage.value.setLook(project.look)
  channels.value = stage.value.channels
  canvas.value!.dataset.updateMs = (performance.now() - from).toFixed(3)
  clearTimeout(resting)
  if (!waits) lagging.value = false
  else {
    void gather(false)
    resting = setTimeout(() => void gather(true), REST)
  }
})

// Coverage, softening and the like come from the worker. While the hands move they follow as fast as they can, from fewer
// points; when they rest, from all. The stage shows the last good state meanwhile, and says so.
const REST = 250, SAY_AFTER = 150
const lagging = ref(false)
let resting: ReturnType<typeof setTimeout> | undefined, gathering = false, asking: { exact: boolean } | undefined, sentFor: { tables: unknown, shape: string } | undefined
async function gather(exact: boolean): Promise<void> {
  if (asking) asking.exact = exact || asking.exact
  else asking = { exact }
  if (gathering) return
  gathering = true
  const saying = setTimeout(() => { lagging.value = true }, SAY_AFTER)
  try {
    while (asking && stage.value && project.tables) {
      const { exact: all } = asking, { look, tables } = project, shape = signature(look)
      asking = undefined
      const again = sentFor?.tables !== tables || sentFor.shape !== shape
      const values = await evaluator.gather(look, all, again)
      if (project.tables !== tables) {
        asking = { exact: true }
        continue
      }
      sentFor = { tables, shape }
      stage.value.give(look, values)
    }
  }
  finally {
    clearTimeout(saying)
    gathering = lagging.value = false
  }
}
watch([stage, view], () => stage.value?.setView(view.value))
watch([stage, () => colorMode.value], () => {
  const css = getComputedStyle(document.documentElement)
  stage.value?.setBackground(css.getPropertyValue('--ub-stage').trim())
  stage.value?.setAccent(css.getPropertyValue('--ub-accent').trim())
}, { flush: 'post' })

// What the Mesh tab shows. Registered after the mesh is set, so that the values fit its vertices.
watch([stage, () => props.mode, () => mesh.shown, () => mesh.shownMap, () => mesh.falseColors, () => mesh.span, () => project.tables], () => {
  if (!stage.value || !project.tables) return
  const shown = mesh.shownMap
  stage.value.setInspected(props.mode === 'look' ? null : mesh.shown.kind === 'level'
    ? { kind: 'level', level: mesh.shown.level }
    : shown ? { kind: 'values', values: shown.map.values, stride: shown.map.components, offset: shown.component, span: mesh.span, falseColors: mesh.falseColors } : { kind: 'level', level: 'part' })
})
watch([stage, () => mesh.selected, () => mesh.hidden, () => project.tables, () => props.mode], () =>
  stage.value?.setParts(props.mode === 'mesh' ? mesh.selected : new Set(), mesh.hidden))
watch([stage, () => mesh.flat, () => props.mode, () => project.opened], async () => {
  const flat = mesh.flat && props.mode === 'mesh'
  if (flat) await mesh.loadLayout()
  stage.value?.setFlat(flat, mesh.layout)
})

/** Places on the canvas of the extremes of the map that is shown, and of the tiles' numbers. */
const marks = shallowRef<{ text: string, x: number, y: number }[]>([])
function placeMarks(): void {
  const next: typeof marks.value = [], positions = project.tables?.mesh.positions, uvs = project.tables?.mesh.uvs
  const put = (text: string, at: readonly [number, number, number]) => {
    const place = stage.value?.project(at)
    if (place && place.every(x => x >= 0 && x <= 1)) next.push({ text, x: place[0], y: place[1] })
  }
  if (props.mode === 'mesh' && positions) {
    const flat = mesh.flat && uvs
    if (mesh.marks && mesh.shown.kind === 'map' && mesh.reading) {
      for (const [text, v] of [['lowest', mesh.reading.lowest], ['highest', mesh.reading.highest]] as const) {
        put(text, flat ? [uvs[v * 2]!, 1 - uvs[v * 2 + 1]!, 0] : [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!])
      }
    }
    if (flat) for (const t of mesh.layout?.tiles ?? []) put(String(t), [(t - 1001) % 10, Math.floor((t - 1001) / 10), 0])
  }
  if (next.length || marks.value.length) marks.value = next
}
watch([() => mesh.marks, () => mesh.reading], () => stage.value?.invalidate())

let asked = 0
const look = useThrottleFn(async (x: number, y: number) => {
  const mine = ++asked
  if (!stage.value || !project.tables) return
  const found = await evaluator.pick(project.look, stage.value.ray(x, y))
  if (mine === asked) emit('picked', found)
}, 60, true)
const placeOf = (e: PointerEvent): [number, number] => {
  const box = canvas.value!.getBoundingClientRect()
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]
}
function leave(): void {
  asked++
  emit('picked', null)
}

// Selecting: a click picks, Shift and a drag draw a box. Drags without Shift turn the mesh.
const from = ref<[number, number] | null>(null), to = ref<[number, number]>([0, 0])
let pressed: [number, number] | undefined
const boxing = computed(() => from.value && {
  left: `${Math.min(from.value[0], to.value[0]) * 100}%`, top: `${Math.min(from.value[1], to.value[1]) * 100}%`,
  width: `${Math.abs(from.value[0] - to.value[0]) * 100}%`, height: `${Math.abs(from.value[1] - to.value[1]) * 100}%`,
})
function press(e: PointerEvent): void {
  if ((props.mode !== 'mesh' && !project.picking) || e.button !== 0 || !stage.value) return
  pressed = placeOf(e)
  if (!e.shiftKey || props.mode !== 'mesh') return
  stage.value.turning = false
  from.value = to.value = pressed
}
function hover(e: PointerEvent): void {
  if (from.value) to.value = placeOf(e)
  else if (!e.buttons) void look(...placeOf(e))
}
function release(e: PointerEvent): void {
  const at = placeOf(e), begun = pressed
  pressed = undefined
  if (!begun || !stage.value) return
  const moved = Math.hypot((at[0] - begun[0]) * width.value, (at[1] - begun[1]) * height.value) > 4
  if (from.value) {
    from.value = null
    stage.value.turning = true
    if (moved) return mesh.choose(stage.value.partsIn(...begun, ...at), 'add')
  }
  else if (moved) return
  const [x, y] = at, found = stage.value.partsIn(x, y, x, y)
  if (project.picking && props.mode === 'look') {
    if (found.length) pinPart(project.tables!.parts.parts[found[0]!]!.key)
    return
  }
  if (found.length) mesh.choose(found.slice(0, 1), e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only')
  else if (!e.shiftKey) mesh.select([])
}
/** Adds a part to the list that is being picked into; one that is there already is rolled once more. */
function pinPart(key: string): void {
  const { node, param } = project.picking!, pins = (nodeOf(project.page, node)?.params[param] ?? []) as Pin[], old = pins.find(p => p.part === key)
  const next = old ? pins.map(p => p === old ? { part: key, roll: (old.roll ?? 0) + 1 } : p) : [...pins, { part: key, roll: 1 }]
  project.editPage('Roll a part again', look => setParam(look, node, param, next))
}
function key(e: KeyboardEvent): void {
  const moves: Record<string, [number, number, number]> = {
    ArrowLeft: [-0.1, 0, 1], ArrowRight: [0.1, 0, 1], ArrowUp: [0, -0.1, 1], ArrowDown: [0, 0.1, 1], '+': [0, 0, 0.9], '=': [0, 0, 0.9], '-': [0, 0, 1.1],
  }
  const move = moves[e.key]
  if (!move) return
  stage.value?.orbit(...move)
  e.preventDefault()
  e.stopPropagation()
}
const frame = (): void => stage.value?.frame(props.mode === 'mesh' && mesh.selected.size ? mesh.selected : undefined)
defineExpose({ picture: (w: number, h: number) => stage.value?.picture(w, h) ?? Promise.resolve(null), frame })
</script>

<template>
  <section class="stage" aria-label="Stage">
    <div ref="holder" class="holder">
      <canvas
        ref="canvas" tabindex="0" role="img" aria-label="The mesh. Arrow keys turn it, plus and minus move nearer and farther."
        @pointerdown.capture="press" @pointermove="hover" @pointerup="release" @pointerleave="leave" @keydown="key"
      />
      <span v-for="m in marks" :key="m.text" class="mark" :style="{ left: `${m.x * 100}%`, top: `${m.y * 100}%` }">{{ m.text }}</span>
      <span v-if="boxing" class="box" :style="boxing" />
      <p v-if="mesh.hidden.size && project.tables" class="veiled">{{ mesh.hidden.size }} {{ mesh.hidden.size === 1 ? 'part' : 'parts' }} hidden <button type="button" @click="mesh.hide([])">Show all</button></p>
      <p v-if="lagging && mode === 'look'" class="lagging" role="status">Coverage and the like are catching up</p>
      <p v-if="failure" class="notice">{{ failure }}</p>
      <slot />
    </div>
    <div v-if="mode === 'look'" class="edge">
      <div class="views" role="radiogroup" aria-label="What the stage shows">
        <label v-for="v in views" :key="v" :class="{ on: view === v }">
          <input v-model="view" type="radio" name="view" :value="v" @keydown.stop>{{ titles[v] }}
        </label>
      </div>
      <span class="grow" />
      <button type="button" title="Show the whole mesh (F)" @click="frame">Frame</button>
    </div>
    <div v-else class="edge" role="radiogroup" aria-label="What the stage shows">
      <label v-for="l in LEVELS" :key="l" :class="{ on: mesh.shown.kind === 'level' && mesh.shown.level === l }">
        <input type="radio" name="level" :checked="mesh.shown.kind === 'level' && mesh.shown.level === l" @change="mesh.shown = { kind: 'level', level: l }" @keydown.stop>{{ levelTitles[l] }}
      </label>
      <label :class="{ on: mesh.shown.kind === 'map' }">
        <input type="radio" name="level" :checked="mesh.shown.kind === 'map'" :disabled="!project.tables?.mesh.maps.length" @change="mesh.shown = { kind: 'map', name: project.tables!.mesh.maps[0]!.name, component: 0 }" @keydown.stop>Map
      </label>
      <span class="grow" />
      <button type="button" :aria-pressed="mesh.flat" :class="{ on: mesh.flat }" :disabled="!project.tables?.mesh.uvs" :title="project.tables?.mesh.uvs ? 'Lay the surface out by its UVs (U)' : 'The mesh has no UVs'" @click="mesh.flat = !mesh.flat">UV layout</button>
      <button type="button" title="Show the selection, or the whole mesh (F)" @click="frame">Frame</button>
    </div>
  </section>
</template>

<style scoped>
.stage { display: grid; grid-template-rows: 1fr auto; min-height: 0; }
.holder { position: relative; min-height: 0; background: var(--ub-stage); overflow: hidden; }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; cursor: grab; }
canvas:active { cursor: grabbing; }
canvas:focus-visible { outline-offset: -3px; }
.notice { position: absolute; inset: auto 16px 16px; padding: 10px 12px; background: var(--ub-card); }
.mark { position: absolute; transform: translate(5px, -50%); padding: 0 5px; font-size: 11px; background: var(--ub-card); pointer-events: none; }
.mark::before { content: ''; position: absolute; left: -8px; top: 50%; width: 6px; height: 6px; margin-top: -4px; border: 1.5px solid var(--ub-text); background: var(--ub-card); border-radius: 50%; }
.box { position: absolute; border: 1px dashed var(--ub-accent); background: color-mix(in srgb, var(--ub-accent) 12%, transparent); pointer-events: none; }
.veiled { position: absolute; left: 12px; bottom: 8px; padding: 2px 8px; font-size: 12px; background: var(--ub-card); color: var(--ub-quiet); }
.lagging { position: absolute; right: 12px; bottom: 8px; padding: 2px 8px; font-size: 12px; background: var(--ub-card); color: var(--ub-quiet); pointer-events: none; }
.veiled button { color: var(--ub-text); text-decoration: underline; text-underline-offset: 3px; margin-left: 6px; }
.edge { display: flex; align-items: stretch; height: 30px; border-bottom: 1px solid var(--ub-line); padding: 0 14px; gap: 14px; white-space: nowrap; }
.views { display: flex; gap: 14px; overflow-x: auto; scrollbar-width: none; min-width: 0; }
label, .edge button { display: flex; align-items: center; color: var(--ub-quiet); cursor: pointer; border-bottom: 2px solid transparent; white-space: nowrap; }
label:hover, .edge button:hover:enabled { color: var(--ub-text); }
label.on, .edge button.on { color: var(--ub-text); font-weight: 500; border-bottom-color: var(--ub-accent); }
.edge button:disabled { opacity: .5; cursor: default; }
label:focus-within { outline: 2px solid var(--ub-accent); }
input { position: absolute; opacity: 0; pointer-events: none; }
.grow { flex: 1; }
</style>
