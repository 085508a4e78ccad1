<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { removeNodes, renameNode } from '#core/graph/edit'
import { kindFor, paramOf } from '#core/graph/kinds'
import { nodeOf } from '#core/graph/find'
import type { Look, LookNode, Recipe } from '#core/graph/look'
import { finishMade, finishThrough, switchNodes } from '#core/graph/pass'
import {
  addRecipeBase,
  addRecipeStep,
  addStep,
  duplicateStep,
  moveStep,
  removeStep,
  stripOf,
  touched,
  type Step,
} from '#core/graph/strip'
import { CHANNELS } from '#core/graph/types'
import { SWATCH_HEIGHT, SWATCH_WIDTH } from '#core/evaluate/analysis'
import type { MenuEntry } from '../project/keys'
import { useRightClick } from '../shared/rightClick'
import { usePieces } from '../shared/usePieces'
import { useReorder } from '../shared/useReorder'
import { paintSwatch } from '../graph/swatch'
import type { KnownRecipe } from '../graph/useRecipes'
import { fillMaps } from '#core/recipes/fillMaps'

const project = useProject()
const looking = useLooking()
const { analysis } = useAnalysis()
const strip = computed(() => stripOf(project.look))
const root = useTemplateRef('root')

/** A look with something laid into it. */
interface Laid {
  look: Look
  id: string
}
interface Chip {
  index: number
  id: string
  title: string
  off: boolean
  solo: boolean
  selected: boolean
  covers: string
  touches: string
}
/**
 * What the chips say, from the look and what was measured of it. A chip that says the same as before is the same, and
 * so is the array: a drag draws none of them again, and a move only those that it moves.
 */
const chips = computed<Chip[]>(old => {
  const before = new Map(old?.map(c => [c.id, c]))
  const same = (chip: Chip): Chip => {
    const known = before.get(chip.id)
    return known && JSON.stringify(known) === JSON.stringify(chip) ? known : chip
  }
  const next =
    strip.value?.steps.map((step, index): Chip => ({
      index,
      id: step.node.id,
      title: titleOf(step.node),
      off: Boolean(step.node.off),
      solo: looking.solo === step.node.id,
      selected: project.selected.includes(step.node.id),
      covers: coverOf(step),
      touches: touched(project.look, step.node.id)
        .map(
          t =>
            `${CHANNELS[t.channel].title}${t.amount === undefined || t.amount === 1 ? '' : ` ${Math.round(t.amount * 100)} %`}`,
        )
        .join(', '),
    })) ?? []
  const told = next.map(same)
  return old?.length === told.length && told.every((c, i) => c === old[i]) ? old : told
})
const drawn = usePieces(() => chips.value.length, 16)
/** The share of the surface, in per cent, where its mask is above a half, as text. */
function coverOf(step: Step): string {
  if (step.node.off) return 'off'
  const ports = analysis.value?.ports
  const at = step.mask && ports?.[`${step.mask.node}/${step.mask.port}`]
  if (at) return `${Math.round(at.covered * 100)} %`
  if (step.mask || !kindFor(step.node)?.inputs.mask) return ''
  return Number(paramOf(step.node, 'mask')) > 0.5 ? '100 %' : '0 %'
}
const base = computed(() => strip.value?.base?.node)
const baseTitle = computed(() => (base.value ? titleOf(nodeOf(project.look, base.value)!) : ''))
const picked = computed(() =>
  chips.value.find(c => c.selected && project.selected.length === 1 && !project.scope.length),
)

function select(id: string): void {
  if (project.scope.length) project.enter([])
  project.selected = [id]
}
function change(label: string, edit: Parameters<typeof project.edit>[1], then?: string): void {
  if (project.scope.length) project.enter([])
  project.edit(label, edit)
  if (then) project.selected = [then]
}
const toggle = (id: string, off: boolean): void =>
  change(off ? 'Switch a step off' : 'Switch a step on', look => switchNodes(look, [id], off))
