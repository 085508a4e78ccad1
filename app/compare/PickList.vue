<script setup lang="ts">
/** Some things of several groups, chosen one by one behind a button that says which. */
defineProps<{
  /** What is chosen, on the button. */
  words: string
  label: string
  groups: readonly { title: string; choices: readonly { id: string; title: string }[] }[]
  chosen: ReadonlySet<string>
  /** Said where there is nothing to choose from. */
  none?: string
}>()
const emit = defineEmits<{ toggle: [id: string] }>()
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'start' }">
    <UButton variant="outline" size="xs" trailing-icon="i-lucide-chevron-down" :aria-label="`${label}: ${words}`">
      {{ words }}
    </UButton>
    <template #content>
      <section class="picks" :aria-label="label">
        <p v-if="!groups.length" class="ub-quiet">{{ none }}</p>
        <slot />
        <fieldset v-for="g in groups" :key="g.title">
          <legend>{{ g.title }}</legend>
          <UCheckbox
            v-for="c in g.choices"
            :key="c.id"
            :label="c.title"
            :model-value="chosen.has(c.id)"
            @update:model-value="emit('toggle', c.id)"
          />
        </fieldset>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
.picks {
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
