<script setup lang="ts">
import type { CurvePoint } from '#core/graph/types'

const props = defineProps<{ label: string; value: readonly CurvePoint[]; help?: string }>()
const emit = defineEmits<{ change: [value: CurvePoint[]]; settle: [] }>()

const MOST = 16
const SIZE = 160
const {
  chosen,
  entry: point,
  replace,
  add: append,
  remove,
  grab,
  held,
} = useEntries<CurvePoint>(
  () => props.value,
  { least: 2, most: MOST },
  { change: v => emit('change', v), settle: () => emit('settle') },
)
const box = useTemplateRef('box')
const sorted = computed(() => [...props.value].sort((p, q) => p.x - q.x))

/** The curve as the program makes it, as an SVG path: each stretch a cubic with the slopes of Fritsch and Butland. */
const path = computed(() => {
  const p = sorted.value
  const slopes = p.slice(1).map((q, k) => (q.x > p[k]!.x ? (q.y - p[k]!.y) / (q.x - p[k]!.x) : 0))
  const tangents = p.map((_, k) => {
    const a = slopes[k - 1] ?? slopes[0]!
    const b = slopes[k] ?? slopes.at(-1)!
    return a * b > 0 ? (2 * a * b) / (a + b) : 0
  })
  const at = (x: number, y: number) => `${(x * SIZE).toFixed(2)} ${((1 - y) * SIZE).toFixed(2)}`
  return `M ${at(0, p[0]!.y)} L ${at(p[0]!.x, p[0]!.y)} ${p
    .slice(1)
    .map((q, k) => {
      const h = (q.x - p[k]!.x) / 3
      return `C ${at(p[k]!.x + h, p[k]!.y + tangents[k]! * h)} ${at(q.x - h, q.y - tangents[k + 1]! * h)} ${at(q.x, q.y)}`
    })
    .join(' ')} L ${at(1, p.at(-1)!.y)}`
})
const round = (x: number): number => Math.round(Math.min(1, Math.max(0, x)) * 1000) / 1000
const placeOf = (e: MouseEvent): CurvePoint => {
  const b = box.value!.getBoundingClientRect()
  return { x: round((e.clientX - b.left) / b.width), y: round(1 - (e.clientY - b.top) / b.height) }
}
const add = (e: MouseEvent): void => append(placeOf(e))
const drag = (e: PointerEvent): void => {
  if (held(e)) replace(placeOf(e))
}
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}
function key(e: KeyboardEvent, i: number): void {
  chosen.value = i
  const move = MOVES[e.key]
  const step = e.shiftKey ? 0.001 : 0.01
  if (move) {
    replace({ x: round(point.value.x + move[0] * step), y: round(point.value.y + move[1] * step) })
    e.preventDefault()
  } else if (e.key === 'Delete' || e.key === 'Backspace') remove()
  else return
  e.stopPropagation()
}
</script>

<template>
  <div class="curve" role="group" :aria-label="label">
    <div class="head">
      <span :title="help">{{ label }}</span>
      <UButton variant="link" :disabled="value.length < 3" @click="remove">Remove point</UButton>
    </div>
    <div class="field">
      <svg ref="box" :viewBox="`0 0 ${SIZE} ${SIZE}`" @dblclick="add">
        <title>Double-click adds a point</title>
        <path
          v-for="i in 3"
          :key="i"
          class="rule"
          :d="`M ${(SIZE * i) / 4} 0 V ${SIZE} M 0 ${(SIZE * i) / 4} H ${SIZE}`"
        />
        <path class="line" :d="path" />
        <circle
          v-for="(p, i) in value"
          :key="i"
          :cx="p.x * SIZE"
          :cy="(1 - p.y) * SIZE"
          r="5"
          :class="{ on: i === chosen }"
          tabindex="0"
          role="button"
          :aria-pressed="i === chosen"
          :aria-label="`Point ${i + 1} at ${p.x}, ${p.y}`"
          @pointerdown="grab($event, i)"
          @pointermove="drag"
          @pointerup="emit('settle')"
          @focus="chosen = i"
          @keydown="key($event, i)"
          @keyup="emit('settle')"
        />
      </svg>
      <div>
        <NumberField
          label="In"
          context="Point"
          :value="point.x"
          :shape="{ min: 0, max: 1, step: 0.01 }"
          @change="replace({ x: $event })"
          @settle="emit('settle')"
        />
        <NumberField
          label="Out"
          context="Point"
          :value="point.y"
          :shape="{ min: 0, max: 1, step: 0.01 }"
          @change="replace({ y: $event })"
          @settle="emit('settle')"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  padding-right: 26px;
  min-height: 24px;
  align-items: center;
  color: var(--ub-quiet);
}
.field {
  display: grid;
  grid-template-columns: 168px 1fr;
  gap: 10px;
}
.field :deep(.row) {
  grid-template-columns: 34px 1fr 20px;
}
svg {
  width: 168px;
  height: 168px;
  padding: 4px;
  background: var(--ub-canvas);
  overflow: visible;
  cursor: copy;
  touch-action: none;
}
.rule {
  stroke: var(--ub-line);
  fill: none;
}
.line {
  stroke: var(--ub-text);
  stroke-width: 1.5;
  fill: none;
}
circle {
  fill: var(--ub-card);
  stroke: var(--ub-text);
  stroke-width: 1.5;
  cursor: grab;
}
circle.on {
  fill: var(--ub-accent);
  stroke: var(--ub-accent);
}
circle:focus-visible {
  outline: none;
  stroke-width: 4;
}
</style>
