<script setup lang="ts">
import type { Command } from './keys'

/** What the keyboard does, and what is done by hand. */
const props = defineProps<{ commands: readonly Command[] }>()
const open = defineModel<boolean>('open', { required: true })
const BY_HAND: [string, string][] = [
  ['Double click', 'Add a node; on a wire, put one in'],
  ['Right click', 'Everything that can be done with a node, a wire, a step, a part or a project'],
  ['Shift and drag', 'Select nodes by a box'],
  ['Alt and drag', 'On the canvas: cut every wire that the line crosses'],
  ['Arrows', 'Move the selected cards; on the stage, turn the mesh; in a number, step it'],
  ['+ and −', 'On the stage: nearer, farther'],
  ['Shift, Alt', 'While dragging a number: finer, coarser'],
  ['Ctrl and arrows', 'On a step: earlier, later'],
]
const groups = computed(() =>
  [...new Set(props.commands.map(c => c.group))].map(group => ({
    group,
    rows: props.commands.filter(c => c.group === group && c.keys),
  })),
)
</script>

<template>
  <UModal v-model:open="open" title="Keys" description="What the keyboard does on this page.">
    <template #body>
      <div tabindex="0" role="group" aria-label="All keys">
        <template v-for="g in groups" :key="g.group">
          <h3 class="ub-h">{{ g.group }}</h3>
          <dl class="keys">
            <template v-for="c in g.rows" :key="c.title"
              ><dt>
                <UKbd v-for="k in c.keys" :key="k" :value="k.replaceAll('+', ' ')" />
              </dt>
              <dd>{{ c.title }}</dd></template
            >
          </dl>
        </template>
        <h3 class="ub-h">By hand</h3>
        <dl class="keys">
          <template v-for="[how, what] in BY_HAND" :key="how"
            ><dt>{{ how }}</dt>
            <dd>{{ what }}</dd></template
          >
        </dl>
      </div>
    </template>
  </UModal>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 6px 14px;
}
dt {
  color: var(--ub-quiet);
  display: flex;
  gap: 6px;
}
</style>
