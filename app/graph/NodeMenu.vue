<script setup lang="ts">
import { FAMILIES, type NodeKind } from '#core/nodes/declare'
import { KINDS, RESULT } from '#core/nodes'
import { useLocalStorage } from '@vueuse/core'
import { NOT_FOUND, placeOf } from '../project/keys'

const props = defineProps<{ x: number; y: number; only?: (kind: NodeKind) => boolean; hint?: string; title?: string }>()
const { all: recipes, load } = useRecipes()
onMounted(load)
/** The kind's name, or `recipe:` and the key of a recipe. */
const emit = defineEmits<{ pick: [kind: string]; close: [] }>()
interface Entry {
  key: string
  title: string
  family: string
  help: string
  words: readonly string[]
  kind: NodeKind
}
const entries = computed<Entry[]>(() => [
  ...KINDS.filter(k => k.kind !== RESULT).map(k => ({
    key: k.kind,
    title: k.title,
    family: k.family as string,
    help: k.help,
    words: k.words,
    kind: k,
  })),
  ...recipes.value.map(r => ({
    key: `recipe:${r.key}`,
    title: r.recipe.title,
    family: r.where === 'Comes with Ubblet' ? 'Recipe' : `Recipe · ${r.where.toLowerCase()}`,
    help: r.recipe.help || 'A part of a graph, folded.',
    words: ['recipe'],
    kind: r.kind,
  })),
])
/** What was picked last, the newest first; kept in this browser. */
const recent = useLocalStorage<string[]>('ubblet recent nodes', [])
function pick(key: string): void {
  recent.value = [key, ...recent.value.filter(k => k !== key)].slice(0, 12)
  emit('pick', key)
}
const text = ref('')
const root = useTemplateRef('root')

const fitting = computed(() => entries.value.filter(k => !props.only || props.only(k.kind)))
/** Every word typed must be found: in the title first, then among the synonyms, then in the help. Best first. */
function find(words: readonly string[]): Entry[] {
  const score = (k: Entry): number => {
    const title = k.title.toLowerCase()
    const help = k.help.toLowerCase()
    return words.reduce(
      (sum, w) =>
        sum + placeOf([title.startsWith(w), title.includes(w), k.words.some(s => s.includes(w)), help.includes(w)]),
      0,
    )
  }
  return fitting.value
    .map((k, i) => ({ k, i, s: score(k) }))
    .filter(e => e.s < NOT_FOUND)
    .sort((a, b) => a.s - b.s || a.i - b.i)
    .map(e => e.k)
}
const group = (id: string, label: string | undefined, list: readonly Entry[]) => ({
  id,
  label,
  ignoreFilter: true,
  items: list.map(k => ({
    label: k.title,
    description: k.help,
    suffix: label ? undefined : k.family,
    onSelect: () => pick(k.key),
  })),
})
const groups = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (words.length) return [group('found', undefined, find(words))]
  const last = recent.value.flatMap(key => fitting.value.find(k => k.key === key) ?? []).slice(0, 4)
  const families = [...FAMILIES, ...new Set(fitting.value.map(k => k.family).filter(f => f.startsWith('Recipe')))]
  return [
    group('last', 'Used last', last),
    ...families.map(f =>
      group(
        f,
        f,
        fitting.value.filter(k => k.family === f),
      ),
    ),
  ]
})
function left(e: FocusEvent): void {
  if (!root.value?.contains(e.relatedTarget as Node | null)) emit('close')
}
</script>

<template>
  <div
    ref="root"
    class="menu"
    :style="{ left: `${x}px`, top: `${y}px` }"
    role="dialog"
    :aria-label="title ?? 'Add a node'"
    @focusout="left"
    @keydown.stop
    @keydown.escape="emit('close')"
  >
    <SearchList
      v-model:text="text"
      :groups="groups"
      label="Search nodes"
      list="Node kinds"
      placeholder="What should it do?"
      :height="320"
    >
      <template v-if="hint" #footer>
        <p class="hint">{{ hint }}</p>
      </template>
      <template #empty>Nothing fits. Try another word.</template>
    </SearchList>
  </div>
</template>

<style scoped>
.menu {
  position: absolute;
  z-index: 30;
  width: 320px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line-strong);
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.18);
}
.hint {
  padding: 2px 8px;
  color: var(--ub-quiet);
}
</style>
