<script setup lang="ts">
import { RIGS, type RigName } from '#core/trace/rigs'

const looking = useLooking()
const chooser = useTemplateRef('chooser')
const problem = ref('')
const title = computed(() => looking.rig === 'own' ? looking.ownLight!.name : RIGS[looking.rig].title)
async function take(e: Event): Promise<void> {
  const input = e.target as HTMLInputElement, file = input.files?.[0]
  input.value = ''
  if (!file) return
  problem.value = /\.(hdr|exr)$/i.test(file.name) ? '' : `${file.name} is no picture of light; Radiance HDR and OpenEXR files are.`
  if (problem.value) return
  looking.ownLight = { name: file.name, bytes: await file.arrayBuffer() }
  looking.rig = 'own'
}
</script>

<template>
  <UPopover :content="{ side: 'bottom', align: 'end' }">
    <button type="button" :title="`Light: ${title}`">Light</button>
    <template #content>
      <section class="ub-sheet light" aria-label="Light">
        <label v-for="(r, key) in RIGS" :key="key" class="choice" :title="r.help">
          <input type="radio" name="rig" :checked="looking.rig === key" @change="looking.rig = key as RigName"><span>{{ r.title }}</span><small v-if="looking.rig === key">{{ r.help }}</small>
        </label>
        <label v-if="looking.ownLight" class="choice"><input type="radio" name="rig" :checked="looking.rig === 'own'" @change="looking.rig = 'own'"><span>{{ looking.ownLight.name }}</span></label>
        <NumberField label="Turned" :value="looking.turn" :shape="{ min: -180, max: 180, step: 5, unit: '°' }" :default-value="0" @change="looking.turn = $event" @reset="looking.turn = 0" />
        <NumberField label="Brightness" :value="looking.brightness" :shape="{ min: 0, max: 4, step: 0.05 }" :default-value="1" @change="looking.brightness = $event" @reset="looking.brightness = 1" />
        <label class="check"><input v-model="looking.balls" type="checkbox"> A gray and a mirror ball (B)</label>
        <p><button type="button" class="ub-link" @click="chooser?.click()">Light by a picture of your own …</button></p>
        <p class="ub-quiet">HDR or EXR, latitude and longitude. Shown through the Khronos neutral tone mapper.</p>
        <p v-if="problem" class="ub-warn" role="alert">{{ problem }}</p>
        <input ref="chooser" type="file" accept=".hdr,.exr" hidden aria-label="Picture of light" @change="take">
      </section>
    </template>
  </UPopover>
</template>

<style scoped>
button { color: var(--ub-quiet); white-space: nowrap; }
.light { width: 320px; }
.choice { display: grid; grid-template-columns: 20px 1fr; padding: 2px 0; cursor: pointer; }
.choice input { align-self: center; }
.choice small { grid-column: 2; color: var(--ub-quiet); font-size: 11.5px; }
.check { display: flex; gap: 8px; align-items: center; padding-top: 4px; }
</style>
