<script setup lang="ts">
import { RIGS, type RigName } from '#core/trace/rigs'

const looking = useLooking()
const lights = useLights()
const project = useProject()
const chooser = useTemplateRef('chooser')
const title = computed(() => (looking.rig === 'own' ? looking.ownLight!.name : RIGS[looking.rig].title))

/** Own pictures of light are told from rigs by this before their names. */
const OWN = 'own '
const choices = computed(() => [
  ...Object.entries(RIGS).map(([value, r]) => ({
    value,
    label: r.title,
    description: looking.rig === value ? r.help : '',
    own: undefined,
  })),
  ...lights.list.map(own => ({
    value: OWN + own.name,
    label: own.name,
    description: own.hash ? '' : 'Not kept with the project.',
    own,
  })),
])
const chosen = computed(() => (looking.rig === 'own' ? OWN + looking.ownLight!.name : looking.rig))
function choose(value: string): void {
  const own = lights.list.find(l => OWN + l.name === value)
  if (own) void lights.choose(own)
  else looking.rig = value as RigName
}

const opened = (open: boolean): void => {
  if (open) void lights.load()
}
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }" @update:open="opened">
    <UButton variant="bare" :title="`Light: ${title}`">Light</UButton>
    <template #content>
      <section class="ub-sheet sheet" aria-label="Light">
        <URadioGroup :model-value="chosen" :items="choices" aria-label="Light" @update:model-value="choose">
          <template #description="{ item }">
            {{ item.description }}
            <UButton
              v-if="item.own && (!project.readOnly || !item.own.hash)"
              variant="link"
              :aria-label="`Remove ${item.own.name}`"
              @click="lights.remove(item.own)"
            >
              Remove from the project
            </UButton>
          </template>
        </URadioGroup>
        <NumberField
          label="Turned"
          :value="looking.turn"
          :shape="{ min: -180, max: 180, step: 5, unit: '°' }"
          :default-value="0"
          @change="looking.turn = $event"
          @reset="looking.turn = 0"
        />
        <NumberField
          label="Brightness"
          :value="looking.brightness"
          :shape="{ min: 0, max: 4, step: 0.05 }"
          :default-value="1"
          @change="looking.brightness = $event"
          @reset="looking.brightness = 1"
        />
        <UCheckbox v-model="looking.balls" class="check" label="A gray and a mirror ball (B)" />
        <p>
          <UButton variant="link" :disabled="Boolean(lights.busy)" @click="chooser?.open()">
            Light by a picture of your own …
          </UButton>
        </p>
        <p v-if="lights.busy" class="ub-quiet" role="status">{{ lights.busy }} …</p>
        <p v-else class="ub-quiet">
          HDR or EXR, latitude and longitude; kept with the project. Shown through the Khronos neutral tone mapper.
        </p>
        <p v-if="lights.problem" class="ub-warn" role="alert">{{ lights.problem }}</p>
        <FileChooser ref="chooser" accept=".hdr,.exr" label="Picture of light" @choose="lights.take($event[0]!)" />
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
button {
  color: var(--ub-quiet);
  white-space: nowrap;
}
.sheet {
  width: 320px;
}
.check {
  padding-top: 4px;
}
</style>
