<script setup lang="ts">
import type { Look } from '#core/graph/look'
import { useElementSize, useDevicePixelRatio, useThrottleFn } from '@vueuse/core'
import { setParam } from '#core/graph/edit'
import { CHANNELS } from '#core/graph/types'
import { pinnedAgain } from '#core/graph/pins'
import { titleOf } from '#core/graph/check'
import { kindFor, outputType } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/ports'
import { evaluator, kernels } from '../shared/evaluation'
import { drawsInSoftware, Stage, type Inspected, type Standing } from './stage'
import { VIEWS, type View } from './lightPass'
import { useRightClick } from '../shared/rightClick'
import type { WholeValues } from '#core/evaluate/gather'
import type { TileLight } from '../compare/useSheet'
import type { Sight } from './eyes'
import { CostlyValues } from './costlyValues'
import { shapeOf } from './shownLook'
import type { Tone } from './useLooking'
import { LEVELS } from '../mesh/useMesh'
import { handsRest } from './turns'
import type { Picked } from '../shared/evaluate.worker'
import { count } from '../shared/units'

/** `mode` is what the stage is for: judging the look, or looking at what the mesh is made of. */
const props = defineProps<{ mode: 'look' | 'mesh' }>()
const emit = defineEmits<{ picked: [what: Picked | null]; aim: [] }>()
const project = useProject()
const mesh = useMesh()
const looking = useLooking()
const { analysis } = useAnalysis()
const colorMode = useColorMode()
const holder = useTemplateRef('holder')
const root = useTemplateRef('root')
const canvas = useTemplateRef('canvas')
const { width, height } = useElementSize(holder)
const { pixelRatio } = useDevicePixelRatio()
const stage = shallowRef<Stage>()
/**
 * Counts frames, for what is laid over the canvas; held in an object, since a ref that the template reads draws all of
 * this anew.
 */
const clock = { frames: ref(0) }
const { view } = storeToRefs(looking)
const failure = ref('')
/** The channels that every finish has, and those that this look sets. */
const channels = shallowRef<ReadonlySet<string>>(new Set())
const views = computed(() =>
  VIEWS.filter((v, i) => i < 4 || channels.value.has(v) || view.value === v).map(value => ({
    value,
    title: titles[value],
  })),
)
const titles: Record<View, string> = {
  finished: 'Finished',
  ...Object.fromEntries(Object.entries(CHANNELS).map(([k, c]) => [k, c.title])),
} as Record<View, string>
const LEVEL_TITLES = { object: 'Objects', group: 'Groups', part: 'Parts', patch: 'Patches' }
const levels = computed(() => [
  ...LEVELS.map(value => ({ value, title: LEVEL_TITLES[value] })),
  { value: 'map' as const, title: 'Map', disabled: !project.tables?.mesh.maps.length },
])
function showLevel(level: (typeof LEVELS)[number] | 'map'): void {
  if (level !== 'map') mesh.shown = { kind: 'level', level }
  else mesh.shown = { kind: 'map', name: project.tables!.mesh.maps[0]!.name, component: 0 }
}

onMounted(async () => {
  const loaded = await kernels()
  try {
    stage.value = markRaw(
      new Stage(canvas.value!, loaded, { backend: looking.backend(drawsInSoftware()), threads: looking.threads }),
    )
  } catch {
    failure.value =
      'The stage needs WebGL 2, which this browser does not offer. The graph and the delivery work without it.'
    return
  }
  canvas.value!.dataset.backend = looking.evaluatedBy = stage.value.backend.name
  stage.value.drawn = tell
})
onBeforeUnmount(() => {
  clearTimeout(taking)
  stage.value?.dispose()
})

/** What the foot line and whoever measures need to know of the picture. */
function tell(standing: Standing): void {
  const { dataset } = canvas.value!
  dataset.frames = String(Number(dataset.frames ?? 0) + 1)
  dataset.submitMs = standing.submitMs.toFixed(3)
  dataset.compiled = String(stage.value!.compiled)
  dataset.picture = standing.step > 1 ? 'coarse' : 'sharp'
  if (standing.step === 0) dataset.picture = 'none'
  if (standing.final) dataset.picture = 'final'
  dataset.samples = String(standing.samples)
  dataset.evaluated = String(standing.evaluated)
  dataset.visible = String(standing.visible)
  dataset.ever = String(standing.ever)
  looking.standing = standing
  clock.frames.value++
  placeMarks()
}

