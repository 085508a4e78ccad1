<script setup lang="ts">
import { membersOf, type PartSet } from '#core/mesh/partSets'
import { newSet } from '#core/mesh/setEdits'
import type { Preparation } from '#core/mesh/preparation'
import { swatchOf } from '#core/color/falseColor'
import { count } from '../shared/units'
import PartSetEditor from './PartSetEditor.vue'

const project = useProject()
const mesh = useMesh()
const p = computed(() => project.preparation)
const SCALES = [
  { factor: 1, title: 'Meters, as glTF says' },
  { factor: 0.1, title: 'Decimeters' },
  { factor: 0.01, title: 'Centimeters' },
  { factor: 0.001, title: 'Millimeters' },
  { factor: 0.0254, title: 'Inches' },
  { factor: 0.3048, title: 'Feet' },
]
const PATCHES = [
  { value: 'uv', title: 'UV islands' },
  { value: 'crease', title: 'Faces between creases' },
]
const BASES: { value: Preparation['groups']['base']; title: string }[] = [
  { value: 'file', title: 'As the file has them' },
  { value: 'object', title: 'One for each object' },
  { value: 'material', title: 'By material' },
  { value: 'touching', title: 'Parts that touch' },
]
const weld = computed(() => p.value.weld ?? project.opened?.parts.weldDistance ?? 0)
const set = (label: string, change: Partial<Preparation>, merge?: string) =>
  project.prepare(label, old => ({ ...old, ...change }), merge)
const levels = computed(
  () =>
    project.opened &&
    ([
      ['object', project.opened.mesh.objects.length],
      ['group', project.arranged?.groups.length ?? 0],
      ['part', mesh.parts.length],
      ['patch', project.opened.parts.patches],
    ] as const),
)

// Groups: those that a rule made by name, and those made by hand, which come first.
const named = computed(() => p.value.groups.named)
const setNamed = (label: string, next: PartSet[], merge?: string) =>
  project.prepare(label, old => ({ ...old, groups: { ...old.groups, named: next } }), merge)
const sizeOf = (s: PartSet) =>
  project.opened
    ? membersOf(s, project.opened.mesh, project.opened.parts, project.arranged?.measures).reduce((n, x) => n + x, 0)
    : 0
const MOST = 40
const groups = computed(() => {
  const sizes = new Uint32Array(project.arranged?.groups.length ?? 0)
  for (const g of project.arranged?.groupOf ?? []) sizes[g]!++
  return (project.arranged?.groups ?? []).map((g, i) => ({
    ...g,
    i,
    size: sizes[i]!,
    color: `rgb(${swatchOf(g.key)
      .map(x => Math.round(x * 255))
      .join()})`,
  }))
})
const select = (g: number) => mesh.select(mesh.parts.flatMap((_, i) => (project.arranged!.groupOf[i] === g ? [i] : [])))
const picked = computed(() => [...mesh.selected].map(i => mesh.parts[i]!.key))
</script>

