<script setup lang="ts">
import type { Eye } from '../stage/stage'

const looking = useLooking(), mesh = useMesh()
const EYES: { key: Eye, title: string }[] = [{ key: 'perspective', title: 'With perspective' }, { key: 'front', title: 'From the front' }, { key: 'side', title: 'From the side' }, { key: 'top', title: 'From above' }]
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }">
    <button type="button" title="How the mesh is seen">View</button>
    <template #content>
      <section class="ub-sheet view" aria-label="View">
        <label v-for="e in EYES" :key="e.key"><input v-model="looking.eye" type="radio" name="eye" :value="e.key">{{ e.title }}</label>
        <hr>
        <label><input v-model="looking.edges" type="checkbox">Edges of triangles (W)</label>
        <label><input v-model="looking.spinning" type="checkbox">Turns slowly (T)</label>
        <hr>
        <p v-if="!mesh.selected.size && !mesh.hidden.size" class="ub-quiet">Click parts on the stage to isolate or hide them.</p>
        <p v-else>
          <button type="button" class="ub-link" :disabled="!mesh.selected.size" @click="mesh.isolate()">Isolate (I)</button>
          <button type="button" class="ub-link" :disabled="!mesh.selected.size" @click="mesh.hide([...mesh.hidden, ...mesh.selected])">Hide (H)</button>
          <button type="button" class="ub-link" :disabled="!mesh.hidden.size" @click="mesh.hide([])">Show all</button>
        </p>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
button { color: var(--ub-quiet); white-space: nowrap; }
.view { width: 230px; }
.view label { display: flex; gap: 8px; align-items: center; cursor: pointer; }
.view p { display: flex; gap: 14px; }
hr { border-color: var(--ub-line); margin: 4px 0; }
</style>
