<script setup lang="ts">
import { titleOf } from '#core/graph/check'
import { nodeOf } from '#core/graph/find'
import { kindFor } from '#core/graph/kinds'
import { exposedIn, isSetAs, keepVariant, removeVariant, renameVariant, withVariant } from '#core/graph/variants'

const project = useProject()
const name = ref('')
const variants = computed(() => project.look.variants ?? [])
const exposed = computed(() =>
  exposedIn(project.look).map(e => {
    const node = nodeOf(project.look, e.node)!
    const kind = kindFor(node)!
    return { ...e, title: `${titleOf(node)}: ${(kind.params[e.param] ?? kind.inputs[e.param])!.title}` }
  }),
)
function keep(): void {
  const text = name.value.trim()
  if (!text) return
  project.edit(`Keep the variant ${text}`, look => keepVariant(look, text))
  name.value = ''
}
</script>

<template>
  <section class="variants" aria-label="Variants">
    <h3 class="ub-h">Variants</h3>
    <p class="ub-quiet">
      A variant keeps all seeds and palettes, and what is exposed of nodes (<i>In variants</i>, below a node's
      settings). Several can leave in one delivery.
    </p>
    <ul v-if="variants.length">
      <li v-for="v in variants" :key="v.name">
        <TextField
          plain
          class="name"
          :value="v.name"
          placeholder="Name"
          :label="`Name of the variant ${v.name}`"
          :limit="60"
          @change="project.edit('Rename a variant', look => renameVariant(look, v.name, $event.trim() || v.name))"
        />
        <span v-if="isSetAs(project.look, v)" class="ub-quiet">shown now</span>
        <UButton
          variant="link"
          v-else
          :aria-label="`Show ${v.name}`"
          @click="project.edit(`Show the variant ${v.name}`, look => withVariant(look, v))"
        >
          Show
        </UButton>
        <UButton
          variant="link"
          :aria-label="`Remove ${v.name}`"
          @click="project.edit(`Remove the variant ${v.name}`, look => removeVariant(look, v.name))"
        >
          Remove
        </UButton>
      </li>
    </ul>
    <form @submit.prevent="keep">
      <UInput
        v-model="name"
        class="grow"
        placeholder="Name of a variant"
        aria-label="Name for the look as it is now"
        maxlength="60"
        @keydown.stop
      /><UButton variant="link" type="submit" :disabled="!name.trim()">Keep the look as it is now</UButton>
    </form>
    <template v-if="exposed.length">
      <h3 class="ub-h">Exposed</h3>
      <p v-for="e in exposed" :key="`${e.node}/${e.param}`">
        <UButton variant="link" @click="project.selected = [e.node]">{{ e.title }}</UButton>
      </p>
    </template>
  </section>
</template>

<style scoped>
.variants {
  padding-right: 26px;
}
li {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 26px;
}
.name {
  flex: 1;
  min-width: 0;
}
form {
  display: flex;
  gap: 10px;
  padding-top: 8px;
}
</style>
