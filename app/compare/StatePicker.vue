<script setup lang="ts">
import { useSheet } from './useSheet'
import { STATE_GROUPS } from './useStates'

/** Which states of the project stand on the sheet. */
const sheet = useSheet()
const chosen = computed(() => new Set(sheet.statesChosen.map(s => s.id)))
const groups = computed(() =>
  STATE_GROUPS.map(title => ({ title, states: sheet.states.filter(s => s.group === title) })).filter(
    g => g.states.length,
  ),
)
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'start' }">
    <UButton variant="outline" size="xs" trailing-icon="i-lucide-chevron-down">
      {{ chosen.size }} {{ chosen.size === 1 ? 'state' : 'states' }} beside the look
    </UButton>
    <template #content>
      <section class="states" aria-label="States on the sheet">
        <p v-if="!groups.length" class="ub-quiet">
          There are none yet: no variants, no other looks, and no earlier revisions of this one.
        </p>
        <fieldset v-for="g in groups" :key="g.title">
          <legend>{{ g.title }}</legend>
          <UCheckbox
            v-for="s in g.states"
            :key="s.id"
            :label="s.title"
            :model-value="chosen.has(s.id)"
            @update:model-value="sheet.toggleState(s.id)"
          />
        </fieldset>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.states {
  display: grid;
  gap: 12px;
  width: 300px;
  max-height: 420px;
  padding: 12px 14px;
  overflow-y: auto;
  font-size: 13px;
}
fieldset {
  display: grid;
  gap: 4px;
}
legend {
  padding-bottom: 4px;
  font-weight: 500;
}
</style>
