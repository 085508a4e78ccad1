<script setup lang="ts">
/** `optional`: naming none means something. */
defineProps<{ label: string; value: string; help?: string; optional?: boolean }>()
const emit = defineEmits<{ change: [value: string] }>()
const project = useProject()
const chooser = useTemplateRef('chooser')
const said = ref('')
async function add(file: File): Promise<void> {
  said.value = (await project.addPicture(file)) ?? ''
  if (!said.value) emit('change', file.name)
}
</script>

<template>
  <div>
    <label class="ub-row">
      <span :title="help">{{ label }}</span>
      <ChoiceField
        :value="value"
        :label="label"
        :choices="project.pictures.map(p => ({ value: p.name, title: `${p.name} (${p.width} x ${p.height})` }))"
        :none="optional ? 'None' : 'Choose a picture'"
        :gone="`${value} (not in this project)`"
        @change="emit('change', $event)"
      />
    </label>
    <p class="ub-row">
      <span /><UButton variant="link" @click="chooser?.open()">Add a picture (PNG, JPEG, WebP, EXR)</UButton>
    </p>
    <p v-if="said" class="ub-warn" role="alert">{{ said }}</p>
    <FileChooser
      ref="chooser"
      accept="image/png,image/jpeg,image/webp,.exr"
      label="Picture file"
      @choose="add($event[0]!)"
    />
  </div>
</template>

<style scoped>
.ub-row {
  justify-items: start;
}
</style>
