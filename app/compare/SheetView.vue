<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { median } from 'd3-array'
import { comparePictures } from '#core/color/compare'
import { sheetTable } from '#core/compare/table'
import type { Triple } from '#core/color/convert'
import type { KeptSheet } from '#core/compare/keptSheet'
import type { Look } from '#core/graph/look'
import { CHANNEL_NAMES, CHANNELS, type Channel } from '#core/graph/types'
import { fileStem } from '#core/exchange/names'
import { evaluator } from '../shared/evaluation'
import { saveFile } from '../shared/saveFile'
import SheetBar, { type SheetFile } from './SheetBar.vue'
import { differencesOf, type Difference } from '#core/graph/differences'
import DifferenceDialog from '../project/DifferenceDialog.vue'
import { zipOf } from './film'
import { sheetPicture } from './sheetFile'
import TurntableDialog, { type TurntableSettings } from './TurntableDialog.vue'
import { useTileParts } from './useTileParts'
import { useTilePictures } from './useTilePictures'
import { useTurntable } from './useTurntable'
import SheetTile from './SheetTile.vue'
import { useSheet, type JudgedTile, type TileLight } from './useSheet'
import { useLooks } from '../project/useLooks'
import type { Sight } from '../stage/eyes'
import { VIEWS } from '../stage/lightPass'

/** The Compare tab: states of the look, or of the light, in a grid, from the stage's camera. */
export interface SheetStage {
  endSheet(): void
  viewKey(): string | undefined
  /** The part at a place of the picture, 0 to 1 from its upper left corner. */
  partAt(x: number, y: number): Promise<number | null>
  /** Its width in device pixels. */
  width(): number
  /** From where it is seen, in meters, and how to see it from elsewhere. */
  eyePoint(): { from: Triple; to: Triple } | undefined
  standAt(from: Triple, to: Triple): void
  /** Moves the camera around what it looks at, by angles in radians, and away from it by a factor. */
  orbit(turn: number, tilt: number, zoom: number): void
  /** Meters from the lower to the upper edge, at the point that is looked at. */
  heightSeen(): number | undefined
  /** @param count pictures with shifted pixels that make it @param light @param sight where they are not the stage's */
  tile(look: Look, width: number, count: number, light?: TileLight, sight?: Sight): Promise<ImageData | null>
}
const props = defineProps<{ stage: SheetStage | null }>()
const emit = defineEmits<{ build: [] }>()
const project = useProject()
const looking = useLooking()
const sheet = useSheet()
const { kind, tiles, drawing, numbers, showsNumbers, withNumbers } = storeToRefs(sheet)

// ---- Pictures ----

const grid = useTemplateRef('grid')
const { width, height } = useElementSize(grid)
/** Height of what stands below a picture, in pixels: a line, and the numbers. */
const LABEL = 24
const NUMBERS = 73
const below = computed(() => LABEL + (withNumbers.value && showsNumbers.value ? NUMBERS : 0))
/** Beside numbers, pictures stay as high as this at least, and the sheet is scrolled. */
const READABLE = 110
const least = computed(() => (below.value > LABEL ? READABLE + below.value : 0))
/** As many columns as the sheet has, or as make the tiles largest, with the stage's own shape. */
const columns = computed(() => {
  const n = tiles.value.length
  if (sheet.width) return sheet.width
  let best = { columns: 1, size: -Infinity }
  for (let c = 1; c <= n; c++) {
    const rows = Math.ceil(n / c)
    const size = Math.min(width.value / c, (height.value / rows - below.value) * shape.value)
    if (size > best.size) best = { columns: c, size }
  }
  return best.columns
})
/** Width of the pictures over their height: they have the shape of the stage. */
const shape = computed(() => {
  const [picture] = pictures.value.values()
  return picture ? picture.width / picture.height : 4 / 3
})
const pictures = shallowRef(new Map<string, ImageData>())
const turntable = useTurntable(() => props.stage)
const painter = useTilePictures({
  pictures,
  stage: () => props.stage,
  width: () => width.value,
  columns: () => columns.value,
  waits: () => turntable.made.value !== null,
})
const { painted, busy, stale } = painter
onBeforeUnmount(() => {
  turntable.stop()
  props.stage?.endSheet()
})

