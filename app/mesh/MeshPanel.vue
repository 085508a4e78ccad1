<script setup lang="ts">
import DetailPanel from './DetailPanel.vue'
import GeometryMaps from './GeometryMaps.vue'
import LevelSettings from './LevelSettings.vue'
import MeshReport from './MeshReport.vue'
import PartSets from './PartSets.vue'
import PartTable from './PartTable.vue'

const emit = defineEmits<{ choose: []; unwrap: []; frame: []; build: [] }>()
const project = useProject()
const megabytes = computed(() => Math.round(project.limits.bytes / 2 ** 20))
const SECTIONS = [
  { key: 'report', title: 'Report' },
  { key: 'levels', title: 'Levels' },
  { key: 'table', title: 'Part table' },
  { key: 'sets', title: 'Part sets' },
  { key: 'maps', title: 'Maps' },
  { key: 'detail', title: 'Detail' },
] as const
const section = ref<(typeof SECTIONS)[number]['key']>('report')
</script>

<template>
  <section class="mesh" aria-label="Mesh">
    <template v-if="project.opened">
      <header>
        <nav aria-label="Parts of the preparation">
          <UButton
            variant="bare"
            v-for="s in SECTIONS"
            :key="s.key"
            :aria-current="section === s.key ? 'true' : undefined"
            :class="{ on: section === s.key }"
            @click="section = s.key"
          >
            {{ s.title }}
          </UButton>
        </nav>
        <span class="file" :title="project.meta?.mesh?.name">{{ project.meta?.mesh?.name }}</span>
        <UButton variant="link" @click="emit('choose')">Replace the mesh</UButton>
      </header>
      <div class="body" :class="{ full: section === 'table' }">
        <MeshReport v-if="section === 'report'" @unwrap="emit('unwrap')" @build="emit('build')" />
        <LevelSettings v-else-if="section === 'levels'" />
        <PartTable v-else-if="section === 'table'" @frame="emit('frame')" />
        <PartSets v-else-if="section === 'sets'" />
        <GeometryMaps v-else-if="section === 'maps'" />
        <DetailPanel v-else @build="emit('build')" />
      </div>
    </template>
    <UEmpty
      v-else-if="!project.busy"
      class="empty"
      title="Bring in a mesh"
      :actions="[{ label: 'Choose a file', variant: 'solid', color: 'primary', onClick: () => emit('choose') }]"
    >
      <template #description>
        A file made of many parts: GLB, glTF, OBJ, PLY or STL. Drop it anywhere in this window, together with the files
        that it names, or as a zip. Its parts, materials, UVs and vertex maps are found on arrival.
      </template>
      <template #footer>
        <p class="ub-quiet">
          Up to {{ megabytes.toLocaleString('en-US') }} MB and
          {{ project.limits.triangles.toLocaleString('en-US') }} triangles.
        </p>
      </template>
    </UEmpty>
  </section>
</template>

<style scoped>
.mesh {
  display: grid;
  grid-template-rows: auto 1fr;
  background: var(--ub-canvas);
  min-height: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 18px;
  height: 36px;
  padding: 0 20px;
  border-bottom: 1px solid var(--ub-line);
}
nav {
  display: flex;
  gap: 16px;
  align-self: stretch;
}
nav button {
  color: var(--ub-quiet);
  border-bottom: 2px solid transparent;
}
nav button.on {
  color: var(--ub-text);
  font-weight: 500;
  border-bottom-color: var(--ub-accent);
}
.file {
  flex: 1;
  text-align: right;
  color: var(--ub-quiet);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
.body {
  overflow-y: auto;
  padding: 14px 20px 28px;
  scrollbar-width: thin;
  min-height: 0;
}
.body.full {
  padding: 0;
  overflow: hidden;
}
.empty {
  grid-row: 1 / span 2;
  padding: 24px;
}
</style>
