<script setup lang="ts">
import { MAP_KINDS, MAP_WORDS, type MapKind, type MapSettings } from '#core/geometry/settings'
import { newMap, renameMap } from '#core/mesh/setEdits'
import { suggestedEdge } from '#core/mesh/preparation'
import { count, seconds } from '../../units'

const project = useProject()
const mesh = useMesh()
const maps = computed(() => project.preparation.maps)
const fileMaps = computed(() => project.opened?.mesh.maps ?? [])
const show = (name: string) => {
  mesh.shown = { kind: 'map', name, component: 0 }
}
const isShown = (name: string) => mesh.shown.kind === 'map' && mesh.shown.name === name

const adding = ref<MapKind>('convexity')
function add(): void {
  const settings = newMap(adding.value, project.diagonal, project.mapNames)
  project.prepare(`Add ${MAP_WORDS[settings.kind].title.toLowerCase()}`, p => ({ ...p, maps: [...p.maps, settings] }))
  show(settings.name)
}
const change = (name: string, next: Partial<MapSettings>, merge?: string) =>
  project.prepare(
    'Change a geometry map',
    p => ({ ...p, maps: p.maps.map(m => (m.name === name ? ({ ...m, ...next } as MapSettings) : m)) }),
    merge && `${merge} ${name}`,
  )
const remove = (name: string) =>
  project.prepare('Remove a geometry map', p => ({ ...p, maps: p.maps.filter(m => m.name !== name) }))
function rename(from: string, e: Event): void {
  const target = e.target as HTMLInputElement
  const shown = isShown(from)
  project.editDocument('Rename a vertex map', d => renameMap(d, from, target.value, project.mapNames))
  const now =
    maps.value.find(m => m.name === target.value.trim()) ?? fileMaps.value.find(m => m.name === target.value.trim())
  if (shown && now) show(now.name)
  target.value = now?.name ?? from
}

const edge = computed(() => project.preparation.edge)
const suggested = computed(() => (project.opened ? suggestedEdge(project.opened.mesh) : 0.01))
const setEdge = (value: number | null, merge?: string) =>
  project.prepare('Density of the analysis mesh', p => ({ ...p, edge: value }), merge)
const AXES = [
  ['Up', [0, 1, 0]],
  ['Down', [0, -1, 0]],
  ['Right (+X)', [1, 0, 0]],
  ['Left (−X)', [-1, 0, 0]],
  ['Front (+Z)', [0, 0, 1]],
  ['Back (−Z)', [0, 0, -1]],
] as const
const axisOf = (d: readonly number[]) => AXES.findIndex(([, a]) => a.every((x, k) => x === d[k]))
const LENGTH = { min: 0.01, max: 1e6, step: 0.5, unit: 'mm' } as const
const ranges = computed(
  () =>
    new Map(
      fileMaps.value.map(m => {
        let low = Infinity
        let high = -Infinity
        for (const x of m.values) {
          if (x < low) low = x
          if (x > high) high = x
        }
        return [m.name, `${low.toFixed(2)} – ${high.toFixed(2)}`]
      }),
    ),
)
</script>

