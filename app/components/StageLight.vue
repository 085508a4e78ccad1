<script setup lang="ts">
import { RIGS, type RigName } from '#core/trace/rigs'

const looking = useLooking()
const lights = useLights()
const project = useProject()
const chooser = useTemplateRef('chooser')
const title = computed(() => (looking.rig === 'own' ? looking.ownLight!.name : RIGS[looking.rig].title))

function take(e: Event): void {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void lights.take(file)
}
const opened = (open: boolean): void => {
  if (open) void lights.load()
}
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }" @update:open="opened">
    <button type="button" :title="`Light: ${title}`">Light</button>
    <template #content>
      <section class="ub-sheet light" aria-label="Light">
        <label v-for="(r, key) in RIGS" :key="key" class="choice" :title="r.help">
          <input
            type="radio"
            name="rig"
            :checked="looking.rig === key"
            @change="looking.rig = key as RigName"
          /><span>{{ r.title }}</span
          ><small v-if="looking.rig === key">{{ r.help }}</small>
        </label>
        <div v-for="own in lights.list" :key="own.name" class="own">
          <label class="choice">
            <input
              type="radio"
              name="rig"
              :checked="looking.rig === 'own' && looking.ownLight?.name === own.name"
              @change="lights.choose(own)"
            /><span class="name">{{ own.name }}</span>
            <small v-if="!own.hash">Not kept with the project.</small>
          </label>
          <button
            v-if="!project.readOnly || !own.hash"
            type="button"
            class="remove"
            :aria-label="`Remove ${own.name}`"
            title="Remove from the project"
            @click="lights.remove(own)"
          >
            <UIcon name="i-lucide-x" />
          </button>
        </div>
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
        <label class="check"><input v-model="looking.balls" type="checkbox" /> A gray and a mirror ball (B)</label>
        <p>
          <button type="button" class="ub-link" :disabled="Boolean(lights.busy)" @click="chooser?.click()">
            Light by a picture of your own …
          </button>
        </p>
        <p v-if="lights.busy" class="ub-quiet" role="status">{{ lights.busy }} …</p>
        <p v-else class="ub-quiet">
          HDR or EXR, latitude and longitude; kept with the project. Shown through the Khronos neutral tone mapper.
        </p>
        <p v-if="lights.problem" class="ub-warn" role="alert">{{ lights.problem }}</p>
        <input ref="chooser" type="file" accept=".hdr,.exr" hidden aria-label="Picture of light" @change="take" />
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
button {
  color: var(--ub-quiet);
  white-space: nowrap;
}
.light {
  width: 320px;
}
.choice {
  display: grid;
  grid-template-columns: 20px 1fr;
  padding: 2px 0;
  cursor: pointer;
}
.choice input {
  align-self: center;
}
.choice small {
  grid-column: 2;
  color: var(--ub-quiet);
  font-size: 11.5px;
}
.own {
  display: flex;
  align-items: start;
}
.own .choice {
  flex: 1;
  min-width: 0;
}
.own .name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.remove {
  width: 24px;
  height: 24px;
  display: grid;
  place-items: center;
}
.remove:hover {
  color: var(--ub-ink);
}
.check {
  display: flex;
  gap: 8px;
  align-items: center;
  padding-top: 4px;
}
</style>
