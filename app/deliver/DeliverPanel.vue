<script setup lang="ts">
import { COMPRESSION_WORDS, COMPRESSIONS, GLB_PICTURE_WORDS, GLB_PICTURES } from '#core/exchange/compression'
import { FORMATS, formatsOf, refusal, wearsTextures } from '#core/deliver/formats'
import { BAKE_SIZES, MAP_NAMES, MAPS, PICTURE_FORMATS, PICTURE_WORDS, type MapName } from '#core/bake/maps'
import { RELIEFS } from '#core/deliver/settings'
import { lanesOfPort } from '#core/bake/lanes'
import { titleOf } from '#core/graph/check'
import { kindFor, outputType } from '#core/graph/kinds'
import { tilingOf } from '#core/bake/raster'
import DeliveryList from './DeliveryList.vue'
import ProofView from './ProofView.vue'
import { useLooks } from '../project/useLooks'
import type { ProofStage } from './proof'

const project = useProject()
const deliveries = useDeliveries()
const { settings, failure } = storeToRefs(deliveries)
defineProps<{ stage: ProofStage | null }>()
const emit = defineEmits<{ unwrap: [] }>()
onMounted(() => {
  void deliveries.refresh()
  void deliveries.readPresets()
})
// The checks judge fine detail by what is to be delivered.
watch(
  () => settings.value.size,
  size => {
    project.texels = size
  },
  { immediate: true },
)

const SIZES = BAKE_SIZES.map(value => ({ value, title: `${value} × ${value}` }))
const PICTURES = PICTURE_WORDS.map(value => ({ value, title: PICTURE_FORMATS[value].title }))
const SAMPLES = [
  { value: 1 as const, title: '1 per texel' },
  { value: 2 as const, title: '4 per texel' },
  { value: 4 as const, title: '16 per texel' },
]
const COLOR_IN = [
  { value: 'texture' as const, title: 'A texture' },
  { value: 'vertices' as const, title: 'Vertex colors' },
]
const PACKINGS = COMPRESSION_WORDS.map(value => ({ value, title: COMPRESSIONS[value].title }))
const GLB_PICTURE_CHOICES = GLB_PICTURE_WORDS.map(value => ({ value, title: GLB_PICTURES[value].title }))
const RELIEF_CHOICES = Object.entries(RELIEFS).map(([value, { title }]) => ({
  value: value as keyof typeof RELIEFS,
  title,
}))
const VERTICES = [
  { value: 'file' as const, title: 'The file, with the mean around each' },
  { value: 'analysis' as const, title: 'The analysis mesh' },
]
/** What a thing is for stands behind its name, not below it. */
const BESIDE = { label: 'inline font-medium', description: 'inline ms-1' }
function setDilation(e: Event): void {
  const texels = Math.round(Number((e.target as HTMLInputElement).value) || 0)
  settings.value.dilation = Math.min(64, Math.max(0, texels))
}
function toggle<T>(list: T[], value: T): void {
  const at = list.indexOf(value)
  if (at < 0) list.push(value)
  else list.splice(at, 1)
}

const tiles = computed(() => (project.tables ? tilingOf(project.tables.mesh).tiles : []))
const named = ref('')
const preset = ref('')
function usePreset(name: string): void {
  preset.value = name
  const found = deliveries.presets.find(p => p.name === name)
  if (found) settings.value = structuredClone(toRaw(found.settings))
}
async function keep(): Promise<void> {
  const name = named.value.trim()
  if (!name) return
  await deliveries.keepPreset(name)
  preset.value = name
  named.value = ''
}

/** Every output of the look that is a value or a color. */
const ports = computed(() =>
  project.look.nodes.flatMap(n => {
    const kind = kindFor(n)
    return Object.entries(kind?.outputs ?? {}).flatMap(([port, output]) =>
      outputType(n, output) === 'finish' ? [] : [{ value: `${n.id}/${port}`, title: `${titleOf(n)}: ${output.title}` }],
    )
  }),
)
const chosenPort = ref('')
const portTitle = (port: string): string => ports.value.find(p => p.value === port)?.title ?? port
const plain = (text: string): string =>
  text
    .replace(/[^\w .+-]+/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, 60) || 'mask'
