<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import type { Look } from '#core/graph/look'
import { titleOf } from '#core/graph/check'
import SheetTile from './SheetTile.vue'
import { COUNTS, useSheet } from './useSheet'

/** The Compare tab: rolls of the draws in a grid, from the stage's camera and in its light. */
export interface SheetStage {
  endSheet(): void
  viewKey(): string | undefined
  /** @param count pictures with shifted pixels that make it */
  tile(look: Look, width: number, count: number): Promise<ImageData | null>
}
const props = defineProps<{ stage: SheetStage | null }>()
const project = useProject()
const looking = useLooking()
const sheet = useSheet()
const { count, first, only, starredFirst, drawing, rolls } = storeToRefs(sheet)

const CHOICES = COUNTS.map(n => ({ value: String(n), title: String(n) }))
const nodes = computed(() => [
  { value: '', title: 'All draws' },
  ...drawing.value.map(n => ({ value: n.id, title: titleOf(n) })),
])

// ---- Pictures ----

const grid = useTemplateRef('grid')
const { width, height } = useElementSize(grid)
/** As many columns as make the tiles largest, with the stage's own shape. */
const columns = computed(() => {
  const n = rolls.value.length
  let best = { columns: 1, size: 0 }
  for (let c = 1; c <= n; c++) {
    const rows = Math.ceil(n / c)
    const size = Math.min(width.value / c, (height.value / rows - LABEL) * shape.value)
    if (size > best.size) best = { columns: c, size }
  }
  return best.columns
})
/** Width of the pictures over their height: they have the shape of the stage. */
const shape = computed(() => {
  const [picture] = pictures.value.values()
  return picture ? picture.width / picture.height : 4 / 3
})
/** Height of what stands below a picture, in pixels. */
const LABEL = 24
const pictures = shallowRef(new Map<number, ImageData>())
/** How many pictures with shifted pixels are in each: first all tiles come, then smooth ones. */
const ROUGH = 1
const SMOOTH = 4
/** What the pictures were made of, and how smooth each is. */
let made: { look: Look; key: string; counts: Map<number, number> } | undefined
const painted = ref(0)
/** Whether a tile is still to come, or to be made smooth. */
const busy = ref(true)
const AGAIN = 120
let asked = 0
/** Everything but the rolls that a picture depends on. */
const wanted = (): string => `${props.stage?.viewKey()} ${looking.view} ${only.value} ${columns.value}`

async function paint(): Promise<void> {
  const mine = ++asked
  const { stage } = props
  const { look, tables } = project
  if (!stage || !tables || !width.value) return
  const key = wanted()
  busy.value = true
  if (made?.look !== look || made.key !== key) made = { look, key, counts: new Map() }
  const { counts } = made
  const across = (width.value / columns.value) * Math.min(2, window.devicePixelRatio)
  for (const count of [ROUGH, SMOOTH]) {
    painted.value = rolls.value.filter(r => (counts.get(r.number) ?? 0) >= ROUGH).length
    for (const { number } of rolls.value.filter(r => (counts.get(r.number) ?? 0) < count)) {
      const picture = await stage.tile(sheet.lookOf(number), across, count)
      if (mine !== asked) return
      if (!picture) return void setTimeout(() => mine === asked && void paint(), AGAIN)
      counts.set(number, count)
      pictures.value = new Map([...pictures.value, [number, picture]])
      if (count === ROUGH) painted.value++
    }
  }
  busy.value = false
}
const stale = computed(() => painted.value < rolls.value.length)

// The sheet follows once the stage has come to rest: what is turned or dragged goes first.
watch(
  [
    () => looking.standing?.final,
    () => props.stage?.viewKey(),
    () => project.look,
    () => project.tables,
    () => looking.view,
    rolls,
    only,
    width,
    columns,
  ],
  () => {
    if (looking.standing?.final) void paint()
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  asked++
  props.stage?.endSheet()
})

// ---- Judging ----