function move(id: string, to: number): void {
  change('Move a step', look => moveStep(look, id, to))
  nextTick(() => root.value?.querySelector<HTMLElement>(`[data-step="${id}"]`)?.focus())
}
function remove(id: string): void {
  if (looking.solo === id) looking.solo = null
  const at = chips.value.findIndex(c => c.id === id)
  change('Remove a step', look => removeStep(look, id))
  const next = chips.value[Math.max(0, at - 1)]
  nextTick(() =>
    root.value?.querySelector<HTMLElement>(next ? `[data-step="${next.id}"]` : '[data-step=base]')?.focus(),
  )
}
function duplicate(id: string): void {
  let copy = ''
  project.edit('Duplicate a step', look => {
    const done = duplicateStep(look, id)
    copy = done.id
    return done.look
  })
  if (copy) select(copy)
}
const renaming = ref<string | null>(null)
function rename(id: string, text: string): void {
  change('Rename', look => renameNode(look, id, text))
  renaming.value = null
}
const solo = (id: string): void => {
  looking.solo = looking.solo === id ? null : id
}

// Adding: after the selected step, or at the end.
const { all: recipes, load } = useRecipes()
onMounted(load)
const adding = ref(false)
const asNode = (recipe: Recipe): LookNode => ({ id: 'recipe', kind: 'recipe', at: [0, 0], params: {}, recipe })
const laying = computed(() => recipes.value.filter(r => finishThrough(asNode(r.recipe))))
/** How many of the recipes that a look can begin with are offered where it is empty. */
const BASES = 4
const bases = computed(() => recipes.value.filter(r => finishMade(asNode(r.recipe))).slice(0, BASES))
const place = (): number => (picked.value ? picked.value.index + 1 : chips.value.length)
/** Lays something into the look, with the geometry maps that a recipe needs, and selects it. */
function lay(label: string, known: KnownRecipe | undefined, into: (look: Look, recipe?: Recipe) => Laid): void {
  let id = ''
  if (project.scope.length) project.enter([])
  project.editDocument(label, ({ look, preparation }) => {
    const filled = known && fillMaps(known.recipe, preparation.maps, project.mapNames, project.diagonal)
    const laid = into(look, filled?.recipe)
    id = laid.id
    const missing = filled?.missing ?? []
    return {
      look: laid.look,
      preparation: missing.length ? { ...preparation, maps: [...preparation.maps, ...missing] } : preparation,
    }
  })
  if (id) project.selected = [id]
}
function add(known?: KnownRecipe): void {
  adding.value = false
  const index = place()
  lay(known ? `Add ${known.recipe.title}` : 'Add a step', known, (look, recipe) =>
    recipe ? addRecipeStep(look, index, recipe) : addStep(look, index),
  )
}
const begin = (known: KnownRecipe): void =>
  lay(`Begin with ${known.recipe.title}`, known, (look, recipe) => addRecipeBase(look, recipe!))
defineExpose({
  add: () => {
    adding.value = true
  },
})

function key(e: KeyboardEvent, id: string, index: number): void {
  const side = Number(e.key === 'ArrowRight') - Number(e.key === 'ArrowLeft')
  if (side && (e.ctrlKey || e.metaKey)) move(id, index + side)
  else if (side)
    (document.activeElement as HTMLElement | null)?.parentElement?.[
      side < 0 ? 'previousElementSibling' : 'nextElementSibling'
    ]
      ?.querySelector<HTMLElement>('[data-step]')
      ?.focus()
  else if (e.key === 'Delete' && id !== 'base') remove(id)
  else if (e.key === 'o' && id !== 'base') toggle(id, !chips.value[index]!.off)
  else if (e.key === 's' && id !== 'base') solo(id)
  else if (e.key === 'F2' && id !== 'base') renaming.value = id
  else return
  e.preventDefault()
  e.stopPropagation()
}

const list = useTemplateRef('list')
useReorder(list, '.chip.step', (from, to) => move(chips.value[from]!.id, to))

// What can be done with the step that was clicked with the right button.
const menu = shallowRef<MenuEntry[][]>([])
const entry = (label: string, key: string | undefined, onSelect: () => void): MenuEntry => ({
  label,
  kbds: key?.split('+'),
  onSelect,
})
function menuOf(id: string): MenuEntry[][] {
  if (id === 'base') return [[entry('Remove', 'Delete', removeBase)]]
  const chip = chips.value.find(c => c.id === id)
  if (!chip) return [[entry('Add a step', 'S', () => void (adding.value = true))]]
  return [
    [
      entry(chip.off ? 'Switch on' : 'Switch off', 'O', () => toggle(id, !chip.off)),
      entry(chip.solo ? 'Show all steps' : 'Show only this one', 'S', () => solo(id)),
    ],
    [
      entry('Rename', 'F2', () => void (renaming.value = id)),
      entry('Duplicate', undefined, () => duplicate(id)),
      entry('Earlier', 'Ctrl+Left', () => move(id, chip.index - 1)),
      entry('Later', 'Ctrl+Right', () => move(id, chip.index + 1)),
    ],
    [entry('Remove', 'Delete', () => remove(id))],
  ]
}
useRightClick(list, e => {
  const id = (e.target as Element).closest('li')?.querySelector<HTMLElement>('[data-step]')?.dataset.step ?? ''
  if (id === 'base') select(base.value!)
  else if (id) select(id)
  menu.value = menuOf(id)
})

