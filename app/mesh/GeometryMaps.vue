<script setup lang="ts">
import { GEOMETRY_MAPS, MAP_KINDS, type MapKind } from '#core/geometry/maps'
import { newMap, renameMap } from '#core/mesh/setEdits'
import { suggestedEdge } from '#core/mesh/preparation'
import { count, seconds } from '../shared/units'

const project = useProject()
const mesh = useMesh()
const maps = computed(() => project.preparation.maps)
const fileMaps = computed(() => project.opened?.mesh.maps ?? [])
const show = (name: string) => {
  mesh.shown = { kind: 'map', name, component: 0 }
}
function shareOf(name: string): number {
  const state = mesh.states.get(name)
  return state?.state === 'computing' ? state.share : 0
}
const isShown = (name: string) => mesh.shown.kind === 'map' && mesh.shown.name === name

const adding = ref<MapKind>('convexity')
function add(): void {
  const settings = newMap(adding.value, project.diagonal, project.mapNames)
  project.prepare(`Add ${GEOMETRY_MAPS[settings.kind].title.toLowerCase()}`, p => ({
    ...p,
    maps: [...p.maps, settings],
  }))
  show(settings.name)
}
const remove = (name: string) =>
  project.prepare('Remove a geometry map', p => ({ ...p, maps: p.maps.filter(m => m.name !== name) }))
function rename(from: string, to: string): void {
  const shown = isShown(from)
  project.editDocument('Rename a vertex map', d => renameMap(d, from, to, project.mapNames))
  const now = [...maps.value, ...fileMaps.value].find(m => m.name === to.trim())
  if (shown && now) show(now.name)
}

const edge = computed(() => project.preparation.edge)
const suggested = computed(() => (project.opened ? suggestedEdge(project.opened.mesh) : 0.01))
const setEdge = (value: number | null, merge?: string) =>
  project.prepare('Density of the analysis mesh', p => ({ ...p, edge: value }), merge)
const REFINES = [
  { value: 'no', title: 'No, the vertices of the file are enough' },
  { value: 'yes', title: 'Until edges are short enough' },
]
const fileRows = computed(() =>
  fileMaps.value.map(m => {
    let low = Infinity
    let high = -Infinity
    for (const x of m.values) {
      low = Math.min(low, x)
      high = Math.max(high, x)
    }
    return {
      name: m.name,
      domain: 'vertex',
      components: m.components,
      range: `${low.toFixed(2)} – ${high.toFixed(2)}`,
    }
  }),
)
const FILE_COLUMNS = [
  { id: 'see', header: '' },
  { accessorKey: 'name', header: 'Name' },
  { accessorKey: 'domain', header: 'Domain' },
  { accessorKey: 'components', header: 'Numbers', meta: { class: { td: 'num' } } },
  { accessorKey: 'range', header: 'Range', meta: { class: { td: 'num' } } },
]
</script>

