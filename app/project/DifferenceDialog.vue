<script setup lang="ts">
import type { Difference } from '#core/graph/differences'
import { nodeOf } from '#core/graph/find'

/** What differs between two states, one sentence each: each is shown, or taken over alone. */
defineProps<{
  title: string
  lines: readonly Difference[]
  /** What taking one of them over is called. */
  take: string
}>()
const emit = defineEmits<{ take: [line: Difference] }>()
const open = defineModel<boolean>('open', { required: true })
const project = useProject()

/** Shows the node that a difference is about. */
function show(id: string): void {
  project.selected = [id]
  open.value = false
}
</script>

<template>
  <UModal v-model:open="open" :title="title" description="What changed, one sentence each.">
    <template #body>
      <p v-if="!lines.length" class="ub-quiet">Nothing that is computed differs.</p>
      <ul v-else class="lines">
        <li v-for="line in lines" :key="line.words">
          <span class="words">{{ line.words }}</span>
          <UButton
            v-if="line.node && nodeOf(project.page, line.node)"
            variant="link"
            :aria-label="`Show: ${line.words}`"
            @click="show(line.node)"
            >Show</UButton
          >
          <UButton
            v-if="line.back && !project.readOnly"
            variant="link"
            :aria-label="`${take}: ${line.words}`"
            @click="emit('take', line)"
            >{{ take }}</UButton
          >
        </li>
      </ul>
    </template>
  </UModal>
</template>

<style scoped>
.lines {
  display: grid;
  gap: 4px;
}
.lines li {
  display: flex;
  gap: 10px;
  padding: 2px 0;
}
.words {
  flex: 1;
}
</style>