const chosen = ref(0)
const active = computed(() => Math.min(chosen.value, rolls.value.length - 1))
const current = computed(() => rolls.value[active.value]!)
function step(by: number): void {
  chosen.value = Math.min(rolls.value.length - 1, Math.max(0, active.value + by))
  grid.value?.querySelectorAll('[role=option]')[active.value]?.scrollIntoView({ block: 'nearest' })
}
/** Shows a roll on the stage, to the left of the look as it is. */
function beside(roll: number): void {
  const off = looking.kept && besideRoll === roll
  looking.kept = off ? null : sheet.lookOf(roll)
  besideRoll = off ? undefined : roll
}
let besideRoll: number | undefined
/** Keeps a roll; the pictures of the others stay with them, whatever their numbers are now. */
function keep(roll: number): void {
  if (!roll || project.readOnly) return
  sheet.keep(roll)
  pictures.value = new Map([...pictures.value].map(([number, picture]) => [number - roll, picture]))
  chosen.value = rolls.value.findIndex(r => r.number === 0)
}
const KEYS: Record<string, () => void> = {
  ArrowRight: () => step(1),
  ArrowLeft: () => step(-1),
  ArrowDown: () => step(columns.value),
  ArrowUp: () => step(-columns.value),
  Home: () => step(-rolls.value.length),
  End: () => step(rolls.value.length),
  Enter: () => keep(current.value.number),
  ' ': () => beside(current.value.number),
  s: () => sheet.judge(current.value.number, 'starred'),
  x: () => sheet.judge(current.value.number, 'aside'),
}
function key(e: KeyboardEvent): void {
  const act = e.ctrlKey || e.metaKey || e.altKey ? undefined : KEYS[e.key]
  if (!act) return
  act()
  e.preventDefault()
}
</script>

<template>
  <section class="sheet" aria-label="Compare">
    <header>
      <label class="pair">
        <span>Rolls</span>
        <ChoiceField
          :value="String(count)"
          label="Number of rolls"
          :choices="CHOICES"
          @change="count = Number($event) as typeof count"
        />
      </label>
      <label class="pair">
        <span>of</span>
        <ChoiceField :value="only" label="Draws that are rolled" :choices="nodes" @change="only = $event" />
      </label>
      <ToolButton icon="i-lucide-chevron-left" label="Earlier rolls" :disabled="first === 1" @press="sheet.back()" />
      <ToolButton icon="i-lucide-chevron-right" label="More rolls" @press="sheet.more()" />
      <UCheckbox v-model="starredFirst" label="Starred first" />
      <span class="grow" />
      <span class="ub-quiet num" role="status">{{ stale ? `${painted} of ${rolls.length}` : '' }}</span>
    </header>
    <p v-if="!drawing.length" class="empty">
      Nothing in this look is drawn. Add a Part random or a Palette in Build, and its rolls stand here side by side.
    </p>
    <p v-else-if="!project.tables" class="empty">There is no mesh yet.</p>
    <div
      v-else
      ref="grid"
      class="grid"
      role="listbox"
      tabindex="0"
      aria-label="Rolls of the draws"
      :aria-busy="busy"
      :aria-activedescendant="`roll-${current.number}`"
      :style="{ '--columns': columns }"
      @keydown="key"
    >
      <SheetTile
        v-for="(roll, i) in rolls"
        :id="`roll-${roll.number}`"
        :key="roll.number"
        :roll="roll"
        :picture="pictures.get(roll.number)"
        :active="i === active"
        :stale="stale"
        @click="chosen = i"
        @dblclick="keep(roll.number)"
      />
    </div>
    <footer v-if="drawing.length">
      <UButton :disabled="!current.number || Boolean(project.readOnly)" @click="keep(current.number)">
        Keep <template v-if="current.number">roll {{ current.number }}</template> <UKbd value="enter" />
      </UButton>
      <UButton variant="link" @click="beside(current.number)">
        {{ looking.kept ? 'Beside off' : 'Beside the look' }} <UKbd>Space</UKbd>
      </UButton>
      <UButton variant="link" @click="sheet.judge(current.number, 'starred')">
        {{ current.verdict === 'starred' ? 'Take the star off' : 'Star' }} <UKbd value="S" />
      </UButton>
      <UButton variant="link" @click="sheet.judge(current.number, 'aside')">
        {{ current.verdict === 'aside' ? 'Bring back' : 'Set aside' }} <UKbd value="X" />
      </UButton>
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
header,
footer {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 12px;
}
header {
  border-bottom: 1px solid var(--ub-line);
}
footer {
  border-top: 1px solid var(--ub-line);
}
.pair {
  display: flex;
  align-items: center;
  gap: 6px;
}
.grow {
  flex: 1;
}
.grid {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  grid-auto-rows: minmax(0, 1fr);
  gap: 4px;
  padding: 6px;
  overflow: hidden;
}
.grid:focus-visible {
  outline: 2px solid var(--ub-accent);
  outline-offset: -2px;
}
.empty {
  display: grid;
  place-items: center;
  padding: 40px;
  text-align: center;
  color: var(--ub-quiet);
}
</style>
