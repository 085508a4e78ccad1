<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { decodeSrgb, toHex, type Triple } from '#core/color/convert'
import { pullPalette, type Pulled, type Region } from '#core/color/palette'
import { titleOf } from '#core/graph/check'
import { addNode, setParam } from '#core/graph/edit'
import { boardOf, pin } from '#core/graph/board'
import { kindFor } from '#core/graph/kinds'
import type { Pinned } from '#core/graph/look'
import { nodeOf } from '#core/graph/find'
import type { Stop } from '#core/graph/types'
import { isSeen, type Picture } from '#core/evaluate/pictures'

const emit = defineEmits<{ close: [] }>()
const project = useProject()
const looking = useLooking()
const root = useTemplateRef('root')
const chooser = useTemplateRef('chooser')
const said = ref('')
/** Pictures of numbers are for nodes, not for the eye. */
const pictures = computed(() => project.pictures.filter(isSeen))
const pinned = computed(() => boardOf(project.look, pictures.value))
const shown = computed(() =>
  pinned.value.filter(p => !p.off).map(p => ({ ...p, source: pictures.value.find(x => x.name === p.picture)! })),
)
const away = computed(() => pinned.value.filter(p => p.off))

// The board is moved and zoomed; that is not part of the document.
const view = reactive({ x: 24, y: 24, zoom: 1 })
function zoom(e: WheelEvent): void {
  const box = root.value!.getBoundingClientRect()
  const x = e.clientX - box.left
  const y = e.clientY - box.top
  const next = Math.min(8, Math.max(0.05, view.zoom * Math.exp(-e.deltaY * 0.0015)))
  view.x = x - ((x - view.x) * next) / view.zoom
  view.y = y - ((y - view.y) * next) / view.zoom
  view.zoom = next
}
function fit(): void {
  const box = root.value?.getBoundingClientRect()
  const all = shown.value
  if (!box || !all.length) return
  const left = Math.min(...all.map(p => p.at[0]))
  const top = Math.min(...all.map(p => p.at[1]))
  const wide = Math.max(...all.map(p => p.at[0] + p.width)) - left
  const tall = Math.max(...all.map(p => p.at[1] + (p.width * p.source.height) / p.source.width)) - top
  view.zoom = Math.min(2, (box.width - 48) / wide, (box.height - 96) / tall)
  view.x = 24 - left * view.zoom
  view.y = 24 - top * view.zoom
}
// All in view at first, and as soon as one comes or goes: not only once everything else knows of it.
watch(
  () => shown.value.length,
  () => nextTick(fit),
)
onMounted(() => nextTick(fit))

// Hands: move the board, move or size a picture, or draw the region that a palette is pulled from.
const pulling = ref(false)
const count = ref(5)
const region = shallowRef<({ picture: string } & Region) | null>(null)
/** While a region is drawn its palette waits: finding it takes longer than a frame. */
const drawing = ref(false)
let hand:
  | { what: 'board' | 'move' | 'size' | 'pull'; at: [number, number]; from: Pinned | null; x: number; y: number }
  | undefined
