<script setup lang="ts">
import type { SheetNumbers } from '#core/compare/numbers'
import { toHex } from '#core/color/convert'
import { inGray } from '#core/color/gray'
import { numbersInWords } from '#core/compare/table'
import type { JudgedTile } from './useSheet'

/** A picture of a sheet, with what it is, what was thought of it, and its numbers. */
const props = defineProps<{
  tile: JudgedTile
  picture?: ImageData
  numbers?: SheetNumbers
  /** Another picture that is shown instead, up to a share of the width from the left. */
  beside?: ImageData
  share: number
  /** Shown in gray of the same luminance. */
  gray: boolean
  /** Said behind its name. */
  note?: string
  active: boolean
  /** Whether others are measured from it. */
  marked: boolean
  stale: boolean
  /** Whether a part of another tile is held over it. */
  under: boolean
}>()
const emit = defineEmits<{ grab: [at: { x: number; y: number }, e: PointerEvent]; wipe: [share: number] }>()
/** A place on the picture, 0 to 1 from its upper left corner: the picture is fitted into its room. */
function placeOf(e: PointerEvent): { x: number; y: number } | undefined {
  const { picture } = props
  if (!picture) return undefined
  const box = canvas.value!.getBoundingClientRect()
  const scale = Math.min(box.width / picture.width, box.height / picture.height)
  const at = (place: number, low: number, room: number, size: number): number =>
    (place - low - (room - size * scale) / 2) / (size * scale)
  const x = at(e.clientX, box.left, box.width, picture.width)
  const y = at(e.clientY, box.top, box.height, picture.height)
  return { x, y }
}
/** How near the wipe's line has to be pressed to be taken, as a share of the width. */
const NEAR = 0.06
let wiping = false
function grab(e: PointerEvent): void {
  const place = placeOf(e)
  if (!place || e.button !== 0) return
  const { x, y } = place
  if (x < 0 || x >= 1 || y < 0 || y >= 1) return
  wiping = props.beside !== undefined && Math.abs(x - props.share) < NEAR
  if (wiping) canvas.value!.setPointerCapture(e.pointerId)
  else emit('grab', place, e)
}
function move(e: PointerEvent): void {
  const place = wiping && placeOf(e)
  if (place) emit('wipe', Math.min(1, Math.max(0, place.x)))
}
const canvas = useTemplateRef('canvas')
const thought = computed(() =>
  props.tile.verdict ? { starred: 'starred', aside: 'set aside' }[props.tile.verdict] : '',
)
const words = computed(() => (props.numbers ? numbersInWords(props.numbers) : []))
watch(
  [canvas, () => props.picture, () => props.gray, () => props.beside, () => props.share],
  () => {
    const { picture } = props
    if (!canvas.value || !picture) return
    canvas.value.width = picture.width
    canvas.value.height = picture.height
    const { width, height } = picture
    const paper = canvas.value.getContext('2d')!
    const shown = (p: ImageData): ImageData => (props.gray ? new ImageData(inGray(p.data), width, height) : p)
    paper.putImageData(shown(picture), 0, 0)
    if (!props.beside) return
    const line = Math.round(props.share * width)
    if (line) paper.putImageData(shown(props.beside), 0, 0, 0, 0, line, height)
    paper.fillStyle = getComputedStyle(canvas.value).getPropertyValue('--ub-accent')
    paper.fillRect(line - 1, 0, 2, height)
  },
  { flush: 'post' },
)
</script>

<template>
  <div
    class="tile"
    role="option"
    :aria-selected="active"
    :aria-label="[tile.title, note, thought, marked ? 'measured from' : '', ...words].filter(Boolean).join(', ')"
    :class="{ active, stale, under, aside: tile.verdict === 'aside' }"
    :data-tile="tile.id"
  >
    <canvas v-show="picture" ref="canvas" @pointerdown="grab" @pointermove="move" @pointerup="wiping = false" />
    <span v-if="!picture" class="waiting ub-quiet">…</span>
    <span class="told">
      <span class="title" :title="tile.title">{{ tile.title }}</span>
      <span v-if="note" class="ub-quiet">{{ note }}</span>
      <UIcon v-if="marked" name="i-lucide-ruler" aria-hidden="true" />
      <UIcon v-if="tile.verdict === 'starred'" name="i-lucide-star" aria-hidden="true" />
      <UIcon v-else-if="tile.verdict === 'aside'" name="i-lucide-eye-off" aria-hidden="true" />
    </span>
    <span v-if="numbers" class="numbers" :title="words.join('\n')">
      <span class="palette" aria-hidden="true">
        <span v-for="(p, i) in numbers.palette" :key="i" :style="{ flex: p.share, background: toHex(p.color) }" />
      </span>
      <span v-for="w in words" :key="w">{{ w }}</span>
    </span>
  </div>
</template>

<style scoped>
.tile {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr) auto auto;
  min-width: 0;
  min-height: 0;
  border: 1px solid transparent;
  cursor: default;
}
.tile.active {
  border-color: var(--ub-accent);
}
.tile.under {
  outline: 2px dashed var(--ub-accent);
  outline-offset: -2px;
}
canvas,
.waiting {
  width: 100%;
  height: 100%;
  min-height: 0;
  object-fit: contain;
  transition: opacity 120ms;
}
.waiting {
  background: var(--ub-stage);
  display: grid;
  place-items: center;
}
.stale canvas {
  opacity: 0.55;
}
.aside canvas {
  opacity: 0.25;
}
.told {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 6px;
  padding: 2px 6px;
  font-size: 12px;
  font-variant-numeric: tabular-nums;
  color: var(--ub-quiet);
}
.title {
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.numbers {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  align-content: start;
  /* The palette, and four lines. */
  height: 70px;
  margin-bottom: 3px;
  padding: 0 6px;
  overflow: hidden;
  font-size: 11px;
  line-height: 16px;
  font-variant-numeric: tabular-nums;
  color: var(--ub-quiet);
}
.palette {
  display: flex;
  flex-basis: 100%;
  height: 6px;
}
.active .told {
  color: var(--ub-text);
}
</style>
