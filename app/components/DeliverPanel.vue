<script setup lang="ts">
import * as Comlink from 'comlink'
import { BAKE_SIZES } from '#core/bake/textures'
import type { EvaluatorApi, DeliverySettings } from '../workers/evaluate.worker'

const project = useProject()
const settings = reactive<DeliverySettings>({ format: 'glb', size: 1024, colorIn: 'texture' })
// The checks judge fine detail by what is to be delivered.
watch(() => settings.size, (size) => { project.texels = size }, { immediate: true })
const share = ref<number | null>(null)
const failure = ref('')
const done = ref<{ name: string, bytes: number } | null>(null)
let worker: Worker | undefined

const noUvs = computed(() => Boolean(project.tables && !project.tables.mesh.uvs))
const errors = computed(() => project.findings.filter(f => f.severity === 'error'))
const blocked = computed(() => !project.tables
  ? 'The project has no mesh yet. Bring one in on the Mesh tab.'
  : errors.value.length
    ? `The look has an error: ${errors.value[0]!.message}`
    : noUvs.value && settings.format === 'glb' && settings.colorIn === 'texture' ? 'Textures need UVs, and the mesh has none; vertex colors work without.' : '')

async function deliver(): Promise<void> {
  failure.value = ''
  done.value = null
  share.value = 0
  // A worker of its own: the stage stays quick, and stopping is a matter of ending it.
  worker = new Worker(new URL('../workers/evaluate.worker.ts', import.meta.url), { type: 'module' })
  try {
    const api = Comlink.wrap<EvaluatorApi>(worker)
    await project.openElsewhere(api)
    const answer = await api.deliver(project.look, { ...settings }, Comlink.proxy((x: number) => { share.value = x }))
    if ('error' in answer) throw new Error(answer.error)
    const name = `${(project.look.name || project.meta!.name).toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '') || 'look'}.${settings.format}`
    save(name, answer.ok)
    done.value = { name, bytes: answer.ok.length }
  }
  catch (error) {
    failure.value = (error as Error).message
  }
  finally {
    stop()
  }
}
function save(name: string, bytes: Uint8Array): void {
  const url = URL.createObjectURL(new Blob([bytes as Uint8Array<ArrayBuffer>], { type: settings.format === 'glb' ? 'model/gltf-binary' : 'text/csv' }))
  const link = Object.assign(document.createElement('a'), { href: url, download: name })
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
function stop(): void {
  worker?.terminate()
  worker = undefined
  share.value = null
}
onBeforeUnmount(stop)
</script>

<template>
  <section class="deliver" aria-label="Deliver">
    <h2>Deliver</h2>
    <p class="lead">The look leaves as open files. What they carry is computed from the same program as the stage.</p>
    <fieldset>
      <legend>File</legend>
      <label><input v-model="settings.format" type="radio" value="glb"> <span><b>GLB</b> The mesh with the look on it, for any glTF viewer or renderer.</span></label>
      <label><input v-model="settings.format" type="radio" value="csv"> <span><b>CSV</b> A table: key, name, area and mean of each channel for every part.</span></label>
    </fieldset>
    <template v-if="settings.format === 'glb'">
      <fieldset>
        <legend>Base color goes into</legend>
        <label><input v-model="settings.colorIn" type="radio" value="texture"> <span><b>A texture</b> through the UVs, with the metallic-roughness texture.</span></label>
        <label><input v-model="settings.colorIn" type="radio" value="vertices"> <span><b>Vertex colors</b> in <code>COLOR_0</code>. Metalness and roughness still use textures where there are UVs.</span></label>
        <p class="note">Never both: viewers multiply one with the other.</p>
      </fieldset>
      <fieldset>
        <legend>Texture size</legend>
        <div class="sizes">
          <label v-for="s in BAKE_SIZES" :key="s"><input v-model="settings.size" type="radio" :value="s"> <span class="num">{{ s }}</span></label>
        </div>
      </fieldset>
    </template>
    <p v-if="blocked" class="problem" role="alert">{{ blocked }}</p>
    <div class="go">
      <UButton v-if="share === null" color="primary" :disabled="Boolean(blocked)" @click="deliver">Deliver</UButton>
      <template v-else>
        <progress :value="share" max="1" aria-label="Delivery" /><span class="num">{{ Math.round(share * 100) }} %</span>
        <UButton color="neutral" variant="outline" @click="stop">Stop</UButton>
      </template>
    </div>
    <p v-if="failure" class="problem" role="alert">{{ failure }}</p>
    <p v-if="done" role="status">{{ done.name }} is written, {{ (done.bytes / 2 ** 20).toFixed(1) }} MB.</p>
  </section>
</template>

<style scoped>
.deliver { padding: 22px 28px; overflow-y: auto; background: var(--ub-canvas); }
h2 { font-size: 18px; font-weight: 600; }
.lead, .note { color: var(--ub-quiet); max-width: 60ch; }
fieldset { margin-top: 18px; max-width: 560px; }
legend { font-weight: 500; padding-bottom: 4px; }
label { display: flex; gap: 9px; padding: 4px 0; align-items: baseline; cursor: pointer; }
label b { font-weight: 500; }
input { accent-color: var(--ub-accent); }
.sizes { display: flex; gap: 24px; }
.go { display: flex; align-items: center; gap: 12px; margin: 22px 0 10px; min-height: 34px; }
progress { width: 240px; }
.problem { color: var(--ub-warn); max-width: 60ch; }
code { font-family: var(--font-mono); }
</style>