const live = shallowRef<Pinned | null>(null)
const placeIn = (e: PointerEvent, el: Element): [number, number] => {
  const box = el.getBoundingClientRect()
  const hold = (x: number) => Math.min(1, Math.max(0, x))
  return [hold((e.clientX - box.left) / box.width), hold((e.clientY - box.top) / box.height)]
}
function press(e: PointerEvent, what: 'board' | 'move' | 'size', p: Pinned | null = null): void {
  if (e.button !== 0) return
  const target = e.currentTarget as HTMLElement
  if (p && looking.dropper) {
    const { source } = shown.value.find(s => s.picture === p.picture)!
    const [x, y] = placeIn(e, target.closest('figure')!)
    const i =
      (Math.min(source.height - 1, Math.floor(y * source.height)) * source.width +
        Math.min(source.width - 1, Math.floor(x * source.width))) *
      4
    looking.dropper.take([0, 1, 2].map(k => decodeSrgb(source.data[i + k]! / 255)) as Triple)
    looking.dropper = null
    return
  }
  target.setPointerCapture(e.pointerId)
  hand = {
    what: pulling.value && p && what === 'move' ? 'pull' : what,
    at: [e.clientX, e.clientY],
    from: p,
    x: view.x,
    y: view.y,
  }
  if (hand.what === 'pull') {
    const [x, y] = placeIn(e, target)
    region.value = { picture: p!.picture, x, y, width: 0, height: 0 }
    hand.at = [x, y]
    drawing.value = true
  }
}
function drag(e: PointerEvent): void {
  if (!hand || !(e.currentTarget as HTMLElement).hasPointerCapture(e.pointerId)) return
  const dx = e.clientX - hand.at[0]
  const dy = e.clientY - hand.at[1]
  const { from } = hand
  if (hand.what === 'board') Object.assign(view, { x: hand.x + dx, y: hand.y + dy })
  else if (hand.what === 'pull') {
    const [x, y] = placeIn(e, e.currentTarget as HTMLElement)
    const [a, b] = hand.at
    region.value = {
      picture: from!.picture,
      x: Math.min(a, x),
      y: Math.min(b, y),
      width: Math.abs(x - a),
      height: Math.abs(y - b),
    }
  } else if (hand.what === 'move')
    live.value = { ...from!, at: [from!.at[0] + dx / view.zoom, from!.at[1] + dy / view.zoom] }
  else live.value = { ...from!, width: Math.max(40, from!.width + dx / view.zoom) }
}
function release(): void {
  const moved = live.value
  const what = hand?.what
  hand = undefined
  live.value = null
  drawing.value = false
  if (moved) put(what === 'size' ? 'Size a picture' : 'Move a picture', moved)
  if (what === 'pull' && region.value && (region.value.width < 0.005 || region.value.height < 0.005))
    region.value = { picture: region.value.picture, x: 0, y: 0, width: 1, height: 1 }
}
function put(label: string, p: Pinned): void {
  project.edit(label, look => pin(look, { picture: p.picture, at: p.at, width: p.width, ...(p.off && { off: p.off }) }))
}
function key(e: KeyboardEvent, p: Pinned): void {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
  const step = e.shiftKey ? 40 : 8
  if (by) put('Move a picture', { ...p, at: [p.at[0] + by[0]! * step, p.at[1] + by[1]! * step] })
  else if (e.key === '+' || e.key === '-')
    put('Size a picture', { ...p, width: p.width * (e.key === '+' ? 1.1 : 1 / 1.1) })
  else if (e.key === 'Delete') put('Take a picture off', { ...p, off: true })
  else if (e.key === 'Enter') region.value = { picture: p.picture, x: 0, y: 0, width: 1, height: 1 }
  else return
  e.preventDefault()
  e.stopPropagation()
}
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.key !== 'Escape') return
  if (region.value) region.value = null
  else if (pulling.value) pulling.value = false
  else emit('close')
})