/**
 * Pixels that a part takes on a tile, as it is commonly large and where the camera looks: whether its color can still
 * be read.
 */
function noteOf({ id, away }: JudgedTile): string {
  const [picture, meters] = [pictures.value.get(id), props.stage?.heightSeen()]
  if (!away || !picture || !meters || !partSize.value) return ''
  const pixels = (partSize.value / (meters * away)) * picture.height
  return `a part has about ${pixels < 10 ? pixels.toFixed(1) : Math.round(pixels)} pixels`
}
const partSize = computed(() => {
  const sizes = (project.tables?.parts.parts ?? []).map(p => Math.hypot(...p.size) / ROOT_3)
  return median(sizes) ?? 0
})
const ROOT_3 = Math.sqrt(3)

// ---- Judging ----

const chosen = ref(0)
const active = computed(() => Math.max(0, Math.min(chosen.value, tiles.value.length - 1)))
const current = computed((): JudgedTile | undefined => tiles.value[active.value])
const isLook = (tile: JudgedTile | undefined): boolean => !tile || tile.id === 'roll 0' || tile.away !== undefined
function step(by: number): void {
  chosen.value = Math.min(tiles.value.length - 1, Math.max(0, active.value + by))
  grid.value?.querySelectorAll('[role=option]')[active.value]?.scrollIntoView({ block: 'nearest' })
}
/** Shows a tile on the stage, to the left of the look as it is. */
function beside(tile: JudgedTile | undefined): void {
  if (!tile || tile.light || tile.away) return
  const off = looking.kept && besideTile === tile.id
  looking.kept = off ? null : tile.of(project.look)
  besideTile = off ? undefined : tile.id
}
let besideTile: string | undefined
/**
 * Keeps a tile: its look, as one step back, or its light. The pictures of the others stay with them, whatever they are
 * called now.
 */
function keep(tile: JudgedTile | undefined): void {
  if (!tile || isLook(tile)) return
  if (tile.light) {
    looking.rig = tile.light.rig
    looking.turn = tile.light.turn
    return
  }
  if (tile.opens) return void show(tile.opens)
  if (project.readOnly) return
  const renamed = sheet.keep(tile)
  const now = renamed(tile.id)
  pictures.value = new Map([...pictures.value].map(([id, picture]) => [renamed(id), picture]))
  chosen.value = Math.max(
    0,
    tiles.value.findIndex(t => t.id === now),
  )
}
/** Keeps a tile, and goes on with it where looks are built. */
function build(tile: JudgedTile | undefined): void {
  if (!tile || tile.light || tile.away) return
  keep(tile)
  emit('build')
}
const judge = (verdict: 'starred' | 'aside'): void => {
  if (current.value) sheet.judge(current.value, verdict)
}

// ---- Parts of one tile in another ----

const mesh = useMesh()
const parts = useTileParts({
  stage: () => props.stage,
  tiles: () => tiles.value,
  changed: painter.drop,
})
const { held, over } = parts
/** Parts that are selected, which are taken over from the current tile without a mouse. */
const takable = computed(() => (isLook(current.value) || current.value?.light ? 0 : mesh.selected.size))

// ---- Two tiles against one another ----

/** The tile that others are measured from. */
const marked = ref('')
const markedTile = computed(() => tiles.value.find(t => t.id === marked.value))
/** While its key is held, the current tile shows the picture of the marked one. */
const flickers = ref(false)
const showsDifference = ref(false)
/**
 * The share of the current tile's width, from the left, that shows the marked one, in percent; none where they are not
 * wiped.
 */
