<script setup lang="ts">
import { COMPANION_ENDINGS } from '#core/exchange/meshFile'
import { MESH_ENDINGS } from '#core/exchange/readers'
import { count, meters } from '../shared/units'

/** The file of the dense mesh, and whether it fits the mesh. */
const project = useProject()
const dense = useDense()
const chooser = useTemplateRef('chooser')
const words = computed(() => {
  const own = dense.dense
  if (!own) return ''
  const size = own.max.map((x, k) => meters((x - own.min[k]!) * dense.settings.scale)).join(' × ')
  return `${count(own.triangles, 'triangle')}, ${count(own.parts, 'part')}, ${size}`
})
const most = computed(() => {
  const { bytes, triangles } = project.limits
  return `at most ${Math.round(bytes / 2 ** 20)} MB and ${count(triangles, 'triangle')}`
})
</script>

<template>
  <section aria-label="Dense mesh">
    <h3 class="ub-h">Dense mesh</h3>
    <p v-if="dense.dense" class="file">
      <b>{{ dense.dense.name }}</b>
      <span class="ub-quiet">{{ words }}{{ dense.kept ? ', kept with the project' : '' }}</span>
      <UButton variant="link" @click="chooser?.open()">Choose another</UButton>
      <UButton v-if="!project.readOnly" variant="link" @click="dense.remove()">Remove it</UButton>
    </p>
    <p v-else-if="!dense.going">
      <UButton @click="chooser?.open()">Choose a dense mesh</UButton>
      <span class="ub-quiet"> or drop it here; {{ most }}.</span>
    </p>
    <div v-if="dense.units" class="ub-warn" role="alert">
      It is {{ Number(dense.units.ratio.toPrecision(3)) }} times as large as this mesh.
      <UButton
        v-if="dense.units.factor"
        variant="link"
        @click="dense.settings.scale = dense.settings.scale * dense.units.factor"
      >
        Read it in units that fit (× {{ Number(dense.units.factor.toPrecision(4)) }})
      </UButton>
    </div>
    <p v-if="dense.elsewhere" class="ub-warn" role="alert">
      It lies elsewhere in space, so rays would not meet it. Export both from the same place.
    </p>
    <FileChooser
      ref="chooser"
      multiple
      :accept="[...MESH_ENDINGS, ...COMPANION_ENDINGS].join()"
      label="Dense mesh file"
      @choose="dense.read($event)"
    />
  </section>
</template>

<style scoped>
.file {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}
</style>
