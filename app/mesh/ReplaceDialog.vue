<script setup lang="ts">
import { count } from '../shared/units'

const emit = defineEmits<{ apply: []; cancel: [] }>()
const project = useProject()
const found = computed(() => project.incoming?.found)
const kept = computed(() =>
  found.value ? found.value.counts.same + found.value.counts.renamed + found.value.counts.moved : 0,
)
const lists = computed(() =>
  found.value
    ? [
        {
          title: 'Lost',
          names: found.value.lost,
          total: found.value.lost.length,
          help: 'In the mesh now, not in the new file. Sets and draws forget them.',
        },
        {
          title: 'New',
          names: found.value.fresh,
          total: found.value.counts.new,
          help: 'Only in the new file. They draw for the first time.',
        },
        {
          title: 'Moved',
          names: found.value.moved,
          total: found.value.counts.moved,
          help: 'Found again by their shape; they keep their draws.',
        },
        {
          title: 'In another object',
          names: found.value.renamed,
          total: found.value.counts.renamed,
          help: 'In the same place under another object name; they keep their draws.',
        },
      ].filter(l => l.total)
    : [],
)
const MOST = 12
</script>

<template>
  <UModal
    :open="Boolean(project.incoming && project.meta?.mesh)"
    title="Replace the mesh"
    :description="project.incoming?.name"
    :dismissible="false"
    @update:open="$event || emit('cancel')"
  >
    <template #body>
      <div v-if="found" class="found">
        <p>
          <b class="num" data-test="kept">{{ kept.toLocaleString('en-US') }}</b> of {{ count(found.parts, 'part') }} are
          found again and keep their keys, so they keep their draws and stay in their sets.
          {{ count(found.triangles, 'triangle') }} in all.
        </p>
        <p v-if="!kept" class="ub-warn">Nothing matches: this seems to be another mesh, or the same in other units.</p>
        <section v-for="l in lists" :key="l.title">
          <h3>{{ l.title }} <span class="num">{{ l.total.toLocaleString('en-US') }}</span></h3>
          <p class="ub-quiet">{{ l.help }}</p>
          <p>
            {{ l.names.slice(0, MOST).join(', ')
            }}{{ l.total > MOST ? ` and ${(l.total - MOST).toLocaleString('en-US')} more` : '' }}
          </p>
        </section>
        <section v-if="found.warnings.length">
          <h3>From the file</h3>
          <p v-for="w in found.warnings" :key="w">{{ w }}</p>
        </section>
      </div>
    </template>
    <template #footer>
      <UButton variant="solid" color="primary" @click="emit('apply')">Replace</UButton>
      <UButton color="neutral" variant="outline" @click="emit('cancel')">Keep the mesh as it is</UButton>
    </template>
  </UModal>
</template>

<style scoped>
.found {
  display: grid;
  gap: 12px;
}
h3 {
  font-weight: 600;
}
b {
  font-weight: 600;
}
</style>