const palette = computed<Pulled[]>(() => {
  const r = region.value
  const source = r && project.pictures.find(p => p.name === r.picture)
  return r && source && !drawing.value ? pullPalette(source, r, count.value) : []
})
/** The selected node's setting that takes colors. */
const target = computed(() => {
  const node = project.selected.length === 1 ? nodeOf(project.page, project.selected[0]!) : undefined
  const [name, d] =
    Object.entries(kindFor(node ?? { id: '', kind: '', at: [0, 0], params: {} })?.params ?? {}).find(
      ([, p]) => p.type === 'palette' || p.type === 'stops',
    ) ?? []
  return node && name && d ? { node, name, type: d.type as 'palette' | 'stops' } : null
})
/** Weights for a palette; for a ramp places from dark to light, each color as far from the next as they weigh. */
function colorsFor(type: 'palette' | 'stops'): Stop[] {
  if (type === 'palette') return palette.value.map(p => ({ at: Math.round(p.share * 1000) / 1000, color: p.color }))
  const dark = [...palette.value].sort(
    (a, b) => a.color.reduce((s, x) => s + x, 0) - b.color.reduce((s, x) => s + x, 0),
  )
  let sum = 0
  return dark.map(({ color, share }) => {
    sum += share
    return { at: Math.round((sum - share / 2) * 1000) / 1000, color }
  })
}
function give(): void {
  const t = target.value!
  project.editPage('Pull a palette', look => setParam(look, t.node.id, t.name, colorsFor(t.type)))
}
function make(kind: 'palette' | 'ramp'): void {
  let id = ''
  project.editPage('Pull a palette', look => {
    const right = look.nodes.find(n => n.kind === 'result') ?? look.nodes[0]!
    const added = addNode(look, kind, [right.at[0] - 230, right.at[1] + 300])
    const name = Object.entries(kindFor(nodeOf(added.look, added.id)!)!.params).find(
      ([, p]) => p.type === 'palette' || p.type === 'stops',
    )![0]
    id = added.id
    return setParam(added.look, id, name, colorsFor(kind === 'palette' ? 'palette' : 'stops'))
  })
  project.selected = [id]
}

async function add(files: Iterable<File>): Promise<void> {
  said.value = ''
  for (const file of files) said.value = (await project.addPicture(file)) ?? said.value
}
function draw(el: unknown, picture: Picture): void {
  if (!(el instanceof HTMLCanvasElement) || el.dataset.of === `${picture.name} ${picture.data.length}`) return
  el.dataset.of = `${picture.name} ${picture.data.length}`
  el.getContext('2d')?.putImageData(
    new ImageData(Uint8ClampedArray.from(picture.data), picture.width, picture.height),
    0,
    0,
  )
}
</script>