<template>
  <dl class="counts" aria-label="Levels">
    <div v-for="[name, n] in levels" :key="name">
      <dt>{{ name === 'patch' ? 'patches' : `${name}s` }}</dt>
      <dd class="num" :data-test="`level-${name}`">{{ n.toLocaleString('en-US') }}</dd>
    </div>
  </dl>

  <h3 class="ub-h">Parts</h3>
  <div class="ub-fields">
    <NumberField
      label="Weld distance"
      help="Vertices nearer than this count as one, so pieces that meet there are one part. Nothing is moved."
      :value="weld * 1000"
      :shape="{ min: 0.00001, max: 1000, step: 0.01, unit: 'mm' }"
      :default-value="p.weld === null ? weld * 1000 : -1"
      @change="set('Weld distance', { weld: $event / 1000 }, 'weld')"
      @settle="project.settle()"
      @reset="set('Weld distance', { weld: null })"
    />
    <div class="ub-line">
      <span>The file is in</span>
      <ChoiceField
        :value="p.scale"
        label="The file is in"
        :choices="SCALES.map(s => ({ value: s.factor, title: s.title }))"
        :gone="`${p.scale} m`"
        @change="set('Units of the file', { scale: $event })"
      />
    </div>
    <div class="ub-line">
      <span>Patches</span>
      <ChoiceField
        :value="p.patches.by"
        label="Patches"
        :choices="PATCHES"
        @change="set('Patches', { patches: $event === 'uv' ? { by: 'uv' } : { by: 'crease', angle: 40 } })"
      />
    </div>
    <NumberField
      v-if="p.patches.by === 'crease'"
      label="Crease angle"
      help="Faces that meet at a sharper angle belong to different patches."
      :value="p.patches.angle"
      :shape="{ min: 1, max: 180, step: 1, unit: '°' }"
      :default-value="40"
      @change="set('Crease angle', { patches: { by: 'crease', angle: $event } }, 'crease')"
      @settle="project.settle()"
      @reset="set('Crease angle', { patches: { by: 'crease', angle: 40 } })"
    />
    <NumberField
      label="Contact distance"
      help="Parts that come nearer than this touch: for groups, for neighbors, and for growing a selection."
      :value="p.contact * 1000"
      :shape="{ min: 0, max: 10000, step: 0.1, unit: 'mm' }"
      :default-value="1"
      @change="set('Contact distance', { contact: $event / 1000 }, 'contact')"
      @settle="project.settle()"
      @reset="set('Contact distance', { contact: 0.001 })"
    />
  </div>

  <h3 class="ub-h">Groups</h3>
  <div class="ub-line">
    <span>Parts belong together</span>
    <ChoiceField
      :value="p.groups.base"
      label="Parts belong together"
      :choices="BASES"
      @change="set('Groups', { groups: { ...p.groups, base: $event } })"
    />
  </div>
  <p class="ub-quiet lead">
    Groups of your own come before that: by a name pattern or any other rule, or picked by hand.
  </p>
  <PartSetEditor
    v-for="s in named"
    :key="s.id"
    :set="s"
    what="group"
    :members="sizeOf(s)"
    @change="
      (next, merge) =>
        setNamed(
          'Change a group',
          named.map(x => (x.id === next.id ? next : x)),
          merge,
        )
    "
    @settle="project.settle()"
    @rename="
      name =>
        name.trim() &&
        setNamed(
          'Rename a group',
          named.map(x => (x.id === s.id ? { ...x, name: name.trim() } : x)),
        )
    "
    @remove="
      setNamed(
        'Remove a group',
        named.filter(x => x.id !== s.id),
      )
    "
  />
  <p class="new">
    <UButton
      size="sm"
      color="neutral"
      variant="outline"
      @click="setNamed('New group', [...named, newSet(named, [], 'Group')])"
      >New group</UButton
    >
    <UButton
      size="sm"
      color="neutral"
      variant="outline"
      :disabled="!picked.length"
      @click="setNamed('New group', [...named, newSet(named, picked, 'Group')])"
      >Group the selection</UButton
    >
  </p>
  <ul class="groups">
    <li v-for="g in groups.slice(0, MOST)" :key="g.key">
      <i :style="{ background: g.color }" aria-hidden="true" /><UButton variant="bare" @click="select(g.i)">
        {{ g.name }}</UButton
      ><span class="num ub-quiet">{{ g.size }}</span>
    </li>
  </ul>
  <p v-if="groups.length > MOST" class="ub-quiet">
    {{ count(groups.length - MOST, 'more group') }}. The part table sorts by group.
  </p>
</template>

<style scoped>
.counts {
  display: flex;
  gap: 30px;
}
dt {
  color: var(--ub-quiet);
  font-size: 12px;
}
dd {
  font-size: 16px;
}
.lead {
  max-width: 62ch;
  padding-top: 4px;
}
.new {
  display: flex;
  gap: 10px;
  padding: 10px 0 12px;
}
.groups {
  columns: 3;
  column-gap: 24px;
}
.groups li {
  display: flex;
  gap: 7px;
  align-items: center;
  break-inside: avoid;
  min-height: 22px;
  font-size: 12px;
}
.groups i {
  width: 11px;
  height: 11px;
  flex: none;
}
.groups button {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.groups button:hover {
  color: var(--ub-accent);
}
</style>
