<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import type { LookNode } from '#core/graph/look'
import { describeRecipe, exposeSetting, recipeOf, settable, unfoldNode } from '#core/graph/recipe'
import { RequestError } from '../shared/request'

const props = defineProps<{ node: LookNode }>()
const project = useProject()
const { all, load, keep, forget } = useRecipes()
onMounted(load)
const recipe = computed(() => props.node.recipe!)
const choosing = ref(false)
/** What it does stands over it once it is said; a recipe that came without it asks for it. */
const isUntold = !props.node.recipe!.help
const said = ref('')
const shown = computed(() => new Set(recipe.value.settings.map(s => `${s.node}/${s.param}`)))
/** What can be set inside, by node. */
const groups = computed(() => {
  const list = settable(recipe.value)
  const nodes = [...new Set(list.map(s => s.node))]
  return nodes.map(n => ({ node: n, title: titleOf(n), settings: list.filter(s => s.node === n) }))
})
const inLibrary = computed(() =>
  all.value.find(r => r.where === 'Library' && r.recipe.title === (props.node.name ?? recipe.value.title)),
)

const toggle = (inner: string, param: string, on: boolean): void =>
  project.editPage(on ? 'Show a setting' : 'Hide a setting', look =>
    exposeSetting(look, props.node.id, inner, param, on),
  )
function unfold(): void {
  let ids: string[] = []
  project.editPage('Unfold', look => {
    const open = unfoldNode(look, props.node.id)
    ids = open.ids
    return open.look
  })
  nextTick(() => {
    project.selected = ids
  })
}
async function store(work: () => Promise<void>, done: string): Promise<void> {
  try {
    await work()
    said.value = done
  } catch (error) {
    said.value = error instanceof RequestError ? error.message : 'It could not be done.'
  }
}
</script>

<template>
  <div class="recipe">
    <p v-if="choosing || isUntold" class="ub-row">
      <span class="ub-quiet">What it does</span>
      <TextField
        class="text"
        :value="recipe.help"
        placeholder="What it does, in a sentence"
        label="What the recipe does"
        :limit="400"
        @change="project.editPage('Describe', look => describeRecipe(look, node.id, $event))"
      />
    </p>
    <p class="tools">
      <UButton variant="link" :aria-expanded="choosing" @click="choosing = !choosing">
        {{ choosing ? 'Done choosing' : 'Choose its settings' }}
      </UButton>
      <UButton variant="link" @click="project.enter([...project.scope, node.id])">Open</UButton>
      <UButton variant="link" @click="unfold">Unfold</UButton>
      <UButton
        variant="link"
        v-if="!inLibrary"
        @click="store(() => keep(recipeOf(node)), 'It is in the library: every project finds it among the nodes.')"
      >
        Keep in the library
      </UButton>
      <UButton
        variant="link"
        v-else
        @click="store(() => forget(inLibrary!.id!), 'The library has let go of it. Looks that use it keep it.')"
      >
        Take out of the library
      </UButton>
    </p>
    <p v-if="said" class="ub-quiet" role="status">{{ said }}</p>
    <div v-if="choosing" class="choose">
      <fieldset v-for="g in groups" :key="g.node.id">
        <legend>{{ g.title }}</legend>
        <UCheckbox
          v-for="s in g.settings"
          :key="s.param"
          :label="s.title"
          :model-value="shown.has(`${g.node.id}/${s.param}`)"
          @update:model-value="toggle(g.node.id, s.param, Boolean($event))"
          @keydown.stop
        />
      </fieldset>
    </div>
  </div>
</template>

<style scoped>
.recipe {
  padding-bottom: 8px;
}
.text {
  height: 22px;
  padding: 0 8px;
  background: var(--ub-canvas);
  border: 0;
}
.tools {
  display: flex;
  gap: 16px;
  padding: 4px 0;
}
.choose {
  display: grid;
  gap: 6px;
  padding: 4px 26px 8px 0;
}
legend {
  font-weight: 500;
  padding-top: 4px;
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
legend {
  width: 100%;
}
</style>
