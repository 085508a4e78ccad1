<script setup lang="ts">
import { handlesOf, type Handle } from '#core/graph/handles'
import { setParams } from '#core/graph/edit'
import { titleOf } from '#core/graph/check'
import { nodeOf } from '#core/graph/find'
import type { Box } from '#core/mesh/mesh'
import { mixed } from '#core/mesh/vector'
import type { Stage } from './stage'
import type { Ref } from 'vue'

/** `frames` counts the frames of the stage: handles stay on what they belong to while it turns. */
const props = defineProps<{ stage: Stage; frames: Ref<number> }>()
const project = useProject()
const root = useTemplateRef('root')
const node = computed(() =>
  project.selected.length === 1 && !project.scope.length ? nodeOf(project.look, project.selected[0]!) : undefined,
)
const box = computed((): Box | null => {
  const w = project.tables?.whole
  return w ? { min: [w.minX, w.minY, w.minZ], max: [w.minX + w.sizeX, w.minY + w.sizeY, w.minZ + w.sizeZ] } : null
})
const handles = computed(() => (node.value && box.value ? handlesOf(node.value, box.value) : []))
type Point = [number, number, number]
const placeOf = (h: Handle): Point => (h.slides ? mixed(h.from, h.to, h.at) : [...h.at])
/** Where they are on the canvas, in shares of it; a sliding one with its line. */
const places = computed(() =>
  props.frames.value >= 0
    ? handles.value.map(h => ({
        h,
        at: props.stage.project(placeOf(h)),
        line: h.slides ? [h.from, h.to].map(p => props.stage.project(p)) : null,
      }))
    : [],
)

function set(h: Handle, to: Parameters<Handle['set']>[0]): void {
  const { id } = node.value!
  project.edit(
    `${titleOf(node.value!)}: ${h.title.toLowerCase()} on the stage`,
    look => setParams(look, id, (h.set as (at: typeof to) => Record<string, number>)(to)),
    `${id} ${h.title} handle`,
  )
}
let held: { title: string; x: number; y: number; from: Handle } | undefined
function press(e: PointerEvent, h: Handle): void {
  if (e.button !== 0) return
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
  held = { title: h.title, x: e.clientX, y: e.clientY, from: h }
}
function drag(e: PointerEvent): void {
  if (!held || !(e.currentTarget as HTMLElement).hasPointerCapture(e.pointerId)) return
  const { width, height } = root.value!.getBoundingClientRect()
  const dx = (e.clientX - held.x) / width
  const dy = (e.clientY - held.y) / height
  const h = held.from
  if (!h.slides) {
    const to = props.stage.pushed(h.at, dx, dy)
    return set(h, to)
  }
  const [a, b] = [h.from, h.to].map(p => props.stage.project(p))
  if (!a || !b) return
  // How far along its line as it is seen.
  const way = [(b[0] - a[0]) * width, (b[1] - a[1]) * height] as const
  const long = way[0] ** 2 + way[1] ** 2
  if (long > 16) set(h, h.at + (dx * width * way[0] + dy * height * way[1]) / long)
}
function release(): void {
  held = undefined
  project.settle()
}
function key(e: KeyboardEvent, h: Handle): void {
  const step = e.shiftKey ? 0.1 : 1
  const ways: Record<string, Point> = {
    ArrowLeft: [-1, 0, 0],
    ArrowRight: [1, 0, 0],
    ArrowUp: [0, 1, 0],
    ArrowDown: [0, -1, 0],
    PageUp: [0, 0, -1],
    PageDown: [0, 0, 1],
  }
  const way = ways[e.key]
  if (!way) return
  if (h.slides) set(h, h.at + (way[0] + way[1]) * step * 0.01)
  else set(h, h.at.map((x, k) => x + way[k]! * step * props.stage.reach * 0.01) as Point)
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div ref="root" class="handles">
    <svg v-if="places.length" aria-hidden="true" preserveAspectRatio="none" viewBox="0 0 1 1">
      <template v-for="p in places" :key="p.h.title">
        <line
          v-if="p.line?.[0] && p.line[1]"
          :x1="p.line[0][0]"
          :y1="p.line[0][1]"
          :x2="p.line[1][0]"
          :y2="p.line[1][1]"
        />
      </template>
    </svg>
    <template v-for="{ h, at } in places" :key="h.title">
      <UButton
        variant="bare"
        v-if="at"
        :style="{ left: `${at[0] * 100}%`, top: `${at[1] * 100}%` }"
        :aria-label="`${h.title}: drag, or arrow keys`"
        @pointerdown="press($event, h)"
        @pointermove="drag"
        @pointerup="release"
        @keydown="key($event, h)"
        @keyup="project.settle()"
      >
        <span>{{ h.title }}</span>
      </UButton>
    </template>
  </div>
</template>

<style scoped>
.handles {
  position: absolute;
  inset: 0;
  pointer-events: none;
  overflow: hidden;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
line {
  stroke: var(--ub-card);
  stroke-width: 1.5;
  stroke-dasharray: 4 3;
  vector-effect: non-scaling-stroke;
}
button {
  position: absolute;
  width: 14px;
  height: 14px;
  margin: -7px 0 0 -7px;
  border: 2px solid var(--ub-text);
  background: var(--ub-card);
  transform: rotate(45deg);
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
}
button:hover,
button:active {
  background: var(--ub-accent);
}
button span {
  position: absolute;
  left: 12px;
  top: -16px;
  transform: rotate(-45deg);
  padding: 0 4px;
  font-size: 11px;
  background: var(--ub-card);
  pointer-events: none;
}
</style>