const wiped = ref<number>()
const WIPE = 50
function mark(): void {
  const id = current.value?.id ?? ''
  marked.value = marked.value === id ? '' : id
}
/** How the current tile differs from the marked one. */
const difference = computed(() => {
  const [a, b] = [pictures.value.get(marked.value), pictures.value.get(current.value?.id ?? '')]
  if (!a || !b || !markedTile.value || a === b || a.width !== b.width || a.height !== b.height) return null
  // Behind the mesh both have the color of their upper left corner.
  return comparePictures(a.data, b.data, [...a.data.subarray(0, 3)])
})
/** What differs between the marked tile and the current one, in words; each can be taken over into the look. */
const listsDifferences = ref(false)
const lines = computed(() =>
  listsDifferences.value && markedTile.value && current.value
    ? differencesOf(current.value.of(project.look), markedTile.value.of(project.look))
    : [],
)
function takeOver({ words, back }: Difference): void {
  if (!back || !current.value) return
  project.edit(`As in ${current.value.title}: ${words}`, back)
  project.settle()
}
function shownIn(tile: JudgedTile): ImageData | undefined {
  const own = pictures.value.get(tile.id)
  if (tile.id !== current.value?.id || !difference.value || !own) return own
  if (flickers.value) return pictures.value.get(marked.value)
  return showsDifference.value
    ? new ImageData(difference.value.picture as Uint8ClampedArray<ArrayBuffer>, own.width, own.height)
    : own
}

/** What stands to the left of the wipe in a tile. */
const wipeIn = (tile: JudgedTile): ImageData | undefined =>
  wiped.value !== undefined && difference.value && tile.id === current.value?.id
    ? pictures.value.get(marked.value)
    : undefined

const KEYS: Record<string, () => void> = {
  ArrowRight: () => step(1),
  ArrowLeft: () => step(-1),
  ArrowDown: () => step(columns.value),
  ArrowUp: () => step(-columns.value),
  Home: () => step(-tiles.value.length),
  End: () => step(tiles.value.length),
  Enter: () => keep(current.value),
  'Shift+Enter': () => build(current.value),
  ' ': () => beside(current.value),
  s: () => judge('starred'),
  x: () => judge('aside'),
  m: mark,
  d: () => (showsDifference.value = !showsDifference.value),
  w: () => (wiped.value = wiped.value === undefined ? WIPE : undefined),
  f: () => (flickers.value = true),
}
function key(e: KeyboardEvent): void {
  const act =
    e.ctrlKey || e.metaKey || e.altKey ? undefined : KEYS[e.shiftKey && e.key === 'Enter' ? 'Shift+Enter' : e.key]
  if (!act) return
  act()
  e.preventDefault()
}

/** Channels that the current tile can give the marked one: the look is both then. */
const toast = useToast()
const combining = ref(false)
const combines = computed(
  () =>
    Boolean(markedTile.value && current.value && markedTile.value !== current.value && !project.readOnly) &&
    withNumbers.value,
)
/** How long what came along stays to be read, in ms. */
const TIME_TO_READ = 15_000
const CHANNELS_TO_TAKE = CHANNEL_NAMES.map(c => ({ label: CHANNELS[c].title, onSelect: () => void combineWith(c) }))
async function combineWith(channel: Channel): Promise<void> {
  const [from, into] = [current.value, markedTile.value]
  const { look } = project
  if (!from || !into) return
  combining.value = true
  try {
    const made = await evaluator.combine(from.of(look), into.of(look), [channel])
    if (!made || project.look !== look) return
    const what = `${CHANNELS[channel].title} of ${from.title}`
    if ('error' in made) {
      toast.add({ title: `${what} was not taken over`, description: made.error, color: 'error' })
      return
    }
    project.edit(`${what}, the rest of ${into.title}`, () => made.ok.look)
    project.settle()
    toast.add({
      title: `The look is ${into.title} with the ${what.toLowerCase()}`,
      description: made.ok.shared.length ? `What came along: ${made.ok.shared.join(' ')}` : 'Nothing else came along.',
      duration: TIME_TO_READ,
      actions: [{ label: 'Undo', onClick: () => project.undo() }],
    })
  } finally {
    combining.value = false
  }
}

// ---- Saving ----

