<script setup lang="ts">
import { BaseEdge, getSmoothStepPath, type EdgeProps } from '@vue-flow/core'
import { toHex } from '#core/color/convert'

const props = defineProps<EdgeProps & { over?: boolean }>()
const { analysis } = useAnalysis()
const path = computed(
  () =>
    getSmoothStepPath({
      sourceX: props.sourceX,
      sourceY: props.sourceY,
      sourcePosition: props.sourcePosition,
      targetX: props.targetX,
      targetY: props.targetY,
      targetPosition: props.targetPosition,
      borderRadius: 12,
      offset: 14,
    })[0],
)
/** The mean of what runs through it, as it would look. */
const tint = computed(() => {
  const mean = analysis.value?.ports[`${props.source}/${props.sourceHandleId}`]?.mean
  return mean ? toHex(mean) : 'transparent'
})
</script>

<template>
  <BaseEdge :id="id" :path="path" :interaction-width="16" class="casing" :class="{ picked: selected || over }" />
  <path :d="path" fill="none" :stroke="tint" stroke-width="2.5" pointer-events="none" />
</template>

<style scoped>
.casing {
  stroke: var(--ub-line-strong);
  stroke-width: 4.5;
  fill: none;
}
.casing.picked {
  stroke: var(--ub-accent);
  stroke-width: 7;
}
</style>