<template>
  <section class="board" aria-label="Reference pictures">
    <header>
      <h2>Pictures</h2>
      <UButton variant="link" @click="chooser?.open()">Add</UButton>
      <UButton variant="link" :disabled="!shown.length" @click="fit">Fit</UButton>
      <UButton
        variant="link"
        :aria-pressed="pulling"
        :class="{ on: pulling }"
        :disabled="!shown.length"
        @click="pulling = !pulling"
      >
        {{ pulling ? 'Drag over a picture …' : 'Pull a palette' }}
      </UButton>
      <UButton
        variant="link"
        v-for="p in away"
        :key="p.picture"
        @click="put('Put a picture back', { ...p, off: undefined })"
      >
        Put back {{ p.picture }}
      </UButton>
      <span v-if="said" class="ub-warn" role="alert">{{ said }}</span>
      <span class="grow" />
      <UTooltip text="Back to the graph" :kbds="['D']"
        ><UButton variant="link" @click="emit('close')">Back to the graph</UButton></UTooltip
      >
    </header>
    <div
      ref="root"
      class="field"
      :class="{ pulling: pulling || looking.dropper }"
      @pointerdown.self="press($event, 'board')"
      @pointermove="drag"
      @pointerup="release"
      @wheel.prevent="zoom"
    >
      <UEmpty
        v-if="!pictures.length"
        class="none"
        description="Drop or paste pictures here: references to look at, and to pull colors from."
        :actions="[{ label: 'Choose files', onClick: () => chooser?.open() }]"
      />
      <figure
        v-for="p in shown"
        :key="p.picture"
        tabindex="0"
        :aria-label="`${p.picture}. Arrow keys move it, plus and minus size it, Enter pulls a palette, Delete takes it off.`"
        :style="{
          left: `${view.x + (live?.picture === p.picture ? live : p).at[0] * view.zoom}px`,
          top: `${view.y + (live?.picture === p.picture ? live : p).at[1] * view.zoom}px`,
          width: `${(live?.picture === p.picture ? live : p).width * view.zoom}px`,
        }"
        @pointerdown="press($event, 'move', p)"
        @pointermove="drag"
        @pointerup.stop="release"
        @keydown="key($event, p)"
      >
        <canvas :ref="el => draw(el, p.source)" :width="p.source.width" :height="p.source.height" aria-hidden="true" />
        <span
          v-if="region?.picture === p.picture"
          class="region"
          :style="{
            left: `${region.x * 100}%`,
            top: `${region.y * 100}%`,
            width: `${region.width * 100}%`,
            height: `${region.height * 100}%`,
          }"
        />
        <i
          class="corner"
          aria-hidden="true"
          @pointerdown.stop="press($event, 'size', p)"
          @pointermove.stop="drag"
          @pointerup.stop="release"
        />
      </figure>
      <aside v-if="region && palette.length" class="pulled" aria-label="Pulled palette">
        <ol>
          <li v-for="(p, i) in palette" :key="i" :style="{ flexGrow: Math.max(0.06, p.share) }">
            <span :style="{ background: toHex(p.color) }" /><b class="num">{{ toHex(p.color) }}</b
            ><small class="num">{{ Math.round(p.share * 100) }} %</small>
          </li>
        </ol>
        <NumberField
          label="Colors"
          :value="count"
          :shape="{ min: 1, max: 16, step: 1 }"
          whole
          @change="count = $event"
        />
        <p>
          <UButton variant="link" v-if="target" @click="give">Into {{ titleOf(target.node) }}</UButton>
          <UButton variant="link" @click="make('palette')">New palette</UButton>
          <UButton variant="link" @click="make('ramp')">New ramp, dark to light</UButton>
          <UButton variant="link" @click="region = null">Leave it</UButton>
        </p>
      </aside>
    </div>
    <FileChooser
      ref="chooser"
      accept="image/png,image/jpeg,image/webp"
      multiple
      label="Reference picture files"
      @choose="add"
    />
  </section>
</template>

<style scoped>
.board {
  display: grid;
  grid-template-rows: auto 1fr;
  min-width: 0;
  min-height: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 14px;
  height: 28px;
  padding: 0 12px;
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
}
h2 {
  font-weight: 600;
}
.on {
  color: var(--ub-accent);
}
.grow {
  flex: 1;
}
.field {
  position: relative;
  overflow: hidden;
  background: var(--ub-canvas);
  touch-action: none;
  cursor: grab;
}
.field.pulling figure {
  cursor: crosshair;
}
figure {
  position: absolute;
  cursor: move;
  touch-action: none;
  user-select: none;
}
canvas {
  width: 100%;
  display: block;
}
.corner {
  position: absolute;
  right: -5px;
  bottom: -5px;
  width: 12px;
  height: 12px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line-strong);
  cursor: nwse-resize;
  opacity: 0;
}
figure:hover .corner,
figure:focus-visible .corner {
  opacity: 1;
}
.region {
  position: absolute;
  border: 1px solid #fff;
  outline: 1px solid #000;
  pointer-events: none;
}
.none {
  padding: 40px;
}
.pulled {
  position: absolute;
  left: 12px;
  right: 12px;
  bottom: 12px;
  padding: 10px 12px;
  background: var(--ub-panel);
  border: 1px solid var(--ub-line);
  cursor: default;
}
.pulled ol {
  display: flex;
  gap: 3px;
  padding-bottom: 6px;
}
.pulled li {
  flex-basis: 0;
  min-width: 44px;
  overflow: hidden;
}
.pulled li span {
  display: block;
  height: 34px;
  border: 1px solid var(--ub-line);
}
.pulled b,
.pulled small {
  display: block;
  font-weight: 400;
  font-size: 10.5px;
}
.pulled p {
  display: flex;
  gap: 16px;
  padding-top: 4px;
}
</style>
