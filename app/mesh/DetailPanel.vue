<script setup lang="ts">
import { DETAIL_KINDS, DETAIL_WORDS } from '#core/dense/take'
import { seconds } from '../shared/units'
import DenseCage from './DenseCage.vue'
import DenseFile from './DenseFile.vue'
import DensePartners from './DensePartners.vue'
import DetailResults from './DetailResults.vue'
import NormalPicture from './NormalPicture.vue'
import SurfaceMapList from './SurfaceMapList.vue'

/** What the mesh carries texel by texel, and taking it from a dense mesh. */
const emit = defineEmits<{ build: [] }>()
const project = useProject()
const dense = useDense()
const detail = useDetail()
const { settings } = dense
onMounted(() => void dense.load())
onBeforeUnmount(() => void dense.save())

const canTake = computed(
  () =>
    Boolean(dense.dense) && !dense.going && !project.readOnly && settings.kinds.length + settings.vertexMaps.length > 0,
)
function toggle<T extends string>(list: T[], item: T, on: boolean | 'indeterminate'): void {
  const at = list.indexOf(item)
  if (on && at < 0) list.push(item)
  else if (!on && at >= 0) list.splice(at, 1)
}
</script>

<template>
  <div @dragover.prevent.stop @drop.prevent.stop="dense.read([...($event.dataTransfer?.files ?? [])])">
    <p class="ub-quiet lead">
      A finer mesh of the same thing: its normals, its height and its geometry maps are taken onto the UVs of this mesh.
      Rays go from a little outside of the surface straight in; what they meet first is what a texel gets.
    </p>
    <p v-if="!project.opened?.mesh.uvs" class="ub-warn">
      The mesh has no UVs, so there is nothing to take detail onto. Unwrap it first (Report).
    </p>
    <DenseFile />
    <template v-if="dense.dense">
      <DenseCage />
      <DensePartners />
      <h3 class="ub-h">What is taken</h3>
      <ul class="kinds">
        <li v-for="kind in DETAIL_KINDS" :key="kind">
          <UCheckbox
            :model-value="settings.kinds.includes(kind)"
            :label="DETAIL_WORDS[kind].title"
            :description="DETAIL_WORDS[kind].help"
            @update:model-value="toggle(settings.kinds, kind, $event)"
          />
        </li>
        <li v-for="name in dense.dense.maps" :key="name">
          <UCheckbox
            :model-value="settings.vertexMaps.includes(name)"
            :label="name"
            description="A vertex map of the dense mesh."
            @update:model-value="toggle(settings.vertexMaps, name, $event)"
          />
        </li>
      </ul>
      <p class="acts">
        <UButton color="primary" variant="solid" :disabled="!canTake" @click="detail.take()">Take it</UButton>
      </p>
    </template>
    <div v-if="dense.going" class="going" role="status">
      <UProgress :model-value="100 * dense.going.share" size="sm" :aria-label="dense.going.what" />
      <span>{{ dense.going.what }}</span>
      <span v-if="dense.going.remaining" class="num ub-quiet">{{ seconds(dense.going.remaining) }} left</span>
      <UButton variant="link" @click="dense.stop()">Stop</UButton>
    </div>
    <p v-if="dense.problem" class="ub-warn" role="alert">{{ dense.problem }}</p>
    <DetailResults />
    <NormalPicture />
    <SurfaceMapList @build="emit('build')" />
  </div>
</template>

<style scoped>
.lead {
  max-width: 62ch;
}
.kinds {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(280px, 1fr));
  gap: 6px 24px;
  max-width: 720px;
}
.acts {
  padding-top: 12px;
}
.going {
  display: grid;
  grid-template-columns: minmax(120px, 240px) auto auto auto;
  gap: 14px;
  align-items: center;
  justify-content: start;
  padding-top: 10px;
}
</style>