function addPort(as: 'picture' | 'vertices'): void {
  if (!chosenPort.value) return
  const lanes = lanesOfPort(project.look, chosenPort.value)
  if (as === 'picture') settings.value.extra.push({ name: plain(portTitle(chosenPort.value)), lanes, space: 'linear' })
  else
    settings.value.vertexMaps.push({ name: plain(portTitle(chosenPort.value)).replace(/[^A-Za-z0-9_ ]+/g, '_'), lanes })
}
/** Own packing: what goes into red, green, blue and alpha. */
const LANES = [
  { value: 'roughness', title: 'Roughness' },
  { value: 'metalness', title: 'Metalness' },
  { value: 'occlusion', title: 'Occlusion' },
  { value: 'height', title: 'Height' },
  { value: 'opacity', title: 'Opacity' },
  { value: 'translucency', title: 'Translucency' },
  { value: 'baseColor.r', title: 'Base color, red' },
  { value: 'baseColor.g', title: 'Base color, green' },
  { value: 'baseColor.b', title: 'Base color, blue' },
  { value: '0', title: '0' },
  { value: '1', title: '1' },
]
const packing = ref(['roughness', 'metalness', 'occlusion', ''])
const packName = ref('packed')
function addPacking(): void {
  const lanes = packing.value.filter(Boolean)
  if (lanes.length) settings.value.extra.push({ name: plain(packName.value), lanes, space: 'linear' })
}
const seedText = computed({
  get: () => settings.value.seeds.join(', '),
  set(text: string) {
    const read = [
      ...new Set(
        text
          .split(/[,\s]+/)
          .filter(Boolean)
          .map(Number)
          .filter(x => Number.isInteger(x) && x >= 0 && x <= 1_000_000),
      ),
    ].slice(0, 64)
    settings.value.seeds = read.length ? read : [0]
  },
})
function setTile(tile: number, on: boolean): void {
  const all = new Set(settings.value.tiles ?? tiles.value)
  if (on) all.add(tile)
  else all.delete(tile)
  if (!all.size) return
  if (all.size === tiles.value.length) delete settings.value.tiles
  else settings.value.tiles = [...all].sort((a, b) => a - b)
}

const pictures = computed(() => settings.value.maps.length + settings.value.extra.length)
const needsPictures = computed(
  () =>
    pictures.value > 0 ||
    formatsOf(settings.value).some(f => f.reads || (f.embeds && settings.value.colorIn === 'texture')),
)
const errors = computed(() => project.findings.filter(f => f.severity === 'error'))
const warnings = computed(() => project.findings.filter(f => f.severity !== 'error'))
/** Whether files that have no other way are wanted on a mesh without UVs. */
const needsUvs = computed(
  () => !project.tables?.mesh.uvs && (pictures.value > 0 || settings.value.materials.includes('baked')),
)
/** What would help where there are no UVs: colors on the vertices, where files can do with them, or UVs. */
const wantsUvs = computed(() => {
  if (!project.tables || project.tables.mesh.uvs || errors.value.length) return undefined
  if (needsUvs.value) return { vertices: false }
  return wearsTextures(settings.value) ? { vertices: true } : undefined
})
const blocked = computed(() => {
  const s = settings.value
  if (!project.tables) return 'The project has no mesh yet. Bring one in on the Mesh tab.'
  if (errors.value.length) return `The look has an error: ${errors.value[0]!.message}`
  if (!s.meshes.length && !s.materials.length && !pictures.value && !s.tables.length && !s.look)
    return 'Choose at least one thing that leaves.'
  const { uvs } = project.tables.mesh
  if (wantsUvs.value) return 'Textures need UVs, and the mesh has none.'
  return refusal(s, s.seeds.length + s.variants.length, Boolean(uvs)) ?? ''
})
/**
 * Texels of all pictures, and about how long and how large: from what a delivery of this project took last, where there
 * is one.
 */
const texels = computed(() =>
  needsPictures.value
    ? settings.value.size ** 2 *
      (settings.value.tiles ?? tiles.value).length *
      (settings.value.seeds.length + settings.value.variants.length)
    : 0,
)
const { shown } = useLooks()
const otherLooks = computed(() => shown.value.map(l => l.id).filter(id => id !== project.lookId))
const megatexels = computed(() => (texels.value / 1e6).toFixed(texels.value < 1e7 ? 1 : 0))
function forgetPreset(): void {
  void deliveries.forgetPreset(preset.value)
  preset.value = ''
}
</script>