watch([stage, width, height, pixelRatio], () =>
  stage.value?.resize(width.value, height.value, Math.min(2, pixelRatio.value)),
)
watch([stage, () => project.tables], () => {
  if (stage.value && project.tables) stage.value.setMesh(project.tables)
})
/** A look of another shape is taken in after whatever else a key or a click has changed is on the screen. */
let taking: ReturnType<typeof setTimeout> | undefined
watch([stage, () => project.tables, () => looking.shown, () => looking.probeKey], () => {
  clearTimeout(taking)
  if (!stage.value || !project.tables) return
  if (stage.value.fits(looking.shown, looking.probeKey)) takeLook()
  else taking = setTimeout(takeLook)
})
function takeLook(): void {
  if (!stage.value || !project.tables) return
  const from = performance.now()
  const waits = stage.value.setLook(looking.shown, looking.probeKey)
  channels.value = stage.value.channels
  canvas.value!.dataset.updateMs = (performance.now() - from).toFixed(3)
  clearTimeout(resting)
  if (!waits) lagging.value = false
  else {
    costly.soon()
    resting = setTimeout(() => costly.exactly(), REST)
  }
}

// Coverage, softening and the like come from the worker. While the hands move they follow as fast as they can, from
// fewer points; when they rest, from all. The stage shows the last good state meanwhile, and says so.
const REST = 250
const EXACT_WAITS = 8000
const lagging = ref(false)
let resting: ReturnType<typeof setTimeout> | undefined
const costly = new CostlyValues({
  seen() {
    const { tables } = project
    const { shown: look, probeKey: port } = looking
    return stage.value && tables ? { tables, shape: shapeOf(look, port), look, port } : null
  },
  find: ({ look, port }, pace, all) => evaluator.gather(look, pace, all, port),
  give: (shape, values) => stage.value?.give(shape, values),
  rests: () => handsRest(EXACT_WAITS),
  lags(on) {
    lagging.value = on
  },
})
// What is shown of it, and in what light.
const seen = computed(() => looking.probe && analysis.value?.ports[`${looking.probe.node}/${looking.probe.port}`])
watch([stage, view, () => looking.tone, seen, () => looking.probe], () => {
  const { low = 0, high = 1 } = seen.value ?? {}
  stage.value?.setView(looking.probe ? 'finished' : view.value, {
    span: looking.tone === 'asIs' ? [0, 1] : [low, high],
    falseColors: looking.tone === 'falseColors',
  })
})
watch([stage, () => looking.rig, () => looking.ownLight], () => {
  if (looking.rig === 'own') stage.value?.setPictureRig(looking.ownLight!.picture)
  else stage.value?.setRig(looking.rig)
})
// While the mesh is on its way.
watch([stage, () => project.meta?.mesh, () => looking.shown], () => {
  if (stage.value && project.meta?.mesh && !project.tables) stage.value.expect(looking.shown)
})
watch([stage, () => looking.turn, () => looking.brightness], () =>
  stage.value?.setLight(looking.turn, looking.brightness),
)
watch([stage, () => looking.eye], () => stage.value?.setEye(looking.eye))
watch([stage, () => looking.second], () => stage.value?.setSecond(looking.second))
watch([stage, () => ({ ...looking.switches })], () => stage.value?.setSwitches({ ...looking.switches }))
watch([stage, () => looking.balls, () => looking.edges, () => looking.spinning, () => props.mode], () => {
  if (!stage.value) return
  stage.value.showsBalls = looking.balls && props.mode === 'look'
  stage.value.showsEdges = looking.edges
  stage.value.spinning = looking.spinning
})
// The kept state is evaluated once; it changes only when the mesh does.
watch([stage, () => looking.kept, () => project.tables], async () => {
  const { kept } = looking
  const take = stage.value?.keep(kept)
  if (!kept || !take) return
  const values = await evaluator.gather(kept, 'exact', true)
  costly.forget()
  if (looking.kept === kept) take(shapeOf(kept), values)
})
watch([stage, () => looking.wipe], () => stage.value?.setWipe(looking.wipe))
watch(
  [stage, () => colorMode.value],
  () => {
    const css = getComputedStyle(document.documentElement)
    stage.value?.setBackground(css.getPropertyValue('--ub-stage').trim())
    stage.value?.setAccent(css.getPropertyValue('--ub-accent').trim())
  },
  { flush: 'post' },
)

