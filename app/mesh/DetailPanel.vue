<script setup lang="ts">
import { greenOf, type Green } from '#core/dense/normalPicture'
import { isSeen } from '#core/evaluate/pictures'
import { decodeNormals } from '../collect/pictures'
import { DETAIL_KINDS, DETAIL_WORDS, type DetailKind } from '#core/dense/take'
import { MESH_ENDINGS } from '#core/exchange/readers'
import { addNode } from '#core/graph/edit'
import { count, meters, seconds } from '../shared/units'

const emit = defineEmits<{ build: [] }>()
const project = useProject()
const mesh = useMesh()
const detail = useDetail()
const chooser = useTemplateRef('chooser')
const { settings } = detail

const LENGTH = { min: 0.001, max: 1e6, step: 0.5, unit: 'mm' } as const
const MATCH_CHOICES = [
  { value: 'part' as const, title: 'Part by part: a part has detail of its own partners alone' },
  { value: 'object' as const, title: 'By object: detail of all that belongs to the object' },
  { value: 'near' as const, title: 'By nearness: whatever a ray meets first' },
]
const SIZES = [256, 512, 1024, 2048, 4096].map(n => ({ value: n, title: `${n} × ${n}` }))
const MOST_LISTED = 12
const percent = (x: number): string => `${(100 * x).toFixed(x > 0.995 || x < 0.1 ? 1 : 0)} %`

const words = computed(() => {
  const { dense } = detail
  if (!dense) return ''
  const size = dense.max.map((x, k) => meters((x - dense.min[k]!) * settings.scale)).join(' × ')
  return `${count(dense.triangles, 'triangle')}, ${count(dense.parts, 'part')}, ${size}`
})
const going = computed(() => detail.going)
const canTake = computed(
  () =>
    Boolean(detail.dense) &&
    !going.value &&
    !project.readOnly &&
    settings.kinds.length + settings.vertexMaps.length > 0,
)
const nameOf = (part: number): string => mesh.parts[part]?.name ?? ''
const results = useTemplateRef('results')
// What came of it is below what was asked for.
watch(
  () => detail.taken,
  async found => {
    await nextTick()
    if (found) results.value?.scrollIntoView({ block: 'nearest' })
  },
)
const alone = computed(() => detail.taken?.alone ?? [])
const shares = computed(() => detail.shares)
const missed = computed(() => detail.missed)
// A picture of normals in tangent space.
const GREENS = [
  { value: 'up' as const, title: 'Up in the picture (OpenGL, glTF)' },
  { value: 'down' as const, title: 'Down in the picture (DirectX)' },
]
const flatPictures = computed(() => project.pictures.filter(isSeen).map(p => ({ value: p.name, title: p.name })))
const flat = ref('')
const green = ref<Green>('up')
const told = ref('')
/** Which way green grows is told by the picture itself: its slopes fit together in one way alone. */
function chooseFlat(name: string): void {
  flat.value = name
  const picture = project.pictures.find(p => p.name === name)
  const found = picture && greenOf(picture)
  green.value = found ?? 'up'
  told.value = found ? `Its slopes fit together with green ${found}.` : 'It does not tell which way green grows.'
}
async function turnFlat(): Promise<void> {
  const seen = project.pictures.find(p => p.name === flat.value)
  if (!seen) return
  // From the file: what is shown of it has 8 bits to a number.
  const picture = await decodeNormals(seen.name, await project.pictureFile(seen.name)).catch(() => seen)
  const name = `${flat.value.replace(/\.[^.]*$/, '')} on the mesh.exr`
  const turned = await detail.turn([{ picture, green: green.value }], name)
  if ('ok' in turned) detail.layOn(turned.ok)
  else detail.problem = turned.error
}
const numbers = computed(() => project.pictures.filter(p => !isSeen(p)).map(p => p.name))

function toggle<T extends string>(list: T[], item: T, on: boolean | 'indeterminate'): void {
  const at = list.indexOf(item)
  if (on && at < 0) list.push(item)
  else if (!on && at >= 0) list.splice(at, 1)
}
const cageMaps = computed(() =>
  (project.tables?.mesh.maps ?? []).filter(m => m.components === 1).map(m => ({ value: m.name, title: m.name })),
)
function showAstray(): void {
  if (detail.astray) mesh.shown = { kind: 'astray', shares: detail.astray }
}
const kindTitle = (kind: DetailKind): string => DETAIL_WORDS[kind].title

