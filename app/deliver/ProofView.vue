<script setup lang="ts">
import { saveFile } from '../shared/saveFile'
import { zlibSync } from 'fflate'
import { exrOfLight } from '#core/bake/exr'
import { COMPARED_TO, type Comparison } from '#core/color/compare'
import { encodeSrgb } from '#core/color/convert'
import { falseColor } from '#core/color/falseColor'
import { RIGS } from '#core/trace/rigs'
import { fileStem } from '#core/exchange/names'
import { neutral } from '#core/trace/trace'
import { kernels } from '../shared/evaluation'
import { PROOF_SAMPLES, type ProofSamples, type ProofStage } from './proof'
import { request } from '../shared/request'
import { compareAside, TracePool } from './tracePool'
import type { Delivery } from './useDeliveries'

const props = defineProps<{ delivery: Delivery; stage: ProofStage | null }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const deliveries = useDeliveries()
const looking = useLooking()
const mesh = useMesh()
const failure = ref('')
const busy = ref('')
const note = ref('')
const view = ref<'finished' | 'baseColor'>('finished')
const VIEWS = [
  { value: 'finished', label: 'Finished, lit' },
  { value: 'baseColor', label: 'Base color alone' },
]
/** Pictures with shifted pixels that make each of both. */
const fineness = ref<ProofSamples>(PROOF_SAMPLES[0])
const FINENESSES = PROOF_SAMPLES.map(value => ({ value, title: `${value} samples a pixel` }))
const found = shallowRef<Comparison>()
const stageCanvas = useTemplateRef('stageCanvas')
const deliveredCanvas = useTemplateRef('deliveredCanvas')
const differenceCanvas = useTemplateRef('differenceCanvas')
const tracedCanvas = useTemplateRef('tracedCanvas')

let glb: ArrayBuffer | undefined
async function delivered(): Promise<ArrayBuffer> {
  if (glb) return glb
  busy.value = 'Fetching the delivered GLB'
  const manifest = await request<{ files: { path: string }[] }>(deliveries.fileOf(props.delivery, 'manifest.json'))
  const path = manifest.files.find(f => f.path.endsWith('.glb'))?.path
  if (!path) throw new Error('This delivery holds no GLB, which is what is proved.')
  return (glb = await request<ArrayBuffer>(deliveries.fileOf(props.delivery, path)))
}
function put(canvas: HTMLCanvasElement | null, pixels: ArrayLike<number>, width: number, height: number): void {
  if (!canvas) return
  Object.assign(canvas, { width, height })
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(pixels), width, height), 0, 0)
}
/** What the stage shows otherwise than it was delivered; empty where it shows the same. */
async function otherThanShown(): Promise<string> {
  const known = await deliveries.know(props.delivery)
  const look = project.looks.find(l => l.id === known.look)
  if (look && look.id !== project.lookId)
    return `The stage shows another look; the delivery is of ${look.name || 'Look'}.`
  return known.current ? '' : `The look or its mesh has changed since revision ${known.revision}, which was delivered.`
}
/** The newest comparison that was asked for, by its number: what it has overtaken shows nothing any more. */
let newest = 0
/** They go one after the other, since they share the stage. */
let before: Promise<void> = Promise.resolve()
function compare(): void {
  const number = ++newest
  failure.value = ''
  found.value = undefined
  busy.value ||= 'Waiting for the stage'
  before = before.then(() => compared(number))
}
async function compared(number: number): Promise<void> {
  const isOvertaken = (): boolean => number !== newest
  if (isOvertaken()) return
  try {
    const bytes = await delivered()
    await project.saveNow()
    note.value = await otherThanShown()
    if (props.delivery.settings.seeds[0] !== 0)
      note.value += ` The first variant of the delivery has seed ${props.delivery.settings.seeds[0]}; the stage shows seed 0.`
    if (mesh.computing) note.value += ` The stage does not have all maps yet. ${mesh.computing}.`
    busy.value = 'Drawing both'
    await nextTick()
    const shot = await props.stage?.proof({
      glb: bytes,
      view: view.value,
      samples: fineness.value,
      isWanted: () => !isOvertaken(),
    })
    if (isOvertaken()) return
    if (!shot) throw new Error('The stage cannot draw, so there is nothing to compare with.')
    put(stageCanvas.value, shot.stage, shot.width, shot.height)
    put(deliveredCanvas.value, shot.delivered, shot.width, shot.height)
    busy.value = 'Comparing'
    const result = await compareAside(shot.stage, shot.delivered, shot.background)
    if (isOvertaken()) return
    found.value = result
    put(differenceCanvas.value, result.picture, shot.width, shot.height)
  } catch (error) {
    if (!isOvertaken()) failure.value = (error as Error).message
  } finally {
    if (!isOvertaken()) busy.value = ''
  }
}
onMounted(compare)
// Maps that come while it is open are part of what the stage shows.
watch([view, fineness, () => project.tables], compare)
const figure = (x: number): string => x.toFixed(x < 10 ? 2 : 1)
const scale = `linear-gradient(to right, ${Array.from(
  { length: 9 },
  (_, i) =>
    `rgb(${falseColor(i / 8)
      .map(x => Math.round(x * 255))
      .join(' ')})`,
).join(', ')})`

