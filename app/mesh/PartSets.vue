<script setup lang="ts">
import { newSet, renameSet } from '#core/mesh/setEdits'
import PartSetEditor from './PartSetEditor.vue'

const project = useProject()
const mesh = useMesh()
const sets = computed(() => project.preparation.sets)
const members = (i: number) => project.arranged?.members[i]
const size = (i: number) => members(i)?.reduce((n, x) => n + x, 0) ?? 0
const select = (i: number) => mesh.select(mesh.parts.flatMap((_, p) => (members(i)?.[p] ? [p] : [])))
const picked = computed(() => [...mesh.selected].map(i => mesh.parts[i]!.key))
const add = (plus: string[]) =>
  project.prepare('New part set', p => ({ ...p, sets: [...p.sets, newSet(p.sets, plus)] }))
</script>

<template>
  <p class="lead ub-quiet">
    A part set is a choice of parts by rules, with exceptions picked by hand. It survives a new export. Nodes use it by
    name: add <b>Part set</b> on the Build tab.
  </p>
  <PartSetEditor
    v-for="(s, i) in sets"
    :key="s.id"
    :set="s"
    what="part set"
    :members="size(i)"
    @change="
      (set, merge) =>
        project.prepare('Change a part set', p => ({ ...p, sets: p.sets.map(x => (x.id === set.id ? set : x)) }), merge)
    "
    @settle="project.settle()"
    @rename="name => project.editDocument('Rename a part set', d => renameSet(d, s.id, name))"
    @remove="project.prepare('Remove a part set', p => ({ ...p, sets: p.sets.filter(x => x.id !== s.id) }))"
  >
    <UButton variant="link" :disabled="!size(i)" :aria-label="`Select ${s.name}`" @click="select(i)"> Select </UButton>
  </PartSetEditor>
  <p class="new">
    <UButton size="sm" color="neutral" variant="outline" @click="add([])">New part set</UButton>
    <UButton size="sm" color="neutral" variant="outline" :disabled="!picked.length" @click="add(picked)"
      >From the selection</UButton
    >
  </p>
</template>

<style scoped>
.lead {
  max-width: 62ch;
}
.lead b {
  font-weight: 500;
  color: var(--ub-text);
}
.new {
  display: flex;
  gap: 10px;
  padding-top: 14px;
}
</style>