function inspected(): Inspected {
  const { shownMap, span, falseColors } = mesh
  if (mesh.shown.kind === 'level') return { kind: 'level', level: mesh.shown.level }
  if (!shownMap) return { kind: 'level', level: 'part' }
  const { map, component } = shownMap
  return { kind: 'values', values: map.values, stride: map.components, offset: component, span, falseColors }
}
// What the Mesh tab shows. Registered after the mesh is set, so that the values fit its vertices.
watch(
  [
    stage,
    () => props.mode,
    () => mesh.shown,
    () => mesh.shownMap,
    () => mesh.falseColors,
    () => mesh.span,
    () => project.tables,
  ],
  () => {
    if (stage.value && project.tables) stage.value.setInspected(props.mode === 'look' ? null : inspected())
  },
)
watch([stage, () => mesh.selected, () => mesh.hidden, () => project.tables, () => props.mode], () =>
  stage.value?.setParts(mesh.selected, mesh.hidden),
)
watch([stage, () => mesh.flat, () => props.mode, () => project.opened], async () => {
  const flat = mesh.flat && props.mode === 'mesh'
  if (flat) await mesh.loadLayout()
  stage.value?.setFlat(flat, mesh.layout)
})

/** Places on the canvas of the extremes of the map that is shown, and of the tiles' numbers. */
const marks = shallowRef<{ text: string; x: number; y: number }[]>([])
function placeMarks(): void {
  const next: typeof marks.value = []
  const positions = project.tables?.mesh.positions
  const uvs = project.tables?.mesh.uvs
  const put = (text: string, at: readonly [number, number, number]) => {
    const place = stage.value?.project(at)
    if (place && place.every(x => x >= 0 && x <= 1)) next.push({ text, x: place[0], y: place[1] })
  }
  if (props.mode === 'mesh' && positions) {
    const flat = mesh.flat && uvs
    if (mesh.marks && mesh.shown.kind === 'map' && mesh.reading) {
      for (const [text, v] of [
        ['lowest', mesh.reading.lowest],
        ['highest', mesh.reading.highest],
      ] as const) {
        put(
          text,
          flat
            ? [uvs[v * 2]!, 1 - uvs[v * 2 + 1]!, 0]
            : [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!],
        )
      }
    }
    if (flat)
      for (const t of mesh.layout?.tiles ?? []) put(String(t), [(t - 1001) % 10, Math.floor((t - 1001) / 10), 0])
  }
  if (next.length || marks.value.length) marks.value = next
}
watch([() => mesh.marks, () => mesh.reading], () => stage.value?.invalidate())

/** The part and the values at a point of the canvas. */
async function pick(x: number, y: number): Promise<Picked | null> {
  const where = await stage.value!.at(x, y)
  return where && project.tables ? evaluator.pick(looking.shown, where) : null
}
let asked = 0
const look = useThrottleFn(
  async (x: number, y: number) => {
    const mine = ++asked
    if (!stage.value || !project.tables) return
    const found = await pick(x, y)
    if (mine === asked) emit('picked', found)
  },
  60,
  true,
)
const placeOf = (e: MouseEvent): [number, number] => {
  const box = canvas.value!.getBoundingClientRect()
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]
}
function leave(): void {
  asked++
  emit('picked', null)
}

