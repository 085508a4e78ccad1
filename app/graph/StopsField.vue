<script setup lang="ts">
import { fromLab, toHex, toLab, type Triple } from '#core/color/convert'
import type { Stop } from '#core/graph/types'
import PasteColors from './PasteColors.vue'

const props = defineProps<{ label: string; value: readonly Stop[]; even: boolean; help?: string }>()
const emit = defineEmits<{ change: [value: Stop[]]; settle: [] }>()

const MOST = 64
const {
  chosen,
  entry: stop,
  replace,
  add: append,
  remove,
  grab,
  held,
} = useEntries<Stop>(
  () => props.value,
  { least: 1, most: MOST },
  { change: v => emit('change', v), settle: () => emit('settle') },
)
const bar = useTemplateRef('bar')
const sorted = computed(() => [...props.value].sort((a, b) => a.at - b.at))

/** The ramp's color at a place, as the program makes it. */
function colorAt(x: number): Triple {
  const stops = sorted.value
  const next = stops.findIndex(s => s.at > x)
  if (next === 0) return stops[0]!.color
  if (next < 0) return stops.at(-1)!.color
  const a = stops[next - 1]!
  const b = stops[next]!
  const t = (x - a.at) / (b.at - a.at)
  const blend = (p: Triple, q: Triple) => p.map((v, k) => v + (q[k]! - v) * t) as Triple
  return props.even ? fromLab(blend(toLab(a.color), toLab(b.color))) : blend(a.color, b.color)
}
const gradient = computed(
  () =>
    `linear-gradient(to right, ${Array.from({ length: 65 }, (_, i) => `${toHex(colorAt(i / 64))} ${i / 0.64}%`).join(', ')})`,
)

const placeOf = (e: PointerEvent | MouseEvent): number => {
  const box = bar.value!.getBoundingClientRect()
  return Math.round(Math.max(0, Math.min(1, (e.clientX - box.left) / box.width)) * 1000) / 1000
}
function add(e: MouseEvent): void {
  const at = placeOf(e)
  append({ at, color: colorAt(at) })
}
const drag = (e: PointerEvent): void => {
  if (held(e)) replace({ at: placeOf(e) })
}
function key(e: KeyboardEvent, i: number): void {
  chosen.value = i
  const step = e.shiftKey ? 0.001 : 0.01
  if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') {
    replace({
      at: Math.round(Math.max(0, Math.min(1, stop.value.at + (e.key === 'ArrowRight' ? step : -step))) * 1000) / 1000,
    })
    e.preventDefault()
  } else if (e.key === 'Delete' || e.key === 'Backspace') remove()
  else return
  e.stopPropagation()
}
function paste(colors: Triple[]): void {
  emit(
    'change',
    colors.slice(0, MOST).map((color, i, all) => ({ at: all.length < 2 ? 0 : i / (all.length - 1), color })),
  )
  emit('settle')
}
const spread = (): void => {
  const order = [...props.value.keys()].sort((a, b) => props.value[a]!.at - props.value[b]!.at)
  emit(
    'change',
    props.value.map((s, i) => ({ ...s, at: props.value.length < 2 ? 0 : order.indexOf(i) / (props.value.length - 1) })),
  )
  emit('settle')
}
const reverse = (): void => {
  emit(
    'change',
    props.value.map(s => ({ ...s, at: 1 - s.at })),
  )
  emit('settle')
}
</script>

<template>
  <div class="stops" role="group" :aria-label="label">
    <div class="head">
      <span :title="help">{{ label }}</span>
      <span class="tools">
        <UButton variant="bare" @click="spread">Spread</UButton>
        <UButton variant="bare" @click="reverse">Reverse</UButton>
        <UButton variant="bare" :disabled="value.length < 2" @click="remove">Remove stop</UButton>
      </span>
    </div>
    <div ref="bar" class="bar" :style="{ background: gradient }" title="Double-click adds a stop" @dblclick="add" />
    <div class="pins">
      <UButton
        variant="bare"
        v-for="(s, i) in value"
        :key="i"
        class="pin"
        :class="{ on: i === chosen }"
        :style="{ left: `${s.at * 100}%`, background: toHex(s.color) }"
        :aria-label="`Stop ${i + 1} at ${s.at}`"
        :aria-pressed="i === chosen"
        @pointerdown="grab($event, i)"
        @pointermove="drag"
        @pointerup="emit('settle')"
        @focus="chosen = i"
        @keydown="key($event, i)"
        @keyup="emit('settle')"
      />
    </div>
    <PasteColors @colors="paste" />
    <NumberField
      label="Place"
      context="Stop"
      :value="stop.at"
      :shape="{ min: 0, max: 1, step: 0.01 }"
      @change="replace({ at: $event })"
      @settle="emit('settle')"
    />
    <ColorField label="Stop color" :value="stop.color" @change="replace({ color: $event })" @settle="emit('settle')" />
  </div>
</template>

<style scoped>
.stops {
  padding-bottom: 4px;
}
.head {
  display: flex;
  justify-content: space-between;
  color: var(--ub-quiet);
  min-height: 24px;
  align-items: center;
}
.tools {
  display: flex;
  gap: 12px;
  padding-right: 26px;
}
.tools button {
  text-decoration: underline;
  text-underline-offset: 3px;
  text-decoration-color: var(--ub-line-strong);
}
.tools button:disabled {
  opacity: 0.5;
}
.bar {
  height: 26px;
  margin-right: 26px;
  cursor: copy;
}
.pins {
  position: relative;
  height: 22px;
  margin-right: 26px;
}
.pin {
  position: absolute;
  top: 3px;
  width: 12px;
  height: 16px;
  margin-left: -6px;
  border: 1px solid var(--ub-text);
  box-shadow: 0 0 0 1px var(--ub-card);
  clip-path: none;
  cursor: ew-resize;
  touch-action: none;
}
.pin.on {
  outline: 2px solid var(--ub-accent);
  outline-offset: 1px;
  height: 18px;
}
</style>
