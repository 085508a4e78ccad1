<script setup lang="ts">
import { addNode } from '#core/graph/edit'
import { LAID, type Laid } from './useSurfaceMaps'

/** The surface maps of the project: to be looked at, used in the graph, and lain on. */
const emit = defineEmits<{ build: [] }>()
const project = useProject()
const mesh = useMesh()
const dense = useDense()
const surface = useSurfaceMaps()

const TITLES: Record<Laid, string> = { normals: 'Normals', heights: 'Heights', occlusion: 'Occlusion' }
const NONE: Record<Laid, string> = { normals: "The mesh's own", heights: 'None', occlusion: 'None' }
const RADIUS = { min: 0.001, max: 1e6, step: 0.1, unit: 'mm' } as const
/** The size of what normals show and the mesh is too coarse for, as a share of the mesh's diagonal. */
const SMALL = 1 / 800
const suggested = computed(() => Number((project.diagonal * SMALL).toPrecision(2)))
const radius = ref(0)
watch(
  suggested,
  r => {
    radius.value = r
  },
  { immediate: true },
)
const choices = computed(() => surface.names.map(value => ({ value, title: value })))
const isShown = (name: string): boolean => mesh.shown.kind === 'surface' && mesh.shown.name === name
function show(name: string): void {
  mesh.shown = isShown(name) ? { kind: 'level', level: 'part' } : { kind: 'surface', name, component: 0 }
}

/** Puts a map into the graph: as numbers, on the UVs. */
function addToGraph(name: string): void {
  const result = project.look.nodes.find(n => n.kind === 'result')
  const at: [number, number] = result ? [result.at[0] - 460, result.at[1] + 320] : [0, 0]
  let id = ''
  project.edit(`Add ${name}`, look => {
    const added = addNode(look, 'picture', at, {
      picture: name,
      space: 'linear',
      beyondSides: 'edge',
      beyondEnds: 'edge',
    })
    id = added.id
    return added.look
  })
  project.settle()
  project.selected = [id]
  emit('build')
}
</script>

<template>
  <section v-if="surface.names.length" aria-label="Surface maps">
    <h3 class="ub-h">Surface maps</h3>
    <ul class="maps">
      <li v-for="name in surface.names" :key="name">
        <span>{{ name }}</span>
        <UButton variant="link" :aria-pressed="isShown(name)" @click="show(name)">
          {{ isShown(name) ? 'Do not show it' : 'Show on the stage' }}
        </UButton>
        <UButton variant="link" @click="addToGraph(name)">Add to the graph</UButton>
      </li>
    </ul>
    <h3 class="ub-h">The mesh's own normals</h3>
    <p class="ub-quiet lead">A part of its preparation: every look lies on them that names no others.</p>
    <div class="ub-fields">
      <div class="ub-line">
        <span>Normals</span>
        <ChoiceField
          :value="surface.ownNormals"
          label="The mesh's own normals"
          :choices="choices"
          none="Those of its vertices"
          @change="surface.setOwnNormals($event)"
        />
      </div>
    </div>
    <h3 class="ub-h">What the look lies on</h3>
    <div class="ub-fields">
      <div v-for="what in LAID" :key="what" class="ub-line">
        <span>{{ TITLES[what] }}</span>
        <ChoiceField
          :value="surface.laid[what]"
          :label="`${TITLES[what]} that the look lies on`"
          :choices="choices"
          :none="NONE[what]"
          @change="surface.lay(what, $event)"
        />
      </div>
      <template v-if="surface.normals">
        <NumberField
          label="Small edges"
          help="The size of the edges and hollows that are taken from the normals."
          :value="radius * 1000"
          :shape="RADIUS"
          :default-value="suggested * 1000"
          @change="radius = $event / 1000"
          @reset="radius = suggested"
        />
        <UButton
          variant="link"
          :disabled="Boolean(dense.going) || project.readOnly !== ''"
          @click="surface.curvatureOf(surface.normals, radius)"
        >
          Take convexity and concavity from the normals
        </UButton>
      </template>
    </div>
  </section>
</template>

<style scoped>
.lead {
  max-width: 62ch;
}
.maps li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  min-height: 24px;
}
</style>
