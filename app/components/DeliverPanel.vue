<script setup lang="ts">
import { BAKE_SIZES, MAP_NAMES, MAPS, PICTURE_FORMATS, type MapName, type PictureFormat } from '#core/bake/maps'
import { lanesOfPort } from '#core/bake/lanes'
import { titleOf } from '#core/graph/check'
import { kindFor, outputType } from '#core/graph/kinds'
import { tilingOf } from '#core/bake/raster'
import DeliveryList from './deliver/DeliveryList.vue'
import ProofView from './deliver/ProofView.vue'
import type { ProofStage } from '../proof'

const project = useProject()
const deliveries = useDeliveries()
const { settings, failure } = storeToRefs(deliveries)
defineProps<{ stage: ProofStage | null }>()
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

const MESHES = [
  { key: 'glb', title: 'GLB', help: 'Mesh, pictures and material in one file, for any glTF viewer or renderer.' },
  { key: 'ply', title: 'PLY', help: 'Mesh with named values and colors at its vertices.' },
  { key: 'usda', title: 'USD', help: 'Mesh with primvars and a preview surface that reads the pictures.' },
] as const
const DOCUMENTS = [
  { key: 'baked', title: 'Baked', help: 'Reads everything from pictures.' },
  {
    key: 'procedural',
    title: 'Procedural',
    help: 'Patterns as standard nodes, part and vertex values from the delivered mesh.',
  },
] as const
function toggle<T>(list: T[], value: T): void {
  const at = list.indexOf(value)
  if (at < 0) list.push(value)
  else list.splice(at, 1)
}

