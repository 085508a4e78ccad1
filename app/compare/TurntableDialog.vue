<script setup lang="ts">
import * as z from 'zod'

/** How a turntable is made. */
export interface TurntableSettings {
  frames: number
  /** Pixels of the stage for each of the pictures. */
  step: number
  as: 'film' | 'pictures'
}
const props = defineProps<{
  title: string
  /** Pictures made so far while it is under way. */
  made: number | null
  problem: string
}>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ make: [settings: TurntableSettings]; stop: [] }>()
/** Half of the stage is the smallest, and a turn of more pictures than the most is a film that nobody waits for. */
const schema = z.object({
  frames: z.number().int().min(12).max(144),
  step: z.number().int().min(1).max(2),
  as: z.enum(['film', 'pictures']),
})
const state = reactive<TurntableSettings>({ frames: 48, step: 1, as: 'film' })
const FRAMES = [12, 24, 36, 48, 72, 96, 144].map(n => ({ value: n, title: String(n) }))
const SIZES = [
  { value: 1, title: 'As on the stage' },
  { value: 2, title: 'Half of it' },
]
const FORMS = [
  { value: 'film', title: 'Film (WebM)' },
  { value: 'pictures', title: 'Pictures (PNG in a ZIP)' },
] as const satisfies readonly { value: TurntableSettings['as']; title: string }[]
function close(): void {
  if (props.made !== null) emit('stop')
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Turntable"
    :description="`${title}, turned once about the vertical under the light of the stage.`"
    @update:open="close"
  >
    <template #body>
      <UForm
        id="turntable"
        :schema="schema"
        :state="state"
        :disabled="made !== null"
        class="fields"
        @submit="emit('make', $event.data)"
      >
        <UFormField label="Frames" name="frames" orientation="horizontal">
          <ChoiceField
            :value="state.frames"
            label="Frames of a turn"
            :choices="FRAMES"
            @change="state.frames = Number($event)"
          />
        </UFormField>
        <UFormField label="Size" name="step" orientation="horizontal">
          <ChoiceField
            :value="state.step"
            label="Size of the frames"
            :choices="SIZES"
            @change="state.step = Number($event)"
          />
        </UFormField>
        <UFormField label="Saved as" name="as" orientation="horizontal">
          <ChoiceField
            :value="state.as"
            label="What the turntable is saved as"
            :choices="FORMS"
            @change="state.as = $event"
          />
        </UFormField>
        <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
        <template v-if="made !== null">
          <UProgress :model-value="(100 * made) / state.frames" size="sm" aria-label="Frames made" />
          <p class="ub-quiet num" role="status">{{ made }} of {{ state.frames }} frames</p>
        </template>
      </UForm>
    </template>
    <template #footer>
      <UButton v-if="made === null" type="submit" form="turntable" variant="solid" color="primary">Make it</UButton>
      <UButton v-else @click="emit('stop')">Stop</UButton>
    </template>
  </UModal>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 8px;
}
</style>