<template>
  <h3 class="ub-h first">Analysis mesh</h3>
  <p class="ub-quiet lead">
    Geometry maps live on vertices. Where the mesh has long edges it is refined first, without changing its shape, so
    that a box of twelve triangles gets clean edges too.
  </p>
  <div class="fields">
    <div class="ub-line">
      <span>Refine</span>
      <ChoiceField
        :value="edge === null ? 'no' : 'yes'"
        label="Refine"
        :choices="REFINES"
        @change="setEdge($event === 'no' ? null : suggested)"
      />
    </div>
    <NumberField
      v-if="edge !== null"
      label="Longest edge"
      help="Edges longer than this are split."
      :value="edge * 1000"
      :shape="{ min: 0.01, max: 1e6, step: 0.5, unit: 'mm' }"
      :default-value="suggested * 1000"
      @change="setEdge($event / 1000, 'edge')"
      @settle="project.settle()"
      @reset="setEdge(suggested)"
    />
  </div>
  <p v-if="project.opened" class="ub-quiet">
    {{ count(project.opened.mesh.indices.length / 3, 'triangle') }}, from
    {{ project.opened.fileTriangles.toLocaleString('en-US') }} in the file.
    <span v-if="!project.opened.complete" class="ub-warn"
      >The limit on triangles came first, so some edges are longer.</span
    >
  </p>

  <h3 class="ub-h">Geometry maps</h3>
  <p class="add">
    <ChoiceField
      :value="adding"
      label="Kind of geometry map"
      :choices="MAP_KINDS.map(k => ({ value: k, title: GEOMETRY_MAPS[k].title }))"
      @change="adding = $event"
    />
    <UButton size="sm" color="neutral" variant="outline" @click="add">Add map</UButton>
    <span class="ub-quiet">{{ GEOMETRY_MAPS[adding].help }}</span>
  </p>
  <div v-for="m in maps" :key="m.name" class="map" :class="{ on: isShown(m.name) }" :data-map="m.name">
    <header>
      <UButton
        variant="bare"
        class="see"
        :aria-pressed="isShown(m.name)"
        :aria-label="`Show ${m.name} on the stage`"
        @click="show(m.name)"
      >
        <UIcon name="i-lucide-eye" />
      </UButton>
      <TextField
        plain
        class="name"
        :value="m.name"
        label="Name of the map"
        :limit="80"
        @change="rename(m.name, $event)"
      />
      <span class="ub-quiet kind">{{ GEOMETRY_MAPS[m.kind].title }}</span>
      <span class="state" role="status" data-test="map-state">
        <template v-if="mesh.states.get(m.name)?.state === 'computing'">
          <UProgress :model-value="100 * shareOf(m.name)" size="sm" class="share" :aria-label="`Computing ${m.name}`" />
          <span class="num">{{
            mesh.states.get(m.name)!.remaining === undefined
              ? ''
              : `${seconds(mesh.states.get(m.name)!.remaining!)} left`
          }}</span>
          <UButton variant="link" @click="mesh.stopMap(m.name)">Stop</UButton>
        </template>
        <template v-else-if="mesh.states.get(m.name)?.state === 'ready'">ready</template>
        <template v-else-if="mesh.states.get(m.name)?.state === 'waiting'"
          >waiting <UButton variant="link" @click="mesh.stopMap(m.name)">Stop</UButton></template
        >
        <template v-else
          >{{
            mesh.states.get(m.name)?.state === 'failed'
              ? `could not be computed: ${mesh.states.get(m.name)!.message}`
              : 'not computed'
          }}
          <UButton variant="link" @click="mesh.startMap(m.name)">Compute</UButton></template
        >
      </span>
      <UButton variant="bare" class="x" :aria-label="`Remove ${m.name}`" @click="remove(m.name)">
        <UIcon name="i-lucide-x" />
      </UButton>
    </header>
    <div class="fields inner">
      <MapFields :map="m" :context="m.name" />
    </div>
  </div>
  <p v-if="!maps.length" class="ub-quiet">None yet. Edges, recesses and height start with one of these.</p>

  <h3 class="ub-h">From the file</h3>
  <p v-if="!fileMaps.length" class="ub-quiet">No vertex maps came with the file.</p>
  <UTable v-else :data="fileRows" :columns="FILE_COLUMNS" class="table" aria-label="Vertex maps of the file">
    <template #see-cell="{ row: { original } }">
      <UButton
        variant="bare"
        class="see"
        :aria-pressed="isShown(original.name)"
        :aria-label="`Show ${original.name} on the stage`"
        @click="show(original.name)"
      >
        <UIcon name="i-lucide-eye" />
      </UButton>
    </template>
    <template #name-cell="{ row: { original } }">
      <TextField
        plain
        class="name"
        :value="original.name"
        :label="`Name of ${original.name}`"
        :limit="80"
        @change="rename(original.name, $event)"
      />
    </template>
  </UTable>
</template>

<style scoped>
.first {
  padding-top: 0;
}
.lead {
  max-width: 64ch;
  padding-bottom: 6px;
}
.fields {
  max-width: 560px;
}
.fields :deep(.row),
.fields .ub-line {
  grid-template-columns: 132px 1fr 20px;
}
.fields :deep(.bar) {
  background: var(--ub-card);
}
.inner {
  padding-left: 26px;
}
.add {
  display: grid;
  grid-template-columns: auto auto 1fr;
  gap: 10px;
  align-items: center;
  padding-bottom: 8px;
}
.map {
  padding: 6px 0 8px;
  border-bottom: 1px solid var(--ub-line);
}
.map header {
  display: flex;
  align-items: center;
  gap: 8px;
}
.see {
  width: 20px;
  height: 20px;
  display: grid;
  place-items: center;
  color: var(--ub-line-strong);
}
.see[aria-pressed='true'] {
  color: var(--ub-accent);
  outline: 1px solid var(--ub-accent);
}
.see:hover {
  color: var(--ub-accent);
}
.name {
  flex: 1;
  min-width: 80px;
  font-weight: 500;
  background: none;
  border: 0;
  border-bottom: 1px dotted transparent;
}
.name:hover,
.name:focus {
  border-bottom-color: var(--ub-line-strong);
}
.kind {
  white-space: nowrap;
}
.state {
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: flex-end;
  min-width: 190px;
  color: var(--ub-quiet);
  font-size: 12px;
}
.share {
  width: 70px;
}
.x {
  width: 20px;
  height: 20px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.table {
  max-width: 620px;
}
</style>
