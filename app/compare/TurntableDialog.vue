<script setup lang="ts">
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
const frames = ref(48)
const step = ref(1)
const as = ref<TurntableSettings['as']>('film')
const FRAMES = [12, 24, 36, 48, 72, 96, 144].map(n => ({ value: n, title: String(n) }))
const SIZES = [
  { value: 1, title: 'As on the stage' },
  { value: 2, title: 'Half of it' },
]
const FORMS = [
  { value: 'film', title: 'Film (WebM)' },
  { value: 'pictures', title: 'Pictures (PNG in a ZIP)' },
] as const
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
      <div class="fields">
        <div class="ub-line">
          <span>Frames</span
          ><ChoiceField :value="frames" label="Frames of a turn" :choices="FRAMES" @change="frames = Number($event)" />
        </div>
        <div class="ub-line">
          <span>Size</span
          ><ChoiceField :value="step" label="Size of the frames" :choices="SIZES" @change="step = Number($event)" />
        </div>
        <div class="ub-line">
          <span>Saved as</span
          ><ChoiceField
            :value="as"
            label="What the turntable is saved as"
            :choices="FORMS as unknown as { value: TurntableSettings['as']; title: string }[]"
            @change="as = $event"
          />
        </div>
        <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
        <template v-if="made !== null">
          <UProgress :model-value="(100 * made) / frames" size="sm" aria-label="Frames made" />
          <p class="ub-quiet num" role="status">{{ made }} of {{ frames }} frames</p>
        </template>
      </div>
    </template>
    <template #footer>
      <UButton v-if="made === null" variant="solid" color="primary" @click="emit('make', { frames, step, as })"
        >Make it</UButton
      >
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