const swatches = new Map<string, HTMLCanvasElement>()
function draw(id: string): void {
  const context = swatches.get(id)?.getContext('2d')
  const pixels = analysis.value?.swatches[id]
  if (context && pixels) paintSwatch(context, pixels)
}
function take(el: unknown, id: string): void {
  if (!(el instanceof HTMLCanvasElement)) return void swatches.delete(id)
  if (swatches.get(id) === el) return
  swatches.set(id, el)
  draw(id)
}
watch(
  () => analysis.value?.swatches,
  () => {
    for (const id of swatches.keys()) draw(id)
  },
)
const removeBase = (): void => change('Remove', look => removeNodes(look, [base.value!]))
</script>

<template>
  <section ref="root" class="strip" aria-label="Steps">
    <header>
      <h2>Steps</h2>
      <template v-if="picked">
        <UTooltip :text="picked.off ? 'Lay it again' : 'Leave it out'" :kbds="['O']"
          ><UButton variant="link" @click="toggle(picked.id, !picked.off)">
            {{ picked.off ? 'Switch on' : 'Switch off' }}
          </UButton></UTooltip
        >
        <UTooltip text="Only this one over the base" :kbds="['S']"
          ><UButton variant="link" :aria-pressed="picked.solo" @click="solo(picked.id)">
            {{ picked.solo ? 'Show all' : 'Solo' }}
          </UButton></UTooltip
        >
        <UButton variant="link" @click="duplicate(picked.id)">Duplicate</UButton>
        <UTooltip text="Rename" :kbds="['F2']"
          ><UButton variant="link" @click="renaming = picked.id">Rename</UButton></UTooltip
        >
        <UTooltip text="Remove" :kbds="['Delete']"
          ><UButton variant="link" @click="remove(picked.id)">Remove</UButton></UTooltip
        >
        <UTooltip text="Below the one before it" :kbds="['Ctrl', 'Left']"
          ><UButton variant="link" :disabled="picked.index === 0" @click="move(picked.id, picked.index - 1)">
            Earlier
          </UButton></UTooltip
        >
        <UTooltip text="Over the one after it" :kbds="['Ctrl', 'Right']"
          ><UButton
            variant="link"
            :disabled="picked.index === chips.length - 1"
            @click="move(picked.id, picked.index + 1)"
          >
            Later
          </UButton></UTooltip
        >
      </template>
      <span class="grow" />
      <UPopover v-model:open="adding" :content="{ side: 'bottom', align: 'end' }">
        <UButton variant="bare" class="add" title="Lay something over (S)">
          <UIcon name="i-lucide-plus" /> Add a step
        </UButton>
        <template #content>
          <ul class="sheet" aria-label="Steps to add">
            <li>
              <UButton variant="bare" @click="add()">
                <b>Empty step</b><small>A finish of its own, through a mask of its own.</small>
              </UButton>
            </li>
            <li v-for="r in laying" :key="r.key">
              <UButton variant="bare" @click="add(r)">
                <b>{{ r.recipe.title }}</b><small>{{ r.recipe.help || r.where }}</small>
              </UButton>
            </li>
          </ul>
        </template>
      </UPopover>
    </header>
    <UContextMenu :items="menu">
      <ol ref="list">
        <li v-if="base" class="chip" :class="{ selected: project.selected.includes(base) }">
          <UButton
            variant="bare"
            class="body"
            data-step="base"
            @click="select(base)"
            @keydown="key($event, 'base', -1)"
            @keydown.delete.stop="removeBase"
          >
            <canvas :ref="el => take(el, base!)" :width="SWATCH_WIDTH" :height="SWATCH_HEIGHT" aria-hidden="true" />
            <span class="name">{{ baseTitle }}</span><span class="says">Base</span>
          </UButton>
        </li>
        <li
          v-for="c in chips.slice(0, drawn)"
          :key="c.id"
          v-memo="[c, renaming === c.id]"
          class="chip step"
          :class="{ selected: c.selected, off: c.off }"
        >
          <UButton
            variant="bare"
            class="body"
            :data-step="c.id"
            :aria-current="c.selected ? 'true' : undefined"
            :title="c.touches ? `Sets ${c.touches}` : 'Sets nothing yet'"
            @click="select(c.id)"
            @dblclick="renaming = c.id"
            @keydown="key($event, c.id, c.index)"
          >
            <canvas :ref="el => take(el, c.id)" :width="SWATCH_WIDTH" :height="SWATCH_HEIGHT" aria-hidden="true" />
            <span class="sr-only">Step {{ c.index + 1 }}: </span
            ><span v-if="renaming !== c.id" class="name">{{ c.title }}</span>
            <span class="says"
              ><span v-if="c.covers" class="sr-only">{{ c.off ? 'switched' : 'covers' }} </span
              ><i class="num">{{ c.covers }}</i> <span v-if="c.touches" class="sr-only">, sets </span
              >{{ c.touches }}</span
            >
          </UButton>
          <TextField
            v-if="renaming === c.id"
            begins
            class="rename"
            :value="c.title"
            label="Name of the step"
            :limit="80"
            @change="rename(c.id, $event)"
            @leave="renaming = null"
          />
          <UCheckbox
            class="lays"
            :model-value="!c.off"
            :aria-label="`${c.title} is laid`"
            title="On or off"
            @update:model-value="toggle(c.id, !$event)"
          />
        </li>
        <li v-if="!base && !chips.length" class="none">
          Nothing is laid down yet. <UButton variant="link" @click="add()">Start with a base</UButton>
          <template v-for="(r, i) in bases" :key="r.key">
            {{ i === 0 ? ' of one color, or with ' : ' or ' }}
            <UTooltip :text="r.recipe.help || r.where"
              ><UButton variant="link" @click="begin(r)">{{ r.recipe.title }}</UButton></UTooltip
            >
          </template>
        </li>
      </ol>
    </UContextMenu>
  </section>
