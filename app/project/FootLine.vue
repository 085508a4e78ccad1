<script setup lang="ts">
import { toHex } from '#core/color/convert'
import type { Picked } from '../shared/evaluate.worker'
import { count } from '../shared/units'

defineProps<{ picked: Picked | null; job: string }>()
const project = useProject()
const looking = useLooking()
const SAVE_WORDS = {
  saved: 'All saved',
  waiting: 'Not saved yet',
  saving: 'Saving',
  offline: 'The server does not answer; trying again. Your work is kept here.',
  stale: 'Saved in another window',
  refused: 'The server refused to save',
}
/** What the server said is wrong, where it said so; otherwise that it cannot be reached. */
const saveWords = computed(() => {
  const { saveState, saveError, readOnly } = project
  if (readOnly) return readOnly
  const reachable = saveError && saveError !== 'The server does not answer.'
  if (saveState === 'offline' && reachable) return `${saveError} Your work is kept here; trying again.`
  return SAVE_WORDS[saveState]
})
/** How the picture on the stage stands. */
const picture = computed(() => {
  const { standing } = looking
  if (!standing || !project.tables) return ''
  if (standing.compiling) return 'Last picture; the next is being compiled'
  if (standing.final) return 'Picture final'
  return standing.step > 1 ? 'Coarse picture' : `Picture ${standing.samples} of ${standing.of}`
})
const pictureDetails = computed(() => {
  const { standing } = looking
  if (!standing) return ''
  const where =
    looking.evaluatedBy === 'card' ? 'on the graphics card' : `on the processor, in ${looking.threads} threads`
  const points = standing.visible.toLocaleString('en-US')
  return `Evaluated ${where}: ${points} points are seen. ${standing.samples} of ${standing.of} pictures with shifted pixels are in it.`
})
const number = (x: number | undefined) => (x ?? 0).toFixed(2)
</script>

<template>
  <footer aria-label="Status">
    <span v-if="picked" class="picked">
      {{ picked.name }}
      <i :style="{ background: toHex(picked.channels.baseColor) }" aria-hidden="true" /><b class="num">{{
        toHex(picked.channels.baseColor)
      }}</b>
      metal <b class="num">{{ number(picked.channels.metalness[0]) }}</b> rough
      <b class="num">{{ number(picked.channels.roughness[0]) }}</b>
      <template v-if="picked.channels.height[0]"
        >height <b class="num">{{ number(picked.channels.height[0]) }} mm</b></template
      >
      <template v-if="picked.channels.emission.some(x => x)"
        >glows <b class="num">{{ picked.channels.emission.map(number).join(' ') }}</b></template
      >
      <template v-if="picked.channels.opacity[0] !== 1"
        >opacity <b class="num">{{ number(picked.channels.opacity[0]) }}</b></template
      >
      <template v-if="picked.channels.translucency[0]"
        >through <b class="num">{{ number(picked.channels.translucency[0]) }}</b></template
      >
    </span>
    <span v-else-if="project.tables" class="quiet"
      >{{ count(project.tables.parts.parts.length, 'part') }},
      {{ count(project.tables.mesh.indices.length / 3, 'triangle') }}</span
    >
    <span class="grow" />
    <UTooltip v-if="picture" :text="pictureDetails"
      ><span class="quiet" data-test="picture" tabindex="0" :aria-label="`${picture}. ${pictureDetails}`">{{
        picture
      }}</span></UTooltip
    >
    <span v-if="job || project.busy" role="status">{{ job || project.busy }} …</span>
    <span
      :class="{ alarm: ['offline', 'stale', 'refused'].includes(project.saveState) }"
      role="status"
      data-test="save-state"
      :title="saveWords"
      >{{ saveWords }}</span
    >
  </footer>
</template>

<style scoped>
footer {
  display: flex;
  align-items: center;
  gap: 20px;
  height: 26px;
  padding: 0 14px;
  border-top: 1px solid var(--ub-line);
  color: var(--ub-quiet);
  font-size: 12px;
}
.picked {
  color: var(--ub-text);
  display: flex;
  gap: 7px;
  align-items: center;
  white-space: nowrap;
}
.picked i {
  width: 14px;
  height: 14px;
  border: 1px solid var(--ub-line);
}
.picked b {
  font-weight: 400;
  margin-right: 4px;
}
.grow {
  flex: 1;
}
[data-test='save-state'] {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 80px;
}
.alarm {
  color: var(--ub-warn);
  font-weight: 500;
}
</style>
