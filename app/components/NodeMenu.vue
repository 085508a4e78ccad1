<script setup lang="ts">
import { FAMILIES, type NodeKind } from '#core/nodes/declare'
import { KINDS, RESULT } from '#core/nodes'
import { useLocalStorage } from '@vueuse/core'
import { NOT_FOUND, placeOf } from '../keys'

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
const at = ref(0)
const input = useTemplateRef('input')
const list = useTemplateRef('list')

/** Every word typed must be found: in the title first, then among the synonyms, then in the help. */
const found = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  const score = (k: Entry) => {
    const title = k.title.toLowerCase()
    const help = k.help.toLowerCase()
    return words.reduce(
      (sum, w) =>
        sum + placeOf([title.startsWith(w), title.includes(w), k.words.some(s => s.includes(w)), help.includes(w)]),
      0,
    )
  }
  const fitting = entries.value
    .filter(k => !props.only || props.only(k.kind))
    .map((k, i) => ({ k, i, s: score(k) }))
    .filter(e => e.s < NOT_FOUND)
    .sort((a, b) => a.s - b.s || a.i - b.i)
    .map(e => e.k)
  if (words.length) return fitting
  const last = recent.value
    .flatMap(key => fitting.find(k => k.key === key) ?? [])
    .slice(0, 4)
    .map(k => ({ ...k, family: 'Used last' }))
  return [
    ...last,
    ...FAMILIES.flatMap(f => fitting.filter(k => k.family === f)),
    ...fitting.filter(k => k.family.startsWith('Recipe')),
  ]
})
watch(found, () => {
  at.value = 0
})
watch(at, () => list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' }), { flush: 'post' })
onMounted(() => input.value?.focus())

function key(e: KeyboardEvent): void {
  e.stopPropagation()
  if (e.key === 'Escape') emit('close')
  else if (e.key === 'Enter' && found.value[at.value]) pick(found.value[at.value]!.key)
  else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
    const n = found.value.length
    at.value = n ? (at.value + (e.key === 'ArrowDown' ? 1 : n - 1)) % n : 0
    e.preventDefault()
  }
}
</script>

<template>
  <div class="menu" :style="{ left: `${x}px`, top: `${y}px` }" role="dialog" :aria-label="title ?? 'Add a node'">
    <input
      ref="input"
      v-model="text"
      placeholder="What should it do?"
      aria-label="Search nodes"
      role="combobox"
      aria-expanded="true"
      aria-controls="node-list"
      :aria-activedescendant="found[at] ? `node-option-${at}` : undefined"
      spellcheck="false"
      @keydown="key"
      @blur="emit('close')"
    />
    <p v-if="hint" class="hint">{{ hint }}</p>
    <ul id="node-list" ref="list" role="listbox" aria-label="Node kinds">
      <li
        v-for="(k, i) in found"
        :id="`node-option-${i}`"
        :key="k.family + k.key"
        role="option"
        :aria-selected="i === at"
        :class="{ on: i === at }"
        @pointerdown.prevent="pick(k.key)"
        @pointermove="at = i"
      >
        <b
          >{{ k.title }} <small>{{ k.family }}</small></b
        ><span>{{ k.help }}</span>
      </li>
      <li v-if="!found.length" class="none" role="option" aria-disabled="true" aria-selected="false">
        Nothing fits. Try another word.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.menu {
  position: absolute;
  z-index: 30;
  width: 300px;
  background: var(--ub-card);
  border: 1px solid var(--ub-line-strong);
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.18);
}
input {
  width: 100%;
  height: 34px;
  padding: 0 12px;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--ub-line);
}
input:focus {
  outline: none;
  border-bottom-color: var(--ub-accent);
}
.hint {
  padding: 4px 12px;
  color: var(--ub-quiet);
  border-bottom: 1px solid var(--ub-line);
}
ul {
  max-height: 320px;
  overflow-y: auto;
  scrollbar-width: thin;
}
li {
  padding: 5px 12px;
  cursor: pointer;
  border-left: 3px solid transparent;
}
li b {
  font-weight: 500;
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
li small {
  font-weight: 400;
  font-size: 10.5px;
  color: var(--ub-quiet);
}
li span {
  color: var(--ub-quiet);
  font-size: 11.5px;
  display: -webkit-box;
  -webkit-line-clamp: 1;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
li.on {
  background: var(--ub-accent-soft);
  border-left-color: var(--ub-accent);
}
li.none {
  color: var(--ub-quiet);
  cursor: default;
}
</style>