<template>
  <ProofView v-if="deliveries.proved" :delivery="deliveries.proved" :stage="stage" @close="deliveries.proved = null" />
  <div v-else class="deliver">
    <section class="form" aria-label="Deliver">
      <header>
        <h2>Deliver</h2>
        <p class="lead">The look leaves as open files, computed from the same program as the stage.</p>
        <div class="presets">
          <span>Settings</span>
          <ChoiceField
            :value="preset"
            label="Settings"
            :choices="deliveries.presets.map(p => ({ value: p.name, title: p.name }))"
            none="As set below"
            @change="usePreset"
          />
          <UButton variant="link" v-if="preset" @click="forgetPreset">Forget</UButton>
          <UInput
            v-model="named"
            placeholder="Name to keep them under"
            aria-label="Name for these settings"
            maxlength="60"
            @keydown.enter="keep"
          />
          <UButton variant="link" :disabled="!named.trim()" @click="keep">Keep</UButton>
        </div>
      </header>

      <fieldset v-if="shown.length > 1">
        <legend>Looks</legend>
        <div class="maps">
          <UCheckbox
            v-for="l in shown"
            :key="l.id"
            :label="l.id === project.lookId ? `${l.name} (this one)` : l.name"
            :disabled="l.id === project.lookId"
            :model-value="l.id === project.lookId || deliveries.others.includes(l.id)"
            @update:model-value="toggle(deliveries.others, l.id)"
          />
        </div>
        <p class="ub-quiet small">
          Each is a delivery of its own.
          <UButton variant="link" @click="deliveries.others = otherLooks">All of them</UButton>
        </p>
      </fieldset>
      <fieldset>
        <legend>The mesh with the look on it</legend>
        <UCheckbox
          v-for="m in FORMATS.meshes"
          :key="m.word"
          class="choice"
          :ui="BESIDE"
          :label="m.title"
          :description="m.help"
          :model-value="settings.meshes.includes(m.word)"
          @update:model-value="toggle(settings.meshes, m.word)"
        />
        <UCheckbox
          v-model="settings.identity"
          class="choice"
          :ui="BESIDE"
          label="Who is who"
          description="Numbers of part, group and object on the vertices, keys of the parts, and part sets in USD"
        />
      </fieldset>
      <fieldset>
        <legend>Material documents (MaterialX 1.39)</legend>
        <UCheckbox
          v-for="m in FORMATS.materials"
          :key="m.word"
          class="choice"
          :ui="BESIDE"
          :label="m.title"
          :description="m.help"
          :model-value="settings.materials.includes(m.word)"
          @update:model-value="toggle(settings.materials, m.word)"
        />
      </fieldset>
      <fieldset>
        <legend>Pictures as files</legend>
        <div class="maps">
          <UCheckbox
            v-for="m in MAP_NAMES"
            :key="m"
            :label="MAPS[m].title"
            :model-value="settings.maps.includes(m)"
            @update:model-value="toggle<MapName>(settings.maps, m)"
          />
          <UCheckbox v-model="settings.setMasks" label="A mask of each part set" />
        </div>
        <ul v-if="settings.extra.length" class="extra" aria-label="More pictures">
          <li v-for="(e, i) in settings.extra" :key="i">
            {{ e.name }}
            <span class="ub-quiet num">{{ e.lanes.length }} {{ e.lanes.length === 1 ? 'channel' : 'channels' }}</span>
            {{ ' ' }}
            <UButton variant="link" :aria-label="`Leave out ${e.name}`" @click="settings.extra.splice(i, 1)">
              Leave out
            </UButton>
          </li>
        </ul>
        <FoldOut class="more" label="A mask, or another packing">
          <div class="ub-line">
            <span>Output of a node</span
            ><span class="pair"
              ><ChoiceField
                :value="chosenPort"
                label="Output of a node"
                :choices="ports"
                none="Choose one"
                @change="chosenPort = $event"
              /><UButton variant="link" :disabled="!chosenPort" @click="addPort('picture')">
                Add as picture
              </UButton></span
            >
          </div>
          <div class="ub-line">
            <span>Packed as</span><UInput v-model="packName" aria-label="Name of the packed picture" maxlength="60" />
          </div>
          <div v-for="(c, k) in ['Red', 'Green', 'Blue', 'Alpha']" :key="c" class="ub-line">
            <span>{{ c }}</span
            ><ChoiceField
              :value="packing[k]!"
              :label="`${c} of the packing`"
              :choices="LANES"
              none="Nothing"
              @change="packing[k] = $event"
            />
          </div>
          <UButton variant="link" @click="addPacking">Add this packing</UButton>
        </FoldOut>
      </fieldset>
      <fieldset v-if="needsPictures">
        <legend>How pictures are baked</legend>
        <div v-if="formatsOf(settings).some(f => f.reads)" class="ub-line">
          <span>Height read as</span
          ><ChoiceField
            :value="settings.relief"
            label="How documents read the height"
            :choices="RELIEF_CHOICES"
            @change="settings.relief = $event"
          />
        </div>
        <div class="ub-line">
          <span>Size</span
          ><ChoiceField :value="settings.size" label="Texture size" :choices="SIZES" @change="settings.size = $event" />
        </div>
        <div class="ub-line">
          <span>Files as</span
          ><ChoiceField
            :value="settings.format"
            label="Picture format"
            :choices="PICTURES"
            @change="settings.format = $event"
          />
        </div>
        <div class="ub-line">
          <span>Beyond islands</span
          ><UInput
            :model-value="settings.dilation"
            type="number"
            class="num"
            min="0"
            max="64"
            step="1"
            aria-label="Texels beyond the islands"
            @change="setDilation"
          />
        </div>
        <div class="ub-line">
          <span>Samples</span
          ><ChoiceField
            :value="settings.samples"
            label="Samples of a texel"
            :choices="SAMPLES"
            @change="settings.samples = $event"
          />
        </div>
        <div class="ub-line">
          <span>Dither 8 bits</span><UCheckbox v-model="settings.dither" aria-label="Dither 8 bits" />
        </div>
        <div v-if="tiles.length > 1" class="ub-line">
          <span>Tiles</span
          ><span class="tiles"
            ><UCheckbox
              v-for="t in tiles"
              :key="t"
              class="num"
              :label="String(t)"
              :model-value="!settings.tiles || settings.tiles.includes(t)"
              @update:model-value="setTile(t, Boolean($event))"
          /></span>
        </div>
      </fieldset>
      <fieldset v-if="settings.meshes.length">
        <legend>On the vertices</legend>
        <div class="ub-line">
          <span>Base color in</span
          ><ChoiceField
            :value="settings.colorIn"
            label="Base color goes into"
            :choices="COLOR_IN"
            @change="settings.colorIn = $event"
          />
        </div>
        <p class="ub-quiet small">Never both: viewers multiply one with the other.</p>
        <div v-if="settings.meshes.includes('glb')" class="ub-line">
          <span>GLB packed by</span
          ><ChoiceField
            :value="settings.compression"
            label="Packing of the GLB"
            :choices="PACKINGS"
            @change="settings.compression = $event"
          />
        </div>
        <div v-if="settings.meshes.includes('glb')" class="ub-line">
          <span>Its pictures</span
          ><ChoiceField
            :value="settings.glbPictures"
            label="Pictures of the GLB"
            :choices="GLB_PICTURE_CHOICES"
            @change="settings.glbPictures = $event"
          />
        </div>
        <p v-if="settings.meshes.includes('glb') && settings.compression === 'quantized'" class="ub-quiet small">
          Places are off by 1/131,000 of an object's longest side at most; values on the vertices stay as they are.
        </p>
        <div class="ub-line">
          <span>Vertices of</span
          ><ChoiceField
            :value="settings.on"
            label="Vertices of"
            :choices="VERTICES"
            :disabled="settings.materials.includes('procedural')"
            @change="settings.on = $event"
          />
        </div>
        <p v-if="settings.materials.includes('procedural')" class="ub-quiet small">
          The procedural material reads values that only the analysis mesh has.
        </p>
        <ul v-if="settings.vertexMaps.length" class="extra" aria-label="Vertex maps">
          <li v-for="(m, i) in settings.vertexMaps" :key="i">
            <TextField
              :value="m.name"
              :label="`Name of vertex map ${i + 1}`"
              :limit="60"
              @change="m.name = $event.replace(/[^A-Za-z0-9_ ]+/g, '_')"
            />
            <UButton variant="link" :aria-label="`Leave out ${m.name}`" @click="settings.vertexMaps.splice(i, 1)">
              Leave out
            </UButton>
          </li>
        </ul>
        <div class="ub-line">
          <span>Vertex map from</span
          ><span class="pair"
            ><ChoiceField
              :value="chosenPort"
              label="Vertex map from"
              :choices="ports"
              none="Choose an output"
              @change="chosenPort = $event"
            /><UButton variant="link" :disabled="!chosenPort" @click="addPort('vertices')"> Add </UButton></span
          >
        </div>
      </fieldset>
      <fieldset>
        <legend>Tables and look</legend>
        <div class="maps">
          <UCheckbox
            v-for="t in FORMATS.tables"
            :key="t.word"
            :label="t.title"
            :model-value="settings.tables.includes(t.word)"
            @update:model-value="toggle(settings.tables, t.word)"
          />
          <UCheckbox v-model="settings.look" label="The look with its pictures" />
        </div>
      </fieldset>
      <fieldset>
        <legend>Variants</legend>
        <div class="ub-line">
          <span>Seeds</span
          ><TextField
            class="num"
            :value="seedText"
            label="Seeds of the variants"
            :limit="400"
            @change="seedText = $event"
          />
        </div>
        <p class="ub-quiet small">
          One variant for each number: 0 is the look as it is, any other moves all its seeds.
        </p>
        <div v-if="project.look.variants?.length" class="maps">
          <UCheckbox
            v-for="v in project.look.variants"
            :key="v.name"
            :label="v.name"
            :model-value="settings.variants.includes(v.name)"
            @update:model-value="toggle(settings.variants, v.name)"
          />
        </div>
      </fieldset>
    </section>
    <DeliveryList />
    <footer>
      <UButton
        variant="solid"
        color="primary"
        :disabled="Boolean(blocked) || deliveries.asking"
        @click="deliveries.deliver()"
        >Deliver</UButton
      >
      <p v-if="failure" class="ub-warn" role="alert">{{ failure }}</p>
      <template v-else-if="blocked">
        <p class="ub-warn" role="alert">{{ blocked }}</p>
        <UButton v-if="wantsUvs?.vertices" variant="link" @click="settings.colorIn = 'vertices'"
          >Put colors on the vertices</UButton
        >
        <UButton v-if="wantsUvs" variant="link" :disabled="Boolean(project.readOnly)" @click="emit('unwrap')"
          >Make UVs</UButton
        >
      </template>
      <p v-else class="ub-quiet">
        <template v-if="texels"><span class="num">{{ megatexels }}</span> million texels. </template
        ><template v-if="warnings.length"
          >{{ warnings.length }} {{ warnings.length === 1 ? 'finding' : 'findings' }} of the checks will be noted in the
          manifest.</template
        ><template v-else>Checks are clear.</template>
      </p>
    </footer>
  </div>
</template>

<style scoped>
.deliver {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 262px;
  grid-template-rows: minmax(0, 1fr) auto;
  background: var(--ub-canvas);
}
.form {
  padding: 16px 24px 28px;
  overflow-y: auto;
}
h2 {
  font-size: 18px;
  font-weight: 600;
}
.lead {
  color: var(--ub-quiet);
}
.presets {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
  padding-top: 8px;
  font-size: 12px;
  color: var(--ub-quiet);
}
fieldset {
  margin-top: 16px;
  max-width: 520px;
}
legend {
  font-weight: 500;
  padding-bottom: 3px;
}
.choice {
  padding: 2px 0;
}
.maps {
  display: grid;
  grid-template-columns: repeat(3, auto);
  justify-content: start;
  gap: 0 20px;
}
.tiles {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}
.extra li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 1px 0;
}
.pair {
  display: flex;
  gap: 8px;
  align-items: center;
  min-width: 0;
}
.pair > :first-child {
  flex: 1;
}
.more {
  padding-top: 4px;
}
.small {
  font-size: 12px;
}
footer {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 8px 24px;
  border-top: 1px solid var(--ub-line);
  background: var(--ub-panel);
  min-height: 50px;
}
</style>
