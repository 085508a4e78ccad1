<script setup lang="ts">
import { toHex } from '#core/color/convert'
import type { Fix } from '#core/mesh/report'
import { useFileStart } from '../project/useFileStart'
import { count, meters } from '../shared/units'

const emit = defineEmits<{ unwrap: []; build: [] }>()
const fileStart = useFileStart()
const project = useProject()
const mesh = useMesh()
watch(
  () => project.arranged,
  () => void mesh.loadReport(),
  { immediate: true },
)
const summary = computed(() => mesh.report?.summary)
const size = computed(() =>
  summary.value?.bounds.max
    .map((x, k) => Math.abs(x - summary.value!.bounds.min[k]!))
    .map(meters)
    .join(' × '),
)
const figures = computed(() => {
  const s = summary.value
  if (!s) return []
  const n = (x: number) => x.toLocaleString('en-US')
  return [
    ['Triangles', n(s.triangles)],
    ['Vertices', n(s.vertices)],
    ['Objects', n(s.levels.object)],
    ['Groups', n(s.levels.group)],
    ['Parts', n(s.levels.part), 'parts'],
    ['Patches', n(s.levels.patch)],
    ['Size', size.value!],
    ['UV sets', n(s.uvSets)],
    ['Tiles', s.udims.join(' ') || 'none'],
    ['Vertex maps', n(s.attributes.length)],
  ]
})
const notes = computed(() =>
  (summary.value?.warnings ?? []).filter(
    w => !mesh.report!.oddities.some(o => o.message === w) && !w.startsWith('There are no UVs'),
  ),
)
const surfaces = computed(() => project.opened?.mesh.surfaces ?? [])
const nested = computed(() => summary.value?.objects.some(o => o.parents?.length))
const MOST = 60
const NUMBER = { class: { td: 'num text-right', th: 'text-right' } }
const objects = computed(() =>
  (summary.value?.objects ?? []).slice(0, MOST).map(o => ({
    name: o.name,
    inside: o.parents?.join(' › ') ?? '',
    triangles: o.triangles.toLocaleString('en-US'),
  })),
)
const objectColumns = computed(() => [
  { accessorKey: 'name', header: 'Name' },
  ...(nested.value ? [{ accessorKey: 'inside', header: 'Inside' }] : []),
  { accessorKey: 'triangles', header: 'Triangles', meta: NUMBER },
])
/** The materials of the file, as far as it says what they look like. */
const materials = computed(() => {
  if (!surfaces.value.length)
    return (summary.value?.materials ?? []).map(name => ({
      name,
      color: '',
      metalness: '',
      roughness: '',
      pictures: '',
    }))
  return surfaces.value.map(s => ({
    name: s.name || 'without a name',
    color: toHex(s.baseColor),
    metalness: s.metalness.toFixed(2),
    roughness: s.roughness.toFixed(2),
    pictures: s.textures.map(t => t.use).join(', ') || 'none',
  }))
})
const MATERIAL_COLUMNS = [
  { accessorKey: 'name', header: 'Name' },
  { accessorKey: 'color', header: 'Base color' },
  { accessorKey: 'metalness', header: 'Metalness', meta: { class: { td: 'num' } } },
  { accessorKey: 'roughness', header: 'Roughness', meta: { class: { td: 'num' } } },
  { accessorKey: 'pictures', header: 'Pictures' },
]

/** Takes the materials of the file over and shows the look that they make. */
async function startFromFile(): Promise<void> {
  if (await fileStart.start()) emit('build')
}

function apply(fix: Fix & { label: string }): void {
  if (fix.do === 'unwrap') emit('unwrap')
  else if (fix.do === 'scale') project.prepare(fix.label, p => ({ ...p, scale: p.scale * fix.factor }))
  else project.prepare(fix.label, p => ({ ...p, weld: fix.distance }))
}
</script>

<template>
  <p v-if="!summary" class="ub-quiet" role="status">Looking at the mesh …</p>
  <template v-else>
    <dl>
      <div v-for="[name, value, test] in figures" :key="name">
        <dt>{{ name }}</dt>
        <dd class="num" :data-test="test">{{ value }}</dd>
      </div>
    </dl>
    <h3 class="ub-h">{{ mesh.report!.oddities.length ? 'What is odd' : 'Nothing odd was found' }}</h3>
    <ul class="odd">
      <li v-for="o in mesh.report!.oddities" :key="o.id">
        <UIcon name="i-lucide-triangle-alert" />
        <div>
          <b>{{ o.message }}</b>
          <p class="ub-quiet">{{ o.meaning }}</p>
          <p class="acts">
            <UButton variant="link" v-if="o.fix" @click="apply(o.fix)">{{ o.fix.label }}</UButton>
            <UButton variant="link" v-if="o.parts?.length" @click="mesh.select(o.parts)">
              Select {{ count(o.parts.length, 'part') }}
            </UButton>
          </p>
        </div>
      </li>
    </ul>
    <template v-if="notes.length">
      <h3 class="ub-h">From the file</h3>
      <p v-for="w in notes" :key="w" class="note">{{ w }}</p>
    </template>

    <h3 class="ub-h">Objects</h3>
    <UTable :data="objects" :columns="objectColumns" class="table" aria-label="Objects" />
    <p v-if="summary.objects.length > MOST" class="ub-quiet">
      {{ count(summary.objects.length - MOST, 'more object') }}; the part table lists what is in them.
    </p>
    <template v-if="materials.length">
      <h3 class="ub-h">Materials</h3>
      <UTable :data="materials" :columns="MATERIAL_COLUMNS" class="table" aria-label="Materials">
        <template #color-cell="{ row: { original } }">
          <template v-if="original.color">
            <i :style="{ background: original.color }" aria-hidden="true" />
            {{ ' ' }}
            <span class="num">{{ original.color }}</span>
          </template>
        </template>
      </UTable>
      <p v-if="surfaces.length" class="start">
        <UButton
          class="shrink-0"
          :disabled="!fileStart.can.value"
          :loading="fileStart.starting.value"
          @click="startFromFile"
        >
          Start from these materials
        </UButton>
        <span class="ub-quiet">
          A finish for each, with its colors and pictures, on the parts that have it. What is in the look stays beside
          it.
        </span>
      </p>
    </template>
  </template>
</template>

<style scoped>
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 30px;
}
dt {
  color: var(--ub-quiet);
  font-size: 12px;
}
dd {
  font-size: 14px;
}
.odd {
  display: grid;
  gap: 12px;
  max-width: 640px;
}
.odd li {
  display: grid;
  grid-template-columns: 18px 1fr;
  gap: 6px;
  color: var(--ub-warn);
}
.odd b {
  font-weight: 500;
  color: var(--ub-text);
}
.acts {
  display: flex;
  gap: 16px;
  padding-top: 2px;
}
.note {
  max-width: 640px;
  padding-bottom: 4px;
}
.table {
  max-width: 720px;
}
.start {
  display: flex;
  align-items: center;
  gap: 12px;
  max-width: 720px;
  padding-top: 8px;
}
i {
  display: inline-block;
  width: 14px;
  height: 10px;
  border: 1px solid var(--ub-line-strong);
}
</style>