<template>
  <h3 class="ub-h first">Analysis mesh</h3>
  <p class="ub-quiet lead">
    Geometry maps live on vertices. Where the mesh has long edges it is refined first, without changing its shape, so
    that a box of twelve triangles gets clean edges too.
  </p>
  <div class="fields">
    <label class="ub-line"
      ><span>Refine</span>
      <select
        class="ub-select"
        :value="edge === null ? 'no' : 'yes'"
        @change="setEdge(($event.target as HTMLSelectElement).value === 'no' ? null : suggested)"
        @keydown.stop
      >
        <option value="no">No, the vertices of the file are enough</option>
        <option value="yes">Until edges are short enough</option>
      </select>
    </label>
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
    <select v-model="adding" class="ub-select" aria-label="Kind of geometry map" @keydown.stop>
      <option v-for="k in MAP_KINDS" :key="k" :value="k">{{ MAP_WORDS[k].title }}</option>
    </select>
    <UButton size="sm" color="neutral" variant="outline" @click="add">Add map</UButton>
    <span class="ub-quiet">{{ MAP_WORDS[adding].help }}</span>
  </p>
  <div v-for="m in maps" :key="m.name" class="map" :class="{ on: isShown(m.name) }" :data-map="m.name">
    <header>
      <button
        type="button"
        class="see"
        :aria-pressed="isShown(m.name)"
        :aria-label="`Show ${m.name} on the stage`"
        @click="show(m.name)"
      >
        <UIcon name="i-lucide-eye" />
      </button>
      <input
        class="name"
        :value="m.name"
        aria-label="Name of the map"
        maxlength="80"
        @change="rename(m.name, $event)"
        @keydown.stop
      />
      <span class="ub-quiet kind">{{ MAP_WORDS[m.kind].title }}</span>
      <span class="state" role="status" data-test="map-state">
        <template v-if="mesh.states.get(m.name)?.state === 'computing'">
          <progress :value="mesh.states.get(m.name)!.share" max="1" :aria-label="`Computing ${m.name}`" />
          <span class="num">{{
            mesh.states.get(m.name)!.remaining === undefined
              ? ''
              : `${seconds(mesh.states.get(m.name)!.remaining!)} left`
          }}</span>
          <button type="button" class="ub-link" @click="mesh.stopMap(m.name)">Stop</button>
        </template>
        <template v-else-if="mesh.states.get(m.name)?.state === 'ready'">ready</template>
        <template v-else-if="mesh.states.get(m.name)?.state === 'waiting'"
          >waiting <button type="button" class="ub-link" @click="mesh.stopMap(m.name)">Stop</button></template
        >
        <template v-else
          >{{
            mesh.states.get(m.name)?.state === 'failed'
              ? `could not be computed: ${mesh.states.get(m.name)!.message}`
              : 'not computed'
          }}
          <button type="button" class="ub-link" @click="mesh.startMap(m.name)">Compute</button></template
        >
      </span>
      <button type="button" class="x" :aria-label="`Remove ${m.name}`" @click="remove(m.name)">
        <UIcon name="i-lucide-x" />
      </button>
    </header>
    <div class="fields inner">
      <NumberField
        v-if="m.kind === 'convexity' || m.kind === 'concavity'"
        label="Radius"
        :context="m.name"
        help="The size of the edges or hollows to find."
        :value="m.radius * 1000"
        :shape="LENGTH"
        @change="change(m.name, { radius: $event / 1000 }, 'radius')"
        @settle="project.settle()"
      />
      <NumberField
        v-if="'distance' in m"
        label="Distance"
        :context="m.name"
        help="How far to look."
        :value="m.distance * 1000"
        :shape="LENGTH"
        @change="change(m.name, { distance: $event / 1000 }, 'distance')"
        @settle="project.settle()"
      />
      <NumberField
        v-if="'rays' in m"
        label="Rays"
        :context="m.name"
        help="More rays are smoother and take longer."
        :value="m.rays"
        :shape="{ min: 8, max: 1024, step: 8 }"
        whole
        @change="change(m.name, { rays: $event }, 'rays')"
        @settle="project.settle()"
      />
      <label v-if="m.kind === 'occlusion'" class="ub-line"
        ><span>Covered by</span>
        <select
          class="ub-select"
          :value="m.among"
          @change="change(m.name, { among: ($event.target as HTMLSelectElement).value as 'all' })"
          @keydown.stop
        >
          <option value="all">All parts</option>
          <option value="part">The part itself</option>
        </select>
      </label>
      <label v-if="m.kind === 'facing'" class="ub-line"
        ><span>Toward</span>
        <select
          class="ub-select"
          :value="axisOf(m.direction)"
          @change="change(m.name, { direction: [...AXES[Number(($event.target as HTMLSelectElement).value)]![1]] })"
          @keydown.stop
        >
          <option v-if="axisOf(m.direction) < 0" :value="-1">
            {{ m.direction.map(x => x.toFixed(2)).join(', ') }}
          </option>
          <option v-for="([title], i) in AXES" :key="title" :value="i">{{ title }}</option>
        </select>
      </label>
      <template v-if="m.kind === 'facing'">
        <NumberField
          v-for="(axis, k) in ['X', 'Y', 'Z'] as const"
          :key="axis"
          :label="axis"
          :context="m.name"
          :value="m.direction[k]!"
          :shape="{ min: -1, max: 1, step: 0.01 }"
          @change="
            change(
              m.name,
              { direction: m.direction.map((x, i) => (i === k ? $event : x)) as [number, number, number] },
              axis,
            )
          "
          @settle="project.settle()"
        />
      </template>
      <label v-if="m.kind === 'position'" class="ub-line"
        ><span>In the box of</span>
        <select
          class="ub-select"
          :value="m.space"
          @change="change(m.name, { space: ($event.target as HTMLSelectElement).value as 'world' })"
          @keydown.stop
        >
          <option value="world">The mesh</option>
          <option value="object">Each object</option>
          <option value="group">Each group</option>
          <option value="part">Each part</option>
        </select>
      </label>
    </div>
  </div>
  <p v-if="!maps.length" class="ub-quiet">None yet. Edges, recesses and height start with one of these.</p>

  <h3 class="ub-h">From the file</h3>
  <p v-if="!fileMaps.length" class="ub-quiet">No vertex maps came with the file.</p>
  <table v-else>
    <thead>
      <tr>
        <th />
        <th>Name</th>
        <th>Domain</th>
        <th>Numbers</th>
        <th>Range</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="m in fileMaps" :key="m.name">
        <td>
          <button
            type="button"
            class="see"
            :aria-pressed="isShown(m.name)"
            :aria-label="`Show ${m.name} on the stage`"
            @click="show(m.name)"
          >
            <UIcon name="i-lucide-eye" />
          </button>
        </td>
        <td>
          <input
            class="name"
            :value="m.name"
            :aria-label="`Name of ${m.name}`"
            maxlength="80"
            @change="rename(m.name, $event)"
            @keydown.stop
          />
        </td>
        <td>vertex</td>
        <td class="num">{{ m.components }}</td>
        <td class="num">{{ ranges.get(m.name) }}</td>
      </tr>
    </tbody>
  </table>
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
progress {
  width: 70px;
}
.x {
  width: 20px;
  height: 20px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
table {
  border-collapse: collapse;
  width: 100%;
  max-width: 620px;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--ub-quiet);
  padding: 2px 16px 2px 0;
  border-bottom: 1px solid var(--ub-line-strong);
}
td {
  padding: 2px 16px 2px 0;
  border-bottom: 1px solid var(--ub-line);
  font-size: 12px;
}
</style>