/** What is saved once every tile shows, smooth, what is chosen now. */
const saves = ref<SheetFile>()
watch([saves, busy], () => {
  if (!saves.value || busy.value) return
  void save(saves.value)
  saves.value = undefined
})
const status = computed(() => {
  const count = stale.value && tiles.value.length ? `${painted.value} of ${tiles.value.length}` : ''
  return saves.value ? 'Saving …' : count
})
async function save(as: SheetFile): Promise<void> {
  const list = tiles.value.map(({ id, title, verdict }) => ({
    title,
    verdict: verdict === 'aside' ? 'set aside' : verdict,
    picture: pictures.value.get(id),
    numbers: numbers.value.get(id),
  }))
  const name = `${fileStem(project.meta?.name ?? '', 'look')}-${kind.value}`
  if (as === 'table') return saveFile(new Blob([sheetTable(list)], { type: 'text/csv' }), `${name}.csv`)
  if (as === 'pictures') {
    const files = list.flatMap(({ title, picture }, i) =>
      picture ? [[`${String(i + 1).padStart(2, '0')}-${fileStem(title, 'tile')}.png`, picture] as const] : [],
    )
    return saveFile(await zipOf(new Map(files)), `${name}.zip`)
  }
  const picture = await sheetPicture(list, columns.value)
  if (picture) saveFile(picture, `${name}.png`)
}

/** Why there is nothing to compare; empty where there is. */
const missing = computed(() => {
  if (!project.tables) return 'There is no mesh yet.'
  if (kind.value === 'rolls' && !drawing.value.length)
    return 'Nothing in this look is drawn. Add a Part random or a Palette in Build, and its rolls stand here side by side.'
  if (tiles.value.length) return ''
  return kind.value === 'states'
    ? 'Choose states to stand beside the look: its variants, other looks of the project, saved revisions, or what you keep beside it on the stage.'
    : 'Choose a setting for the columns: its values stand here side by side. Rows go through a second one.'
})

// ---- Turntables, and sheets that are kept ----

const turning = ref(false)
async function turn(settings: TurntableSettings): Promise<void> {
  const { value: tile } = current
  if (!tile) return
  // The sheet waits: both need the stage's room for pictures.
  painter.stop()
  if (await turntable.make(project.look.name, tile.of(project.look), tile.light, settings)) turning.value = false
  void painter.paint()
}
function seen(): KeptSheet['seen'] {
  const eye = props.stage?.eyePoint()
  const { rig, turn, view } = looking
  return eye && { from: eye.from, at: eye.to, turn, view, ...(rig !== 'own' && { rig }) }
}
function see({ from, at, rig, turn, view }: NonNullable<KeptSheet['seen']>): void {
  props.stage?.standAt(from, at)
  if (rig) looking.rig = rig
  looking.turn = turn
  if ((VIEWS as readonly string[]).includes(view)) looking.view = view as (typeof VIEWS)[number]
}
const { show } = useLooks()
const LISTS = {
  rolls: 'Rolls of the draws',
  sweep: 'Values of the sweep',
  states: 'States of the project',
  lights: 'The look in every light',
  distances: 'The look from far away',
}
</script>

