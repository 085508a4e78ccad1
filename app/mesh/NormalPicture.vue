<script setup lang="ts">
import { greenOf, type Green } from '#core/dense/normalPicture'
import { isSeen } from '#core/evaluate/pictures'
import { decodeNormals } from '../collect/pictures'

/** A picture of normals in tangent space, which becomes the mesh's own. */
const project = useProject()
const dense = useDense()
const surface = useSurfaceMaps()

const GREENS = [
  { value: 'up' as const, title: 'Up in the picture (OpenGL, glTF)' },
  { value: 'down' as const, title: 'Down in the picture (DirectX)' },
]
const pictures = computed(() => project.pictures.filter(isSeen).map(p => ({ value: p.name, title: p.name })))
const chosen = ref('')
const green = ref<Green>('up')
const told = ref('')

/** Which way green grows is told by the picture itself: its slopes fit together in one way alone. */
function choose(name: string): void {
  chosen.value = name
  const picture = project.pictures.find(p => p.name === name)
  const found = picture && greenOf(picture)
  green.value = found ?? 'up'
  told.value = found ? `Its slopes fit together with green ${found}.` : 'It does not tell which way green grows.'
}
async function turn(): Promise<void> {
  const seen = project.pictures.find(p => p.name === chosen.value)
  if (!seen) return
  // From the file: what is shown of it has 8 bits to a number.
  const picture = await decodeNormals(seen.name, await project.pictureFile(seen.name)).catch(() => seen)
  const name = `${chosen.value.replace(/\.[^.]*$/, '')} on the mesh.exr`
  const turned = await surface.fromMaterials('normals', [{ picture, green: green.value }], name)
  if ('ok' in turned) surface.setOwnNormals(turned.ok)
  else dense.problem = turned.error
}
</script>

<template>
  <section v-if="pictures.length" aria-label="A picture of normals">
    <h3 class="ub-h">A picture of normals</h3>
    <p class="ub-quiet lead">
      In tangent space, as most programs make them: it is turned into normals of this mesh, on which all looks lie that
      name no others.
    </p>
    <div class="ub-fields">
      <div class="ub-line">
        <span>Picture</span>
        <ChoiceField
          :value="chosen"
          label="Picture of normals"
          :choices="pictures"
          none="Choose a picture"
          @change="choose"
        />
      </div>
      <div v-if="chosen" class="ub-line">
        <span>Green grows</span>
        <ChoiceField :value="green" label="Green grows" :choices="GREENS" @change="green = $event" />
      </div>
    </div>
    <p v-if="chosen" class="acts">
      <UButton :disabled="Boolean(dense.going) || project.readOnly !== ''" @click="turn">Make them its own</UButton>
      <span class="ub-quiet">{{ told }}</span>
    </p>
  </section>
</template>

<style scoped>
.lead {
  max-width: 62ch;
}
.acts {
  padding-top: 12px;
}
</style>
