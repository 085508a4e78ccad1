<script setup lang="ts">
import type { Roll } from './useSheet'

/** A picture of a sheet, with what it is and what was thought of it. */
const props = defineProps<{ roll: Roll; picture?: ImageData; active: boolean; stale: boolean }>()
const canvas = useTemplateRef('canvas')
const title = computed(() => (props.roll.number ? `Roll ${props.roll.number}` : 'As it is'))
const thought = computed(() =>
  props.roll.verdict ? { starred: 'starred', aside: 'set aside' }[props.roll.verdict] : '',
)
watch(
  [canvas, () => props.picture],
  () => {
    const { picture } = props
    if (!canvas.value || !picture) return
    canvas.value.width = picture.width
    canvas.value.height = picture.height
    canvas.value.getContext('2d')!.putImageData(picture, 0, 0)
  },
  { flush: 'post' },
)
</script>

<template>
  <div
    class="tile"
    role="option"
    :aria-selected="active"
    :aria-label="thought ? `${title}, ${thought}` : title"
    :class="{ active, stale, aside: roll.verdict === 'aside' }"
    :data-roll="roll.number"
  >
    <canvas v-show="picture" ref="canvas" />
    <span v-if="!picture" class="waiting ub-quiet">…</span>
    <span class="told">
      <span class="num">{{ title }}</span>
      <UIcon v-if="roll.verdict === 'starred'" name="i-lucide-star" aria-hidden="true" />
      <UIcon v-else-if="roll.verdict === 'aside'" name="i-lucide-eye-off" aria-hidden="true" />
    </span>
  </div>
</template>

<style scoped>
.tile {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-width: 0;
  min-height: 0;
  border: 1px solid transparent;
  cursor: default;
}
.tile.active {
  border-color: var(--ub-accent);
}
canvas,
.waiting {
  width: 100%;
  height: 100%;
  min-height: 0;
  object-fit: contain;
  background: var(--ub-stage);
  transition: opacity 120ms;
}
.waiting {
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
  color: var(--ub-quiet);
}
.active .told {
  color: var(--ub-text);
}
</style>