<template>
  <section class="sheet" aria-label="Compare">
    <SheetBar
      :status="status"
      :empty="missing !== ''"
      :seen="seen"
      @save="saves = $event"
      @see="see"
      @turn="turning = Boolean(current)"
    />
    <DifferenceDialog
      v-model:open="listsDifferences"
      :title="`From ${current?.title} to ${markedTile?.title}`"
      :lines="lines"
      :take="`As in ${current?.title}`"
      @take="takeOver"
    />
    <TurntableDialog
      v-model:open="turning"
      :title="current?.title ?? ''"
      :made="turntable.made.value"
      :problem="turntable.problem.value"
      @make="turn"
      @stop="turntable.stop"
    />
    <UEmpty v-if="missing" class="empty" :description="missing" />
    <div
      v-else
      ref="grid"
      class="grid"
      role="listbox"
      tabindex="0"
      :aria-label="LISTS[kind]"
      :aria-busy="busy"
      :aria-activedescendant="`tile ${current?.id}`.replaceAll(' ', '-')"
      :style="{ '--columns': columns, '--least': `${least}px` }"
      @keydown="key"
      @keyup="flickers = false"
      @blur="flickers = false"
    >
      <SheetTile
        v-for="(tile, i) in tiles"
        :id="`tile ${tile.id}`.replaceAll(' ', '-')"
        :key="tile.id"
        :tile="tile"
        :picture="shownIn(tile)"
        :numbers="withNumbers && showsNumbers ? numbers.get(tile.id) : undefined"
        :gray="sheet.gray && !(showsDifference && tile.id === current?.id)"
        :note="noteOf(tile)"
        :beside="wipeIn(tile)"
        :share="(wiped ?? 0) / 100"
        :active="i === active"
        :marked="tile.id === marked"
        :stale="stale"
        :under="over === tile.id"
        @grab="(at, e) => parts.grab(tile, at, e)"
        @wipe="wiped = $event * 100"
        @click="chosen = i"
        @dblclick="keep(tile)"
      />
    </div>
    <p v-if="held" class="held" :style="{ left: `${held.x}px`, top: `${held.y}px` }" role="status">{{ held.words }}</p>
    <footer v-if="current && tiles.length">
      <UButton
        v-if="!current.away"
        :disabled="isLook(current) || Boolean(project.readOnly && !current.light)"
        @click="keep(current)"
      >
        <template v-if="current.light">Light the stage like this</template>
        <template v-else-if="current.opens">Open {{ current.title }}</template>
        <template v-else>Keep {{ isLook(current) ? '' : current.title }}</template> <UKbd value="enter" />
      </UButton>
      <UButton v-if="!current.light && !current.away" variant="link" @click="build(current)">
        In Build <UKbd>Shift</UKbd> <UKbd value="enter" />
      </UButton>
      <UButton v-if="takable && !project.readOnly" variant="link" @click="parts.takeSelected(current)">
        Take {{ takable }} selected {{ takable === 1 ? 'part' : 'parts' }} from it
      </UButton>
      <UButton v-if="!current.light && !current.away" variant="link" @click="beside(current)">
        {{ looking.kept ? 'Beside off' : 'Beside the look' }} <UKbd>Space</UKbd>
      </UButton>
      <UButton variant="link" @click="judge('starred')">
        {{ current.verdict === 'starred' ? 'Take the star off' : 'Star' }} <UKbd value="S" />
      </UButton>
      <UButton variant="link" @click="judge('aside')">
        {{ current.verdict === 'aside' ? 'Bring back' : 'Set aside' }} <UKbd value="X" />
      </UButton>
      <UButton variant="link" :aria-pressed="marked === current.id" @click="mark">
        {{ marked === current.id ? 'Measure no more' : 'Measure from this' }} <UKbd value="M" />
      </UButton>
      <template v-if="difference && markedTile">
        <span class="ub-quiet measured" data-test="difference">
          {{ difference.mean.toFixed(1) }} from {{ markedTile.title }} (CIEDE2000; 99 of 100 pixels below
          {{ difference.most.toFixed(1) }})
        </span>
        <UButton variant="link" :aria-pressed="showsDifference" @click="showsDifference = !showsDifference">
          Difference <UKbd value="D" />
        </UButton>
        <UButton variant="link" :aria-pressed="wiped !== undefined" @click="KEYS.w!()">Wipe <UKbd value="W" /></UButton>
        <USlider
          v-if="wiped !== undefined"
          v-model="wiped"
          class="wipe"
          size="sm"
          :aria-label="`How much of ${current.title} shows ${markedTile.title}, in percent`"
        />
        <span class="ub-quiet">Flicker: hold <UKbd value="F" /></span>
      </template>
      <UButton v-if="combines" variant="link" @click="listsDifferences = true">In words</UButton>
      <UDropdownMenu v-if="combines" :items="CHANNELS_TO_TAKE">
        <UButton variant="link" :loading="combining">Give {{ markedTile!.title }} a channel of it</UButton>
      </UDropdownMenu>
    </footer>
  </section>
</template>

<style scoped>
.sheet {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
  background: var(--ub-panel);
}
footer {
  display: flex;
  flex-wrap: wrap;
  row-gap: 2px;
  align-items: center;
  gap: 10px;
  padding: 6px 12px;
}
footer {
  border-top: 1px solid var(--ub-line);
}
.grid {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  grid-auto-rows: minmax(var(--least), 1fr);
  gap: 4px;
  padding: 6px;
  overflow: hidden auto;
}
.grid:focus-visible {
  outline: 2px solid var(--ub-accent);
  outline-offset: -2px;
}
.wipe {
  width: 110px;
}
.held {
  position: fixed;
  z-index: 20;
  padding: 2px 8px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line);
  font-size: 12px;
  pointer-events: none;
  translate: 12px 12px;
}
.empty {
  padding: 40px;
}
</style>