const tiles = computed(() => (project.tables ? tilingOf(project.tables.mesh).tiles : []))
const named = ref('')
const preset = ref('')
function usePreset(): void {
  const found = deliveries.presets.find(p => p.name === preset.value)
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
      outputType(n, output) === 'finish' ? [] : [{ port: `${n.id}/${port}`, title: `${titleOf(n)}: ${output.title}` }],
    )
  }),
)
const chosenPort = ref('')
const portTitle = (port: string): string => ports.value.find(p => p.port === port)?.title ?? port
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
  'roughness',
  'metalness',
  'occlusion',
  'height',
  'opacity',
  'translucency',
  'baseColor.r',
  'baseColor.g',
  'baseColor.b',
  '0',
  '1',
]
const laneTitle = (lane: string): string =>
  ({
    roughness: 'Roughness',
    metalness: 'Metalness',
    occlusion: 'Occlusion',
    height: 'Height',
    opacity: 'Opacity',
    translucency: 'Translucency',
    'baseColor.r': 'Base color, red',
    'baseColor.g': 'Base color, green',
    'baseColor.b': 'Base color, blue',
    '0': '0',
    '1': '1',
  })[lane] ?? lane
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
    settings.value.meshes.includes('usda') ||
    settings.value.materials.length > 0 ||
    (settings.value.meshes.includes('glb') && settings.value.colorIn === 'texture'),
)
const errors = computed(() => project.findings.filter(f => f.severity === 'error'))
const warnings = computed(() => project.findings.filter(f => f.severity !== 'error'))
const blocked = computed(() => {
  const s = settings.value
  if (!project.tables) return 'The project has no mesh yet. Bring one in on the Mesh tab.'
  if (errors.value.length) return `The look has an error: ${errors.value[0]!.message}`
  if (!s.meshes.length && !s.materials.length && !pictures.value && !s.tables.length && !s.look)
    return 'Choose at least one thing that leaves.'
  if (
    !project.tables.mesh.uvs &&
    (pictures.value ||
      s.materials.includes('baked') ||
      ((s.meshes.includes('glb') || s.meshes.includes('usda')) && s.colorIn === 'texture'))
  )
    return 'Textures need UVs, and the mesh has none; vertex colors work without. The Mesh tab can make UVs.'
  if (s.seeds.length + s.variants.length > 1 && s.materials.includes('procedural'))
    return 'A procedural material reads the values of one variant from the mesh; deliver its variants one at a time.'
  if (s.seeds.length + s.variants.length > 1 && s.colorIn === 'vertices' && s.meshes.includes('glb'))
    return 'A GLB has room for the vertex colors of one variant only; deliver textures, or one variant at a time.'
  return ''
})
/** Texels of all pictures, and about how long and how large: from what a delivery of this project took last, where there is one. */
const texels = computed(() =>
  needsPictures.value
    ? settings.value.size ** 2 *
      (settings.value.tiles ?? tiles.value).length *
      (settings.value.seeds.length + settings.value.variants.length)
    : 0,
)
const name = computed(() => project.look.name || project.meta?.name || 'Look')
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
          <label
            >Settings
            <select v-model="preset" class="ub-select" @change="usePreset">
              <option value="">As set below</option>
              <option v-for="p in deliveries.presets" :key="p.name" :value="p.name">{{ p.name }}</option>
            </select>
          </label>
          <button v-if="preset" type="button" class="ub-link" @click="forgetPreset">Forget</button>
          <input
            v-model="named"
            class="ub-input"
            placeholder="Name to keep them under"
            aria-label="Name for these settings"
            maxlength="60"
            @keydown.enter="keep"
          />
          <button type="button" class="ub-link" :disabled="!named.trim()" @click="keep">Keep</button>
        </div>
      </header>

      <fieldset>
        <legend>The mesh with the look on it</legend>
        <label v-for="m in MESHES" :key="m.key"
          ><input
            type="checkbox"
            :checked="settings.meshes.includes(m.key)"
            @change="toggle(settings.meshes, m.key)"
          /><span
            ><b>{{ m.title }}</b> {{ m.help }}</span
          ></label
        >
      </fieldset>
      <fieldset>
        <legend>Material documents (MaterialX 1.39)</legend>
        <label v-for="m in DOCUMENTS" :key="m.key"
          ><input
            type="checkbox"
            :checked="settings.materials.includes(m.key)"
            @change="toggle(settings.materials, m.key)"
          /><span
            ><b>{{ m.title }}</b> {{ m.help }}</span
          ></label
        >
      </fieldset>
      <fieldset>
        <legend>Pictures as files</legend>
        <div class="maps">
          <label v-for="m in MAP_NAMES" :key="m"
            ><input
              type="checkbox"
              :checked="settings.maps.includes(m)"
              @change="toggle<MapName>(settings.maps, m)"
            />{{ MAPS[m].title }}</label
          >
        </div>
        <ul v-if="settings.extra.length" class="extra" aria-label="More pictures">
          <li v-for="(e, i) in settings.extra" :key="i">
            {{ e.name }}
            <span class="ub-quiet num">{{ e.lanes.length }} {{ e.lanes.length === 1 ? 'channel' : 'channels' }}</span>
            {{ ' ' }}
            <button
              type="button"
              class="ub-link"
              :aria-label="`Leave out ${e.name}`"
              @click="settings.extra.splice(i, 1)"
            >
              Leave out
            </button>
          </li>
        </ul>
        <details>
          <summary>A mask, or another packing</summary>
          <div class="ub-line">
            <span>Output of a node</span
            ><span class="pair"
              ><select v-model="chosenPort" class="ub-select" aria-label="Output of a node">
                <option value="">Choose one</option>
                <option v-for="p in ports" :key="p.port" :value="p.port">{{ p.title }}</option></select
              ><button type="button" class="ub-link" :disabled="!chosenPort" @click="addPort('picture')">
                Add as picture
              </button></span
            >
          </div>
          <div class="ub-line">
            <span>Packed as</span
            ><input v-model="packName" class="ub-input" aria-label="Name of the packed picture" maxlength="60" />
          </div>
          <div v-for="(c, k) in ['Red', 'Green', 'Blue', 'Alpha']" :key="c" class="ub-line">
            <span>{{ c }}</span
            ><select v-model="packing[k]" class="ub-select" :aria-label="`${c} of the packing`">
              <option value="">Nothing</option>
              <option v-for="l in LANES" :key="l" :value="l">{{ laneTitle(l) }}</option>
            </select>
          </div>
          <button type="button" class="ub-link" @click="addPacking">Add this packing</button>
        </details>
      </fieldset>
      <fieldset v-if="needsPictures">
        <legend>How pictures are baked</legend>
        <div class="ub-line">
          <span>Size</span
          ><select v-model.number="settings.size" class="ub-select" aria-label="Texture size">
            <option v-for="s in BAKE_SIZES" :key="s" :value="s">{{ s }} × {{ s }}</option>
          </select>
        </div>
        <div class="ub-line">
          <span>Files as</span
          ><select v-model="settings.format" class="ub-select" aria-label="Picture format">
            <option v-for="(title, f) in PICTURE_FORMATS" :key="f" :value="f as PictureFormat">{{ title }}</option>
          </select>
        </div>
        <div class="ub-line">
          <span>Beyond islands</span
          ><input
            v-model.number.lazy="settings.dilation"
            type="number"
            class="ub-input num"
            min="0"
            max="64"
            step="1"
            aria-label="Texels beyond the islands"
            @change="settings.dilation = Math.min(64, Math.max(0, Math.round(Number(settings.dilation) || 0)))"
          />
        </div>
        <div class="ub-line">
          <span>Samples</span
          ><select v-model.number="settings.samples" class="ub-select" aria-label="Samples of a texel">
            <option :value="1">1 per texel</option>
            <option :value="2">4 per texel</option>
            <option :value="4">16 per texel</option>
          </select>
        </div>
        <label class="ub-line"
          ><span>Dither 8 bits</span><span><input v-model="settings.dither" type="checkbox" /></span
        ></label>
        <div v-if="tiles.length > 1" class="ub-line">
          <span>Tiles</span
          ><span class="tiles"
            ><label v-for="t in tiles" :key="t" class="num"
              ><input
                type="checkbox"
                :checked="!settings.tiles || settings.tiles.includes(t)"
                @change="setTile(t, ($event.target as HTMLInputElement).checked)"
              />{{ t }}</label
            ></span
          >
        </div>
      </fieldset>
      <fieldset v-if="settings.meshes.length">
        <legend>On the vertices</legend>
        <div class="ub-line">
          <span>Base color in</span
          ><select v-model="settings.colorIn" class="ub-select" aria-label="Base color goes into">
            <option value="texture">A texture</option>
            <option value="vertices">Vertex colors</option>
          </select>
        </div>
        <p class="ub-quiet small">Never both: viewers multiply one with the other.</p>
        <div class="ub-line">
          <span>Vertices of</span
          ><select
            v-model="settings.on"
            class="ub-select"
            aria-label="Vertices of"
            :disabled="settings.materials.includes('procedural')"
          >
            <option value="file">The file, with the mean around each</option>
            <option value="analysis">The analysis mesh</option>
          </select>
        </div>
        <p v-if="settings.materials.includes('procedural')" class="ub-quiet small">
          The procedural material reads values that only the analysis mesh has.
        </p>
        <ul v-if="settings.vertexMaps.length" class="extra" aria-label="Vertex maps">
          <li v-for="(m, i) in settings.vertexMaps" :key="i">
            <input
              v-model.lazy="m.name"
              class="ub-input"
              :aria-label="`Name of vertex map ${i + 1}`"
              maxlength="60"
              pattern="[A-Za-z0-9_ ]+"
            />
            <button
              type="button"
              class="ub-link"
              :aria-label="`Leave out ${m.name}`"
              @click="settings.vertexMaps.splice(i, 1)"
            >
              Leave out
            </button>
          </li>
        </ul>
        <div class="ub-line">
          <span>Vertex map from</span
          ><span class="pair"
            ><select v-model="chosenPort" class="ub-select" aria-label="Vertex map from">
              <option value="">Choose an output</option>
              <option v-for="p in ports" :key="p.port" :value="p.port">{{ p.title }}</option></select
            ><button type="button" class="ub-link" :disabled="!chosenPort" @click="addPort('vertices')">
              Add
            </button></span
          >
        </div>
      </fieldset>
      <fieldset>
        <legend>Tables and look</legend>
        <div class="maps">
          <label
            ><input
              type="checkbox"
              :checked="settings.tables.includes('csv')"
              @change="toggle(settings.tables, 'csv')"
            />Part table, CSV</label
          >
          <label
            ><input
              type="checkbox"
              :checked="settings.tables.includes('json')"
              @change="toggle(settings.tables, 'json')"
            />Part table, JSON</label
          >
          <label><input v-model="settings.look" type="checkbox" />The look with its pictures</label>
        </div>
      </fieldset>
      <fieldset>
        <legend>Variants</legend>
        <div class="ub-line">
          <span>Seeds</span
          ><input v-model.lazy="seedText" class="ub-input num" aria-label="Seeds of the variants" spellcheck="false" />
        </div>
        <p class="ub-quiet small">
          One variant for each number: 0 is the look as it is, any other moves all its seeds.
        </p>
        <div v-if="project.look.variants?.length" class="maps">
          <label v-for="v in project.look.variants" :key="v.name"
            ><input
              type="checkbox"
              :checked="settings.variants.includes(v.name)"
              @change="toggle(settings.variants, v.name)"
            />{{ v.name }}</label
          >
        </div>
      </fieldset>
    </section>
    <DeliveryList />
    <footer>
      <UButton color="primary" :disabled="Boolean(blocked) || deliveries.asking" @click="deliveries.deliver(name)"
        >Deliver</UButton
      >
      <p v-if="failure" class="ub-warn" role="alert">{{ failure }}</p>
      <p v-else-if="blocked" class="ub-warn" role="alert">{{ blocked }}</p>
      <p v-else class="ub-quiet">
        <template v-if="texels"
          ><span class="num">{{ megatexels }}</span> million texels. </template
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
.presets label {
  gap: 6px;
  padding: 0;
}
.presets .ub-input {
  width: 170px;
}
fieldset {
  margin-top: 16px;
  max-width: 520px;
}
legend {
  font-weight: 500;
  padding-bottom: 3px;
}
label {
  display: flex;
  gap: 8px;
  padding: 2px 0;
  align-items: baseline;
  cursor: pointer;
}
label.ub-line {
  display: grid;
  padding: 0;
}
label b {
  font-weight: 500;
}
input[type='checkbox'] {
  accent-color: var(--ub-accent);
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
.pair select {
  min-width: 0;
  flex: 1;
}
details {
  padding-top: 4px;
}
summary {
  cursor: pointer;
  color: var(--ub-quiet);
  text-decoration: underline;
  text-underline-offset: 3px;
  text-decoration-color: var(--ub-line-strong);
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
