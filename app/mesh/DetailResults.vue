<script setup lang="ts">
import { count, percent } from '../shared/units'

/** What came of taking detail, and where it did not find the dense mesh. */
const mesh = useMesh()
const dense = useDense()
const detail = useDetail()

const MOST_LISTED = 12
const nameOf = (part: number): string => mesh.parts[part]?.name ?? ''
const results = useTemplateRef('results')
// What came of it is below what was asked for.
watch(
  () => detail.report,
  async found => {
    await nextTick()
    if (found) results.value?.scrollIntoView({ block: 'nearest' })
  },
)
const alone = computed(() => detail.report?.alone ?? [])
function showAstray(): void {
  if (detail.astray) mesh.shown = { kind: 'astray', shares: detail.astray }
}
</script>

<template>
  <section v-if="detail.report && detail.shares" ref="results" aria-label="Taken">
    <h3 class="ub-h">Taken</h3>
    <p v-if="detail.wasThere">All of it was there already, from the same meshes and settings.</p>
    <p>
      {{ percent(detail.shares.met) }} of the texels met the dense mesh; the rest has the nearest place of it.
      <template v-if="detail.shares.wrong > 0">
        {{ percent(detail.shares.wrong) }} met what belongs to another part.
      </template>
      <template v-if="detail.report.leftOver">
        {{ count(detail.report.leftOver, 'part') }} of the dense mesh belong to nothing here.
      </template>
      <UButton v-if="detail.shares.met < 1 || detail.shares.wrong > 0" variant="link" @click="showAstray">
        Show in red where
      </UButton>
    </p>
    <p v-if="alone.length">
      {{ count(alone.length, 'part') }} of this mesh found no partner and kept their own surface.
      <UButton variant="link" @click="mesh.select(alone)">Select them</UButton>
    </p>
    <template v-if="detail.missed.length">
      <p>
        Missed on more than a little; a wider cage may help.
        <UButton variant="link" @click="mesh.select(detail.missed.map(m => m.part))">Select all of them</UButton>
      </p>
      <ul class="missed">
        <li v-for="m in detail.missed.slice(0, MOST_LISTED)" :key="m.part">
          <UButton variant="bare" @click="mesh.select([m.part])">{{ nameOf(m.part) }}</UButton>
          <span class="num ub-quiet">{{ percent(m.share) }}</span>
        </li>
      </ul>
      <p v-if="detail.missed.length > MOST_LISTED" class="ub-quiet">
        {{ count(detail.missed.length - MOST_LISTED, 'more part') }}
      </p>
    </template>
    <p v-if="dense.settings.match === 'near'" class="ub-quiet">
      By nearness, parts have no partners of their own: what belongs to another part counts as met.
    </p>
  </section>
</template>

<style scoped>
.missed {
  columns: 2;
  max-width: 560px;
}
.missed li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  min-height: 24px;
}
</style>
