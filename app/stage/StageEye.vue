<script setup lang="ts">
import type { Eye } from './stage'
import { RIGS, type RigName } from '#core/trace/rigs'
import type { Evaluates } from './useEvaluates'

const looking = useLooking()
const mesh = useMesh()
const RIG_ITEMS = [
  { label: 'Same light', value: 'same' },
  ...Object.entries(RIGS).map(([value, { title }]) => ({ label: title, value })),
]
const EVALUATES: { value: Evaluates; label: string }[] = [
  { value: 'either', label: 'Whichever is faster' },
  { value: 'card', label: 'Graphics card' },
  { value: 'workers', label: 'Processor' },
]
const beside = computed({
  get: () => looking.second !== null,
  set: on => {
    looking.second = on ? { eye: 'front', rig: null, linked: false } : null
  },
})
function changeSecond(change: Partial<NonNullable<typeof looking.second>>): void {
  if (looking.second) looking.second = { ...looking.second, ...change }
}
const chosen = ref(looking.evaluates)
const EYES: { key: Eye; title: string }[] = [
  { key: 'perspective', title: 'With perspective' },
  { key: 'front', title: 'From the front' },
  { key: 'side', title: 'From the side' },
  { key: 'top', title: 'From above' },
]
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }">
    <UButton variant="bare" title="How the mesh is seen">View</UButton>
    <template #content>
      <section class="ub-sheet view" aria-label="View">
        <URadioGroup
          v-model="looking.eye"
          :items="EYES"
          value-key="key"
          label-key="title"
          aria-label="How it is seen"
        />
        <hr />
        <UCheckbox v-model="looking.edges" label="Edges of triangles (W)" />
        <UCheckbox v-model="looking.spinning" label="Turns slowly (T)" />
        <hr />
        <USwitch v-model="looking.switches.shadows" size="xs" label="Shadows of the key light" />
        <USwitch v-model="looking.switches.contact" size="xs" label="Darker where things touch" />
        <USwitch v-model="looking.switches.ground" size="xs" label="Ground" />
        <USwitch v-model="looking.switches.smooth" size="xs" label="Smooth edges at rest" />
        <hr />
        <USwitch v-model="beside" size="xs" label="Two views side by side (Y)" />
        <template v-if="looking.second">
          <UFormField label="The second one" size="xs">
            <USelect
              class="w-full"
              size="xs"
              :items="EYES.map(e => ({ label: e.title, value: e.key }))"
              :model-value="looking.second.eye"
              aria-label="How the second view looks"
              @update:model-value="changeSecond({ eye: $event as Eye })"
            />
          </UFormField>
          <UFormField label="Its light" size="xs">
            <USelect
              class="w-full"
              size="xs"
              :items="RIG_ITEMS"
              :model-value="looking.second.rig ?? 'same'"
              aria-label="Light of the second view"
              @update:model-value="changeSecond({ rig: $event === 'same' ? null : ($event as RigName) })"
            />
          </UFormField>
          <USwitch
            :model-value="looking.second.linked"
            size="xs"
            label="One camera for both"
            @update:model-value="changeSecond({ linked: $event })"
          />
        </template>
        <hr />
        <UFormField
          label="Looks are evaluated by"
          size="xs"
          :help="chosen === looking.evaluates ? undefined : 'From the next time the project is opened'"
        >
          <USelect
            v-model="looking.evaluates"
            class="w-full"
            size="xs"
            :items="EVALUATES"
            aria-label="Looks are evaluated by"
          />
        </UFormField>
        <hr />
        <p v-if="!mesh.selected.size && !mesh.hidden.size" class="ub-quiet">
          Click parts on the stage to isolate or hide them.
        </p>
        <p v-else>
          <UButton variant="link" :disabled="!mesh.selected.size" @click="mesh.isolate()"> Isolate (I) </UButton>
          <UButton
            variant="link"
            :disabled="!mesh.selected.size"
            @click="mesh.hide([...mesh.hidden, ...mesh.selected])"
          >
            Hide (H)
          </UButton>
          <UButton variant="link" :disabled="!mesh.hidden.size" @click="mesh.hide([])">Show all</UButton>
        </p>
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
button {
  color: var(--ub-quiet);
  white-space: nowrap;
}
.view {
  width: 250px;
  display: grid;
  gap: 5px;
}
.view p {
  display: flex;
  gap: 14px;
}
hr {
  border-color: var(--ub-line);
  margin: 4px 0;
}
</style>