// The picture under real light.
const SIZE = { width: 420, height: 315 }
const MOST = 256
const pool = shallowRef<TracePool>()
const samples = ref(0)
const running = ref(false)
const plate = ref(false)
const lightTitle = computed(() =>
  looking.rig === 'own' ? looking.ownLight!.name : RIGS[looking.rig].title.toLowerCase(),
)
let drawing = 0
function draw(): void {
  drawing ||= requestAnimationFrame(() => {
    drawing = 0
    const { value } = pool
    if (!value?.samples) return
    const pixels = new Uint8ClampedArray(SIZE.width * SIZE.height * 4)
    for (let i = 0, p = 0; i < value.sums.length; i += 3, p += 4) {
      const color: [number, number, number] = [
        value.sums[i]! / value.samples,
        value.sums[i + 1]! / value.samples,
        value.sums[i + 2]! / value.samples,
      ]
      neutral(color)
      for (let k = 0; k < 3; k++) pixels[p + k] = 255 * encodeSrgb(Math.max(0, color[k]!))
      pixels[p + 3] = 255
    }
    samples.value = value.samples
    put(tracedCanvas.value, pixels, SIZE.width, SIZE.height)
  })
}
async function trace(): Promise<void> {
  failure.value = ''
  try {
    const bytes = await delivered()
    const camera = props.stage?.eyePoint()
    busy.value = ''
    if (!camera) throw new Error('The stage has no camera to look through.')
    pool.value?.stop()
    samples.value = 0
    running.value = true
    const made = (pool.value = new TracePool(
      {
        glb: bytes,
        ...SIZE,
        camera,
        light: looking.rig === 'own' ? looking.ownLight!.picture : looking.rig,
        turn: looking.turn,
        brightness: looking.brightness,
        plate: plate.value ? 1 : 0,
      },
      MOST,
      draw,
    ))
    failure.value = (await made.run()) ?? ''
  } catch (error) {
    failure.value = (error as Error).message
  } finally {
    busy.value = ''
    running.value = false
  }
}
function stop(): void {
  pool.value?.stop()
  running.value = false
}
const save = (blob: Blob, ending: string): void =>
  saveFile(blob, `${fileStem(props.delivery.name, 'delivery')}-traced.${ending}`)
async function saveExr(): Promise<void> {
  const { value } = pool
  if (!value?.samples) return
  const zlib = (bytes: Uint8Array) => zlibSync(bytes)
  save(
    new Blob([
      exrOfLight(
        (await kernels()).texels,
        value.sums.map(x => x / value.samples),
        SIZE.width,
        SIZE.height,
        { zlib, blocks: zlib },
      ) as Uint8Array<ArrayBuffer>,
    ]),
    'exr',
  )
}
const savePng = (): void =>
  tracedCanvas.value?.toBlob(blob => {
    if (blob) save(blob, 'png')
  })
onBeforeUnmount(() => {
  newest++
  stop()
  cancelAnimationFrame(drawing)
})
</script>

