<script setup lang="ts">
import type { NumberShape } from '#core/nodes/declare'
import { evaluateArithmetic } from './arithmetic'

/** `context` names what the number belongs to, where its label alone would not tell two apart. */
const props = defineProps<{
  label: string
  context?: string
  value: number
  shape: NumberShape
  help?: string
  defaultValue?: number
  whole?: boolean
}>()
const emit = defineEmits<{ change: [value: number]; settle: []; reset: [] }>()

const typing = ref<string | null>(null)
const input = useTemplateRef('input')
const id = useId()

/** Wide ranges above zero are dragged by ratio, others by difference. */
const byRatio = computed(() => props.shape.min > 0 && props.shape.max / props.shape.min > 1000)
const bounded = computed(() => props.shape.max - props.shape.min <= 400 && !byRatio.value)
const digits = computed(() => (props.whole ? 0 : Math.max(0, Math.min(4, Math.ceil(-Math.log10(props.shape.step))))))
const shown = computed(() => typing.value ?? Number(props.value.toFixed(Math.max(2, digits.value))).toString())
const share = computed(() => {
  const { min, max } = props.shape
  const x = byRatio.value ? Math.log(props.value / min) / Math.log(max / min) : (props.value - min) / (max - min)
  return Math.max(0, Math.min(1, x)) * 100
})
const changed = computed(() => props.defaultValue !== undefined && props.value !== props.defaultValue)

const hold = (x: number): number => {
  const held = Math.min(props.shape.max, Math.max(props.shape.min, x))
  return props.whole ? Math.round(held) : Number(held.toPrecision(8))
}
const set = (x: number): void => {
  if (Number.isFinite(x) && hold(x) !== props.value) emit('change', hold(x))
}

let from = 0
let at = 0
let moved = false
function press(e: PointerEvent): void {
  if (e.button !== 0 || typing.value !== null) return
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
  from = props.value
  at = e.clientX
  moved = false
}
function drag(e: PointerEvent): void {
  const target = e.currentTarget as HTMLElement
  if (!target.hasPointerCapture(e.pointerId)) return
  if (Math.abs(e.clientX - at) < 3 && !moved) return
  if (!moved) {
    moved = true
    at = e.clientX
  }
  const speed = speedOf(e)
  const delta = ((e.clientX - at) / target.clientWidth) * speed
  if (byRatio.value) set(from * Math.exp((delta * Math.log(props.shape.max / props.shape.min)) / 2))
  else if (bounded.value) set(from + delta * (props.shape.max - props.shape.min))
  else set(from + (e.clientX - at) * speed * props.shape.step)
  from = props.value
  at = e.clientX
}
/** Shift makes a drag fine, Alt makes it coarse. */
function speedOf({ shiftKey, altKey }: PointerEvent): number {
  if (shiftKey) return 0.1
  return altKey ? 4 : 1
}
/** Steps for a press of a key. */
function stepsOf(e: KeyboardEvent): number {
  if (e.shiftKey) return 0.1
  return e.key.startsWith('Page') ? 10 : 1
}
function release(e: PointerEvent): void {
  const target = e.currentTarget as HTMLElement
  if (!target.hasPointerCapture(e.pointerId)) return
  target.releasePointerCapture(e.pointerId)
  if (moved) emit('settle')
  else {
    input.value?.focus()
    input.value?.select()
  }
}
function key(e: KeyboardEvent): void {
  const size = stepsOf(e)
  const step = props.whole ? Math.max(1, props.shape.step * size) : props.shape.step * size
  const up = e.key === 'ArrowUp' || e.key === 'PageUp'
  const down = e.key === 'ArrowDown' || e.key === 'PageDown'
  if (up || down) {
    e.preventDefault()
    typing.value = null
    set(props.value + (up ? step : -step))
  } else if (e.key === 'Enter') take()
  else if (e.key === 'Escape') {
    // The first takes back what was typed; the next one is for whatever the field stands in.
    if (typing.value === null) return
    typing.value = null
  }
  e.stopPropagation()
}
function take(): void {
  const value = typing.value === null ? null : evaluateArithmetic(typing.value)
  typing.value = null
  if (value !== null) set(value)
  emit('settle')
}
</script>

<template>
  <div class="row">
    <label :for="id" :title="help">{{ label }}</label>
    <div class="bar" @pointerdown="press" @pointermove="drag" @pointerup="release">
      <span class="fill" :style="{ width: `${share}%` }" />
      <input
        :id="id"
        ref="input"
        class="num"
        inputmode="decimal"
        role="spinbutton"
        autocomplete="off"
        spellcheck="false"
        :value="shown"
        :data-settled="typing === null ? '' : undefined"
        :aria-label="context ? `${context} ${label.toLowerCase()}` : undefined"
        :aria-valuenow="Number(value.toFixed(6))"
        :aria-valuemin="shape.min"
        :aria-valuemax="shape.max"
        :aria-valuetext="`${shown}${shape.unit ? ` ${shape.unit}` : ''}`"
        @input="typing = ($event.target as HTMLInputElement).value"
        @keydown="key"
        @blur="take"
      />
      <span v-if="shape.unit" class="unit">{{ shape.unit }}</span>
    </div>
    <UButton
      variant="bare"
      v-if="changed"
      class="reset"
      :aria-label="`Reset ${context ? `${context} ${label.toLowerCase()}` : label}`"
      title="Reset"
      @click="emit('reset')"
    >
      <UIcon name="i-lucide-undo-dot" />
    </UButton>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 112px 1fr 20px;
  align-items: center;
  gap: 6px;
  min-height: 26px;
}
label {
  color: var(--ub-quiet);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bar {
  position: relative;
  height: 22px;
  display: flex;
  align-items: center;
  background: var(--ub-canvas);
  cursor: ew-resize;
  touch-action: none;
}
.fill {
  position: absolute;
  inset: auto auto 0 0;
  height: 3px;
  background: var(--ub-line-strong);
}
.bar:focus-within .fill,
.bar:hover .fill {
  background: var(--ub-accent);
}
input {
  position: relative;
  width: 100%;
  height: 100%;
  padding: 0 8px;
  background: none;
  border: 0;
  font-size: 12px;
  cursor: inherit;
}
input:focus {
  cursor: text;
  outline: 2px solid var(--ub-accent);
}
.unit {
  position: relative;
  padding-right: 8px;
  color: var(--ub-quiet);
  font-size: 11px;
  pointer-events: none;
}
.reset {
  width: 20px;
  height: 20px;
  color: var(--ub-quiet);
  display: grid;
  place-items: center;
}
.reset:hover {
  color: var(--ub-accent);
}
</style>