</template>

<style scoped>
.strip {
  border-bottom: 1px solid var(--ub-line);
  min-width: 0;
}
header {
  display: flex;
  align-items: center;
  gap: 14px;
  height: 28px;
  padding: 0 12px;
  font-size: 12px;
}
h2 {
  font-weight: 600;
}
.grow {
  flex: 1;
}
.add {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--ub-quiet);
  white-space: nowrap;
}
.add:hover {
  color: var(--ub-accent);
}
ol {
  display: flex;
  gap: 8px;
  overflow-x: auto;
  scrollbar-width: thin;
  padding: 0 12px 8px;
}
.chip {
  position: relative;
  flex: none;
  width: 116px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line);
}
.chip.selected {
  border-color: var(--ub-accent);
  box-shadow: 0 0 0 1px var(--ub-accent);
}
.chip.off canvas {
  opacity: 0.25;
}
.chip.reordered {
  opacity: 0.5;
  border-style: dashed;
}
.body {
  display: block;
  width: 100%;
  text-align: left;
  padding-bottom: 3px;
  touch-action: pan-x;
}
canvas {
  display: block;
  width: 100%;
  height: 44px;
  object-fit: cover;
  background: var(--ub-canvas);
}
.name,
.says {
  display: block;
  padding: 0 6px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
  line-height: 17px;
}
.name {
  font-weight: 500;
  padding-right: 22px;
}
.chip:not(.step) .name {
  padding-right: 6px;
}
.says {
  color: var(--ub-quiet);
  font-size: 11px;
  line-height: 15px;
}
.says i {
  font-style: normal;
  color: var(--ub-text);
}
.lays {
  position: absolute;
  right: 5px;
  top: 48px;
}
.rename {
  position: absolute;
  left: 0;
  right: 0;
  top: 43px;
  height: 20px;
}
.none {
  color: var(--ub-quiet);
  padding: 6px 0 12px;
}
.sheet {
  width: 340px;
  max-height: min(460px, var(--reka-popover-content-available-height));
  overflow-y: auto;
  scrollbar-width: thin;
  padding: 6px 0;
  font-size: 13px;
}
.sheet button {
  width: 100%;
  text-align: left;
  padding: 4px 14px;
  display: grid;
}
.sheet button:hover,
.sheet button:focus-visible {
  background: var(--ub-accent-soft);
}
.sheet b {
  font-weight: 500;
}
/* What a step does is read to its end; what somebody wrote at length is cut off after three lines. */
.sheet small {
  color: var(--ub-quiet);
  font-size: 11.5px;
  line-height: 1.35;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  overflow: hidden;
}
</style>