<template>
  <section class="proof" aria-label="Proof">
    <header>
      <h2>Proof of {{ delivery.name }}</h2>
      <UButton variant="link" @click="emit('close')">Back to deliveries</UButton>
    </header>
    <p class="lead">
      The delivered GLB, read back by another program's loader, beside the live stage: the same camera, the same light.
    </p>
    <div class="bar">
      <URadioGroup v-model="view" :items="VIEWS" orientation="horizontal" aria-label="What is compared" />
      <ChoiceField :value="fineness" label="Samples a pixel" :choices="FINENESSES" @change="fineness = $event" />
      <UButton variant="link" :disabled="Boolean(busy)" @click="compare">Compare again</UButton>
      <span v-if="busy" role="status" class="ub-quiet">{{ busy }} …</span>
    </div>
    <p v-if="note" class="ub-warn">{{ note }}</p>
    <p v-if="failure" class="ub-warn" role="alert">{{ failure }}</p>
    <div class="pictures">
      <figure>
        <canvas ref="stageCanvas" role="img" aria-label="The stage" />
        <figcaption>The stage</figcaption>
      </figure>
      <figure>
        <canvas ref="deliveredCanvas" role="img" aria-label="The delivery" />
        <figcaption>The delivery</figcaption>
      </figure>
      <figure>
        <canvas ref="differenceCanvas" role="img" aria-label="The difference" />
        <figcaption>
          The difference <span class="num">0</span><i class="scale" :style="{ background: scale }" /><span
            class="num"
            >{{ COMPARED_TO }}</span
          >
        </figcaption>
      </figure>
      <dl v-if="found" class="numbers" data-test="proof">
        <dt>Mean</dt>
        <dd class="num">{{ figure(found.mean) }}</dd>
        <dt>99 of 100 pixels below</dt>
        <dd class="num">{{ figure(found.most) }}</dd>
        <dt>Below 1</dt>
        <dd class="num" data-test="alike">{{ (100 * found.alike).toFixed(1) }} %</dd>
        <dt>Largest</dt>
        <dd class="num">{{ figure(found.largest) }}</dd>
        <dt>Pixels of surface</dt>
        <dd class="num">{{ found.pixels.toLocaleString('en-US') }}</dd>
        <dd class="say">
          CIEDE2000: about 2 can just be told side by side. The largest are at borders, where one texel holds what is on
          both sides. Left out of both: shadows, contacts, and occlusion that was computed from the mesh.
          <template v-if="!delivery.settings.dither">
            In dark colors the rounding to bytes alone can come to 1; <em>Dither 8 bits</em> spreads it.
          </template>
        </dd>
      </dl>
    </div>
    <h3 class="ub-h">Under real light</h3>
    <p class="lead">
      A path tracer that knows only the delivered GLB: light bounces, roughness is roughness. Camera and light are those
      of the stage ({{ lightTitle }}).
    </p>
    <div class="traced">
      <canvas ref="tracedCanvas" :width="SIZE.width" :height="SIZE.height" role="img" aria-label="Traced picture" />
      <div class="side">
        <UCheckbox v-model="plate" :disabled="running" label="With a square lamp from the left" />
        <UButton v-if="!running" color="neutral" variant="outline" @click="trace">{{
          samples ? 'Trace again' : 'Trace'
        }}</UButton>
        <UButton v-else color="neutral" variant="outline" @click="stop">Stop</UButton>
        <template v-if="samples || running">
          <UProgress
            :model-value="samples"
            :max="MOST"
            size="sm"
            class="share"
            aria-label="Samples of the traced picture"
          />
          <p>
            <span class="num" data-test="samples">{{ samples }}</span> of <span class="num">{{ MOST }}</span> samples a
            pixel
          </p>
          <p v-if="samples">
            <UButton variant="link" @click="savePng">Save PNG</UButton>
            {{ ' ' }}
            <UButton variant="link" @click="saveExr">Save EXR</UButton>
          </p>
        </template>
      </div>
    </div>
  </section>
</template>

<style scoped>
.proof {
  padding: 16px 24px 28px;
  overflow-y: auto;
  background: var(--ub-canvas);
}
header {
  display: flex;
  align-items: baseline;
  gap: 18px;
}
h2 {
  font-size: 18px;
  font-weight: 600;
}
.lead {
  color: var(--ub-quiet);
  max-width: 76ch;
}
.bar {
  display: flex;
  gap: 18px;
  align-items: center;
  padding: 10px 0;
  flex-wrap: wrap;
}
.pictures {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 12px;
}
figure {
  min-width: 0;
}
canvas {
  width: 100%;
  height: auto;
  background: var(--ub-stage);
  display: block;
}
figcaption {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--ub-quiet);
  font-size: 12px;
  padding-top: 2px;
}
.scale {
  width: 90px;
  height: 8px;
  margin-left: 0;
}
.numbers {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: repeat(5, auto 1fr);
  gap: 2px 8px;
}
dt {
  color: var(--ub-quiet);
}
.say {
  grid-column: 1 / -1;
  color: var(--ub-quiet);
  font-size: 12px;
}
.numbers .num {
  padding-right: 14px;
  white-space: nowrap;
}
.traced {
  display: grid;
  grid-template-columns: 420px 1fr;
  gap: 16px;
  padding-top: 8px;
}
.side {
  display: grid;
  gap: 8px;
  align-content: start;
  justify-items: start;
}
.share {
  width: 180px;
}
</style>
