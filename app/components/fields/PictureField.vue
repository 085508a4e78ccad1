<script setup lang="ts">
defineProps<{ label: string; value: string; help?: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const project = useProject()
const chooser = useTemplateRef('chooser')
const said = ref('')
async function add(e: Event): Promise<void> {
  const target = e.target as HTMLInputElement
  const [file] = target.files ?? []
  if (!file) return
  said.value = (await project.addPicture(file)) ?? ''
  if (!said.value) emit('change', file.name)
  target.value = ''
}
</script>

<template>
  <div>
    <label class="ub-row">
      <span :title="help">{{ label }}</span>
      <select :value="value" @change="emit('change', ($event.target as HTMLSelectElement).value)" @keydown.stop>
        <option value="">Choose a picture</option>
        <option v-if="value && !project.pictures.some(p => p.name === value)" :value="value">
          {{ value }} (not in this project)
        </option>
        <option v-for="p in project.pictures" :key="p.name" :value="p.name">
          {{ p.name }} ({{ p.width }} x {{ p.height }})
        </option>
      </select>
    </label>
    <p class="ub-row">
      <span /><button type="button" class="ub-link" @click="chooser?.click()">Add a picture (PNG, JPEG, WebP)</button>
    </p>
    <p v-if="said" class="ub-warn" role="alert">{{ said }}</p>
    <input
      ref="chooser"
      type="file"
      accept="image/png,image/jpeg,image/webp"
      hidden
      aria-label="Picture file"
      @change="add"
    />
  </div>
</template>

<style scoped>
.ub-row {
  justify-items: start;
}
</style>
