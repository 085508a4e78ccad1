<script setup lang="ts">
const looking = useLooking()

// The wipe between the kept state and the one that is worked on.
function drag(e: PointerEvent): void {
  const target = e.currentTarget as HTMLElement
  if (e.type === 'pointerdown') target.setPointerCapture(e.pointerId)
  if (!target.hasPointerCapture(e.pointerId)) return
  const { left, width } = target.parentElement!.getBoundingClientRect()
  looking.wipe = Math.min(1, Math.max(0, (e.clientX - left) / width))
}
function step(e: KeyboardEvent): void {
  const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[e.key]
  if (by === undefined) return
  looking.wipe = Math.min(1, Math.max(0, looking.wipe + by))
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div
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
</template>

<style scoped>
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
</style>