useRightClick(
  canvas,
  async e => {
    if (stage.value && project.tables) {
      const part = (await pick(...placeOf(e)))?.part
      if (part !== undefined && !mesh.selected.has(part)) mesh.select([part])
    }
    emit('aim')
  },
  root,
)

// Selecting: a click picks, Shift and a drag draw a box. Drags without Shift turn the mesh.
const from = ref<[number, number] | null>(null)
const to = ref<[number, number]>([0, 0])
let pressed: [number, number] | undefined
const boxing = computed(
  () =>
    from.value && {
      left: `${Math.min(from.value[0], to.value[0]) * 100}%`,
      top: `${Math.min(from.value[1], to.value[1]) * 100}%`,
      width: `${Math.abs(from.value[0] - to.value[0]) * 100}%`,
      height: `${Math.abs(from.value[1] - to.value[1]) * 100}%`,
    },
)
function press(e: PointerEvent): void {
  if (e.button !== 0 || !stage.value) return
  pressed = placeOf(e)
  if (!e.shiftKey || props.mode !== 'mesh') return
  stage.value.turning = false
  from.value = to.value = pressed
}
function hover(e: PointerEvent): void {
  if (from.value) to.value = placeOf(e)
  else if (!e.buttons) void look(...placeOf(e))
}
async function release(e: PointerEvent): Promise<void> {
  const at = placeOf(e)
  const begun = pressed
  pressed = undefined
  if (!begun || !stage.value) return
  const moved = Math.hypot((at[0] - begun[0]) * width.value, (at[1] - begun[1]) * height.value) > 4
  if (from.value) {
    from.value = null
    stage.value.turning = true
    if (moved) return mesh.choose(await stage.value.partsIn(...begun, ...at), 'add')
  } else if (moved) return
  const [x, y] = at
  if (props.mode === 'look') {
    const hit = await pick(x, y)
    if (looking.dropper) {
      if (hit) looking.dropper.take(hit.channels.baseColor as [number, number, number])
      looking.dropper = null
    } else if (project.picking) {
      if (hit) pinPart(project.tables!.parts.parts[hit.part]!.key)
    } else if (hit) mesh.choose([hit.part], e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only')
    else if (!e.shiftKey) mesh.select([])
    return
  }
  const found = await stage.value.partsIn(x, y, x, y)
  if (mesh.pickInto) {
    if (found.length) mesh.pickInto.take(found[0]!)
    return
  }
  if (found.length) mesh.choose(found.slice(0, 1), e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only')
  else if (!e.shiftKey) mesh.select([])
}
/**
 * Adds a part to the list that is being picked into; one that is there already is rolled once more, or gets the next
 * color.
 */
function pinPart(key: string): void {
  const { node: id, param } = project.picking!
  const node = nodeOf(project.page, id)
  if (node) project.editPage('Draw a part again', look => setParam(look, id, param, pinnedAgain(node, param, key)))
}
function key(e: KeyboardEvent): void {
  const moves: Record<string, [number, number, number]> = {
    ArrowLeft: [-0.1, 0, 1],
    ArrowRight: [0.1, 0, 1],
    ArrowUp: [0, -0.1, 1],
    ArrowDown: [0, 0.1, 1],
    '+': [0, 0, 0.9],
    '=': [0, 0, 0.9],
    '-': [0, 0, 1.1],
  }
  const move = moves[e.key]
  if (!move) return
  stage.value?.orbit(...move)
  e.preventDefault()
  e.stopPropagation()
}
const frame = (): void => stage.value?.frame(mesh.selected.size ? mesh.selected : undefined)

// The wipe between the kept state and the one that is worked on.
function drag(e: PointerEvent): void {
  const target = e.currentTarget as HTMLElement
  if (e.type === 'pointerdown') target.setPointerCapture(e.pointerId)
  if (target.hasPointerCapture(e.pointerId)) looking.wipe = Math.min(1, Math.max(0, placeOf(e)[0]))
}
function step(e: KeyboardEvent): void {
  const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[e.key]
  if (by === undefined) return
  looking.wipe = Math.min(1, Math.max(0, looking.wipe + by))
  e.preventDefault()
  e.stopPropagation()
}
const figure = (x: number): string => Number(x.toPrecision(3)).toString()
const probed = computed(() => {
  const { probe } = looking
  const node = probe && nodeOf(project.page, probe.node)
  return node && probe
    ? {
        title: `${titleOf(node)}: ${kindFor(node)?.outputs[probe.port]?.title ?? probe.port}`,
        number: ['value', 'vector'].includes(outputType(node, kindFor(node)!.outputs[probe.port]!)),
      }
    : null
})
const soloTitle = computed(() =>
  looking.solo && nodeOf(project.look, looking.solo) ? titleOf(nodeOf(project.look, looking.solo)!) : '',
)
const chosen = computed(() => [...mesh.selected].map(i => project.tables?.parts.parts[i]?.name).filter(Boolean))
const TONES: { value: Tone; title: string }[] = [
  { value: 'asIs', title: '0 to 1' },
  { value: 'fitted', title: 'Fitted' },
  { value: 'falseColors', title: 'False colors' },
]
defineExpose({
  picture: (w: number, h: number) => stage.value?.picture(w, h) ?? Promise.resolve(null),
  frame,
  proof: (glb: ArrayBuffer, what: 'finished' | 'baseColor') => stage.value?.proof(glb, what) ?? Promise.resolve(null),
  eyePoint: () => stage.value?.eyePoint,
  viewKey: () => stage.value?.viewKey,
  endSheet: () => stage.value?.endSheet(),
  /** The part at a place of the picture, 0 to 1 from its upper left corner. */
  partAt: async (x: number, y: number): Promise<number | null> => {
    const at = await stage.value?.at(x, y)
    return at && 'triangle' in at ? project.tables!.parts.partOfTriangle[at.triangle]! : null
  },
  width: () => stage.value?.width ?? 0,
  /** Moves the camera around what it looks at, by angles in radians, and away from it by a factor. */
  orbit: (turn: number, tilt: number, zoom: number) => stage.value?.orbit(turn, tilt, zoom),
  standAt: (from: [number, number, number], to: [number, number, number]) => stage.value?.standAt(from, to),
  heightSeen: () => stage.value?.eyes.heightSeen,
  tile(look: Look, width: number, count: number, light?: TileLight, sight?: Sight) {
    const gather = (l: Look, exact: boolean): Promise<WholeValues> => {
      // What the worker has sent for the stage's own look does not hold for this one.
      costly.forget()
      return evaluator.gather(l, exact ? 'exact' : 'soon', true)
    }
    return stage.value?.tile(look, width, count, gather, light, sight) ?? Promise.resolve(null)
  },
})
</script>

<template>
  <section ref="root" class="stage" aria-label="Stage">
    <div ref="holder" class="holder">
      <canvas
        ref="canvas"
        tabindex="0"
        role="img"
        aria-label="The mesh. Arrow keys turn it, plus and minus move nearer and farther."
        @pointerdown.capture="press"
        @pointermove="hover"
        @pointerup="release"
        @pointerleave="leave"
        @keydown="key"
      />
      <span v-for="m in marks" :key="m.text" class="mark" :style="{ left: `${m.x * 100}%`, top: `${m.y * 100}%` }">{{
        m.text
      }}</span>
      <span v-if="boxing" class="box" :style="boxing" />
      <p v-if="mesh.hidden.size && project.tables" class="veiled">
        {{ count(mesh.hidden.size, 'part') }} hidden <UButton variant="bare" @click="mesh.hide([])">Show all</UButton>
      </p>
      <p v-if="mesh.pickInto && mode === 'mesh'" class="veiled" role="status">
        Click parts to put them in or take them out <UButton variant="bare" @click="mesh.pickInto = null">Done</UButton>
      </p>
      <p v-if="lagging && mode === 'look'" class="lagging" role="status">Coverage and the like are catching up</p>
      <template v-if="mode === 'look'">
        <StageHandles v-if="stage && project.tables" :stage="stage" :frames="clock.frames" />
        <div
          v-if="looking.kept"
          class="wipe"
          :style="{ left: `${looking.wipe * 100}%` }"
          role="slider"
          tabindex="0"
          aria-label="Wipe between the kept state and now"
          :aria-valuenow="Math.round(looking.wipe * 100)"
          aria-valuemin="0"
          aria-valuemax="100"
          aria-orientation="horizontal"
          @pointerdown="drag"
          @pointermove="drag"
          @keydown="step"
        >
          <span>kept</span><span>now</span>
        </div>
        <div v-if="probed" class="probe" role="status">
          <b>{{ probed.title }}</b>
          <span v-if="seen && probed.number" class="num"
            >{{ figure(seen.low) }} – {{ figure(seen.high) }} · mean {{ figure(seen.mean[0]) }} · above ½ on
            {{ Math.round(seen.covered * 100) }} %</span
          >
          <ChoiceBar
            v-if="probed.number"
            :value="looking.tone"
            :choices="TONES"
            label="Shown as"
            @change="looking.tone = $event"
          />
          <UTooltip text="Back to the result" :kbds="['P']"
            ><UButton variant="link" @click="looking.probe = null">Back to the result</UButton></UTooltip
          >
        </div>
        <p v-else-if="soloTitle" class="probe" role="status">
          <b>Only {{ soloTitle }}</b> over the base
          <UButton variant="link" @click="looking.solo = null">Show all steps</UButton>
        </p>
        <p v-if="looking.dropper" class="probe" role="status">
          Click the color for {{ looking.dropper.label }}
          <UButton variant="link" @click="looking.dropper = null">Leave it</UButton>
        </p>
        <p v-if="chosen.length" class="chosen">
          {{ chosen.length === 1 ? chosen[0] : count(chosen.length, 'part') }}
          <UTooltip text="Isolate" :kbds="['I']"
            ><UButton variant="link" @click="mesh.isolate()">Isolate</UButton></UTooltip
          ><UTooltip text="Hide" :kbds="['H']"
            ><UButton variant="link" @click="mesh.hide([...mesh.hidden, ...mesh.selected])"> Hide</UButton></UTooltip
          ><UButton variant="link" @click="mesh.select([])">Let go</UButton>
        </p>
      </template>
      <p v-if="failure" class="notice">{{ failure }}</p>
      <slot />
    </div>
    <div v-if="mode === 'look'" class="edge">
      <ChoiceBar class="views" :value="view" :choices="views" label="What the stage shows" @change="view = $event" />
      <span class="grow" />
      <StageLight />
      <StageEye />
      <UTooltip text="Keep this state beside the next ones" :kbds="['K']"
        ><UButton
          variant="bare"
          :aria-pressed="looking.kept !== null"
          :class="{ on: looking.kept }"
          @click="looking.keep()"
        >
          {{ looking.kept ? 'Forget' : 'Keep' }}
        </UButton></UTooltip
      >
      <UTooltip text="Show the selected parts, or the whole mesh" :kbds="['F']"
        ><UButton variant="bare" @click="frame">Fit mesh</UButton></UTooltip
      >
    </div>
    <div v-else class="edge">
      <ChoiceBar
        class="views"
        :value="mesh.shown.kind === 'level' ? mesh.shown.level : 'map'"
        :choices="levels"
        label="What the stage shows"
        @change="showLevel"
      />
      <span class="grow" />
      <UButton
        variant="bare"
        :aria-pressed="mesh.flat"
        :class="{ on: mesh.flat }"
        :disabled="!project.tables?.mesh.uvs"
        :title="project.tables?.mesh.uvs ? 'Lay the surface out by its UVs (U)' : 'The mesh has no UVs'"
        @click="mesh.flat = !mesh.flat"
      >
        UV layout
      </UButton>
      <UTooltip text="Show the selection, or the whole mesh" :kbds="['F']"
        ><UButton variant="bare" @click="frame">Fit mesh</UButton></UTooltip
      >
    </div>
  </section>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: 1fr auto;
  grid-template-columns: minmax(0, 1fr);
  min-height: 0;
}
.stage.alone {
  position: fixed;
  inset: 0;
  z-index: 30;
  grid-template-rows: 1fr;
  background: var(--ub-stage);
}
.stage.alone .edge {
  position: absolute;
  left: 50%;
  bottom: 14px;
  transform: translateX(-50%);
  max-width: calc(100% - 32px);
  border: 1px solid var(--ub-line);
  background: color-mix(in srgb, var(--ub-panel) 78%, transparent);
  backdrop-filter: blur(6px);
}
.holder {
  position: relative;
  min-height: 0;
  background: var(--ub-stage);
  overflow: hidden;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
  cursor: grab;
}
canvas:active {
  cursor: grabbing;
}
canvas:focus-visible {
  outline-offset: -3px;
}
.notice {
  position: absolute;
  inset: auto 16px 16px;
  padding: 10px 12px;
  background: var(--ub-card);
}
.mark {
  position: absolute;
  transform: translate(5px, -50%);
  padding: 0 5px;
  font-size: 11px;
  background: var(--ub-card);
  pointer-events: none;
}
.mark::before {
  content: '';
  position: absolute;
  left: -8px;
  top: 50%;
  width: 6px;
  height: 6px;
  margin-top: -4px;
  border: 1.5px solid var(--ub-text);
  background: var(--ub-card);
  border-radius: 50%;
}
.box {
  position: absolute;
  border: 1px dashed var(--ub-accent);
  background: color-mix(in srgb, var(--ub-accent) 12%, transparent);
  pointer-events: none;
}
.veiled {
  position: absolute;
  left: 12px;
  bottom: 34px;
  padding: 2px 8px;
  font-size: 12px;
  background: var(--ub-card);
  color: var(--ub-quiet);
}
.lagging {
  position: absolute;
  right: 12px;
  bottom: 8px;
  padding: 2px 8px;
  font-size: 12px;
  background: var(--ub-card);
  color: var(--ub-quiet);
  pointer-events: none;
}
.veiled button {
  color: var(--ub-text);
  text-decoration: underline;
  text-underline-offset: 3px;
  margin-left: 6px;
}
.edge {
  display: flex;
  align-items: stretch;
  height: 30px;
  border-bottom: 1px solid var(--ub-line);
  padding: 0 14px;
  gap: 14px;
  white-space: nowrap;
}
.views {
  overflow-x: auto;
  scrollbar-width: none;
  min-width: 0;
}
.edge button {
  display: flex;
  align-items: center;
  color: var(--ub-quiet);
  cursor: pointer;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.edge button:hover:enabled {
  color: var(--ub-text);
}
.edge button.on {
  color: var(--ub-text);
  font-weight: 500;
  border-bottom-color: var(--ub-accent);
}
.edge button:disabled {
  opacity: 0.5;
  cursor: default;
}
.grow {
  flex: 1;
}
.wipe {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 17px;
  margin-left: -8px;
  cursor: ew-resize;
  touch-action: none;
  background: linear-gradient(to right, transparent 8px, var(--ub-card) 8px, var(--ub-card) 9px, transparent 9px);
}
.wipe span {
  position: absolute;
  bottom: 8px;
  padding: 0 6px;
  font-size: 11px;
  background: var(--ub-card);
  color: var(--ub-quiet);
  pointer-events: none;
}
.wipe span:first-child {
  right: 14px;
}
.wipe span:last-child {
  left: 14px;
}
.probe {
  position: absolute;
  left: 10px;
  right: 10px;
  top: 8px;
  width: fit-content;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: center;
  padding: 3px 10px;
  font-size: 12px;
  background: var(--ub-card);
}
.probe b {
  font-weight: 500;
}
.probe .num {
  font-size: 11px;
  color: var(--ub-quiet);
}
.probe span[role] {
  display: flex;
  gap: 10px;
}
.chosen {
  position: absolute;
  left: 10px;
  bottom: 8px;
  display: flex;
  gap: 12px;
  padding: 2px 10px;
  font-size: 12px;
  background: var(--ub-card);
  max-width: 90%;
}
</style>
