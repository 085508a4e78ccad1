<script setup lang="ts">
import TrailList from '../people/TrailList.vue'
import RevisionList from './RevisionList.vue'

const project = useProject()
/** The newest first. */
const steps = computed(() =>
  project.steps.map((label, i) => ({ label, i, ...shortened(project.wordsOf(i)) })).reverse(),
)
/** So many sentences are told of a step. */
const TOLD = 2
function shortened(words: readonly string[]): { told: string; all: string } {
  const more = words.length - TOLD
  const told = [...words.slice(0, TOLD), ...(more > 0 ? [`And ${more} more.`] : [])]
  return { told: told.join(' '), all: words.join('\n') }
}
const TABS = [
  { label: 'Since it was opened', value: 'steps', slot: 'steps' as const },
  { label: 'Saved revisions', value: 'saved', slot: 'saved' as const },
  { label: 'Who did what', value: 'trail', slot: 'trail' as const },
]
const tab = ref('steps')
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }">
    <UButton
      variant="bare"
      class="tool"
      aria-label="History"
      title="History: every step and every save, to go back or forth to"
    >
      <UIcon name="i-lucide-history" />
    </UButton>
    <template #content>
      <section class="sheet" aria-label="History">
        <UTabs v-model="tab" :items="TABS" size="xs" variant="link" color="neutral" class="tabs">
          <template #steps>
            <p class="ub-quiet">
              {{ steps.length - 1 }} {{ steps.length === 2 ? 'step' : 'steps' }} since the project was opened
            </p>
            <ol>
              <li v-for="s in steps" :key="s.i">
                <UButton
                  variant="bare"
                  :class="{ on: s.i === project.step, ahead: s.i > project.step }"
                  :aria-current="s.i === project.step ? 'step' : undefined"
                  :title="s.all"
                  @click="project.jump(s.i)"
                >
                  {{ s.label }}
                  <small v-if="s.told" class="ub-quiet">{{ s.told }}</small>
                </UButton>
              </li>
            </ol>
          </template>
          <template #saved><RevisionList /></template>
          <template #trail><TrailList :project="project.meta?.id" class="padded" /></template>
        </UTabs>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.tool {
  width: 30px;
  display: grid;
  place-items: center;
  color: var(--ub-quiet);
}
.sheet {
  width: 390px;
  padding: 4px 0 10px;
  font-size: 13px;
}
.padded {
  padding: 4px 14px 0;
}
p {
  padding: 4px 14px 6px;
  font-size: 12px;
}
ol {
  max-height: 380px;
  overflow-y: auto;
  scrollbar-width: thin;
}
li button {
  width: 100%;
  text-align: left;
  padding: 3px 14px;
  border-left: 3px solid transparent;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li small {
  display: block;
  overflow: hidden;
  font-size: 12px;
  font-weight: 400;
  text-overflow: ellipsis;
}
li button:hover {
  background: var(--ub-accent-soft);
}
li .on {
  border-left-color: var(--ub-accent);
  font-weight: 500;
}
li .ahead {
  color: var(--ub-quiet);
}
</style>