/** Puts a picture into the graph: as numbers, on the UVs. */
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
  <div
    @dragover.prevent.stop
    @drop.prevent.stop="$event.dataTransfer?.files[0] && detail.read($event.dataTransfer.files[0])"
  >
    <p class="ub-quiet lead">
      A finer mesh of the same thing: its normals, its height and its geometry maps are taken onto the UVs of this mesh.
      Rays go from a little outside of the surface straight in; what they meet first is what a texel gets.
    </p>
    <p v-if="!project.opened?.mesh.uvs" class="ub-warn">
      The mesh has no UVs, so there is nothing to take detail onto. Unwrap it first (Report).
    </p>
    <h3 class="ub-h">Dense mesh</h3>
    <p v-if="detail.dense" class="file">
      <b>{{ detail.dense.name }}</b>
      <span class="ub-quiet">{{ words }}</span>
      <UButton variant="link" @click="chooser?.open()">Choose another</UButton>
    </p>
    <p v-else>
      <UButton :disabled="Boolean(going)" @click="chooser?.open()">Choose a dense mesh</UButton>
      <span class="ub-quiet"> or drop it here. It is read, and not kept in the project.</span>
    </p>
    <div v-if="detail.otherUnits" class="ub-warn" role="alert">
      It is {{ Number(detail.otherUnits.ratio.toPrecision(3)) }} times as large as this mesh.
      <UButton
        v-if="detail.otherUnits.factor"
        variant="link"
        @click="settings.scale = settings.scale * detail.otherUnits.factor"
      >
        Read it in units that fit (× {{ Number(detail.otherUnits.factor.toPrecision(4)) }})
      </UButton>
    </div>
    <p v-if="detail.elsewhere" class="ub-warn" role="alert">
      It lies elsewhere in space, so rays would not meet it. Export both from the same place.
    </p>
    <template v-if="detail.dense">
      <h3 class="ub-h">How it is looked for</h3>
      <div class="fields">
        <div class="ub-line">
          <span>Match</span>
          <ChoiceField
            :value="settings.match"
            label="Match"
            :choices="MATCH_CHOICES"
            @change="settings.match = $event"
          />
        </div>
        <NumberField
          label="Outward"
          help="How far outside of the surface rays begin."
          :value="settings.outward * 1000"
          :shape="LENGTH"
          :default-value="detail.suggested * 1000"
          @change="settings.outward = $event / 1000"
          @reset="settings.outward = detail.suggested"
        />
        <NumberField
          label="Inward"
          help="How far inside of it they end."
          :value="settings.inward * 1000"
          :shape="LENGTH"
          :default-value="detail.suggested * 1000"
          @change="settings.inward = $event / 1000"
          @reset="settings.inward = detail.suggested"
        />
        <div v-if="cageMaps.length" class="ub-line">
          <span>Narrowed by</span>
          <ChoiceField
            :value="settings.cageMap"
            label="Vertex map of the cage"
            :choices="cageMaps"
            none="No vertex map"
            @change="settings.cageMap = $event"
          />
        </div>
        <div class="ub-line">
          <span>Texels of a tile</span>
          <ChoiceField
            :value="settings.size"
            label="Texels of a tile"
            :choices="SIZES"
            @change="settings.size = $event"
          />
        </div>
      </div>
      <h3 class="ub-h">What is taken</h3>
      <ul class="kinds">
        <li v-for="kind in DETAIL_KINDS" :key="kind">
          <UCheckbox
            :model-value="settings.kinds.includes(kind)"
            :label="kindTitle(kind)"
            :description="DETAIL_WORDS[kind].help"
            @update:model-value="toggle(settings.kinds, kind, $event)"
          />
        </li>
        <li v-for="name in detail.dense.maps" :key="name">
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
    <div v-if="going" class="going" role="status">
      <UProgress :model-value="100 * going.share" size="sm" :aria-label="going.what" />
      <span>{{ going.what }}</span>
      <span v-if="going.remaining" class="num ub-quiet">{{ seconds(going.remaining) }} left</span>
      <UButton variant="link" @click="detail.stop()">Stop</UButton>
    </div>
    <p v-if="detail.problem" class="ub-warn" role="alert">{{ detail.problem }}</p>
    <section v-if="detail.taken && shares" ref="results" aria-label="Taken">
      <h3 class="ub-h">Taken</h3>
      <p>
        {{ percent(shares.met) }} of the texels met the dense mesh; the rest has the nearest place of it.
        <template v-if="shares.wrong > 0">{{ percent(shares.wrong) }} met what belongs to another part.</template>
        <template v-if="detail.taken.leftOver">
          {{ count(detail.taken.leftOver, 'part') }} of the dense mesh belong to nothing here.
        </template>
        <UButton v-if="shares.met < 1 || shares.wrong > 0" variant="link" @click="showAstray">
          Show in red where
        </UButton>
      </p>
      <p v-if="alone.length">
        {{ count(alone.length, 'part') }} of this mesh found no partner and kept their own surface.
        <UButton variant="link" @click="mesh.select(alone)">Select them</UButton>
      </p>
      <template v-if="missed.length">
        <p>
          Missed on more than a little; a wider cage may help.
          <UButton variant="link" @click="mesh.select(missed.map(m => m.part))">Select all of them</UButton>
        </p>
        <ul class="missed">
          <li v-for="m in missed.slice(0, MOST_LISTED)" :key="m.part">
            <UButton variant="bare" @click="mesh.select([m.part])">{{ nameOf(m.part) }}</UButton>
            <span class="num ub-quiet">{{ percent(m.share) }}</span>
          </li>
        </ul>
        <p v-if="missed.length > MOST_LISTED" class="ub-quiet">{{ count(missed.length - MOST_LISTED, 'more part') }}</p>
      </template>
    </section>
    <template v-if="flatPictures.length">
      <h3 class="ub-h">A picture of normals</h3>
      <p class="ub-quiet lead">In tangent space, as most programs make them: it is turned into normals of this mesh.</p>
      <div class="fields">
        <div class="ub-line">
          <span>Picture</span>
          <ChoiceField
            :value="flat"
            label="Picture of normals"
            :choices="flatPictures"
            none="Choose a picture"
            @change="chooseFlat"
          />
        </div>
        <div v-if="flat" class="ub-line">
          <span>Green grows</span>
          <ChoiceField :value="green" label="Green grows" :choices="GREENS" @change="green = $event" />
        </div>
      </div>
      <p v-if="flat" class="acts">
        <UButton :disabled="Boolean(going) || project.readOnly !== ''" @click="turnFlat">Lay the look on it</UButton>
        <span class="ub-quiet">{{ told }}</span>
      </p>
    </template>
    <template v-if="numbers.length">
      <h3 class="ub-h">Surface maps</h3>
      <ul class="pictures">
        <li v-for="name in numbers" :key="name">
          <span>{{ name }}</span>
          <UButton variant="link" @click="addToGraph(name)">Add to the graph</UButton>
          <UButton v-if="detail.normals !== name" variant="link" @click="detail.layOn(name)"
            >Lay the look on it</UButton
          >
          <UButton v-else variant="link" @click="detail.layOn('')">Lay the look on the mesh itself</UButton>
        </li>
      </ul>
    </template>
    <FileChooser
      ref="chooser"
      :accept="MESH_ENDINGS.join()"
      label="Dense mesh file"
      @choose="$event[0] && detail.read($event[0])"
    />
  </div>
</template>

<style scoped>
.lead {
  max-width: 62ch;
}
.file {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}
.fields {
  max-width: 560px;
}
.fields :deep(.row) {
  grid-template-columns: 132px 1fr 20px;
}
.fields :deep(.bar) {
  background: var(--ub-card);
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
.missed {
  columns: 2;
  max-width: 560px;
}
.missed li,
.pictures li {
  display: flex;
  gap: 14px;
  align-items: baseline;
  min-height: 24px;
}
</style>
