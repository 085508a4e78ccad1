<script setup lang="ts">
import { useElementSize, useDevicePixelRatio, useThrottleFn } from '@vueuse/core'
import { CHANNELS } from '#core/graph/types'
import { evaluator, kernels } from '../evaluation'
import { Stage } from '../stage/stage'
import { VIEWS, type View } from '../stage/lookMaterial'
import type { Picked } from '../workers/evaluate.worker'

const emit = defineEmits<{ picked: [what: Picked | null] }>()
const project = useProject()
const colorMode = useColorMode()
const holder = useTemplateRef('holder'), canvas = useTemplateRef('canvas')
const { width, height } = useElementSize(holder)
const { pixelRatio } = useDevicePixelRatio()
const stage = shallowRef<Stage>()
const view = ref<View>('finished')
const failure = ref('')
const titles: Record<View, string> = { finished: 'Finished', ...Object.fromEntries(Object.entries(CHANNELS).map(([k, c]) => [k, c.title])) } as Record<View, string>

onMounted(async () => {
  const loaded = await kernels()
  try {
    stage.value = markRaw(new Stage(canvas.value!, loaded))
  }
  catch {
    failure.value = 'The stage needs WebGL 2, which this browser does not offer. The graph and the delivery work without it.'
    return
  }
  stage.value.drawn = (submitMs) => {
    const { dataset } = canvas.value!
    dataset.frames = String(Number(dataset.frames ?? 0) + 1)
    dataset.submitMs = submitMs.toFixed(3)
    dataset.compiled = String(stage.value!.material.compiled)
  }
})
onBeforeUnmount(() => stage.value?.dispose())

watch([stage, width, height, pixelRatio], () => stage.value?.resize(width.value, height.value, Math.min(2, pixelRatio.value)))
watch([stage, () => project.tables], () => { if (stage.value && project.tables) stage.value.setMesh(project.tables) })
watch([stage, () => project.tables, () => project.look], () => {
  if (!stage.value || !project.tables) return
  const from = performance.now()
  stage.value.setLook(project.look)
  canvas.value!.dataset.updateMs = (performance.now() - from).toFixed(3)
})
watch([stage, view], () => stage.value?.setView(view.value))
watch([stage, () => colorMode.value], () => {
  stage.value?.setBackground(getComputedStyle(document.documentElement).getPropertyValue('--ub-stage').trim())
}, { flush: 'post' })

let asked = 0
const look = useThrottleFn(async (x: number, y: number) => {
  const mine = ++asked
  if (!stage.value || !project.tables) return
  const found = await evaluator.pick(project.look, stage.value.ray(x, y))
  if (mine === asked) emit('picked', found)
}, 60, true)
function hover(e: PointerEvent): void {
  if (e.buttons) return
  const box = canvas.value!.getBoundingClientRect()
  void look((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height)
}
function leave(): void {
  asked++
  emit('picked', null)
}
function key(e: KeyboardEvent): void {
  const moves: Record<string, [number, number, number]> = {
    ArrowLeft: [-0.1, 0, 1], ArrowRight: [0.1, 0, 1], ArrowUp: [0, -0.1, 1], ArrowDown: [0, 0.1, 1], '+': [0, 0, 0.9], '=': [0, 0, 0.9], '-': [0, 0, 1.1],
  }
  const move = moves[e.key]
  if (!move) return
  stage.value?.orbit(...move)
  e.preventDefault()
  e.stopPropagation()
}
defineExpose({ picture: (w: number, h: number) => stage.value?.picture(w, h) ?? Promise.resolve(null), frame: () => stage.value?.frame() })
</script>

<template>
  <section class="stage" aria-label="Stage">
    <div ref="holder" class="holder">
      <canvas ref="canvas" tabindex="0" role="img" aria-label="The mesh. Arrow keys turn it, plus and minus move nearer and farther." @pointermove="hover" @pointerleave="leave" @keydown="key" />
      <p v-if="failure" class="notice">{{ failure }}</p>
      <slot />
    </div>
    <div class="edge" role="radiogroup" aria-label="What the stage shows">
      <label v-for="v in VIEWS" :key="v" :class="{ on: view === v }">
        <input v-model="view" type="radio" name="view" :value="v" @keydown.stop>{{ titles[v] }}
      </label>
      <span class="grow" />
      <button type="button" title="Show the whole mesh (F)" @click="stage?.frame()">Frame</button>
    </div>
  </section>
</template>

<style scoped>
.stage { display: grid; grid-template-rows: 1fr auto; min-height: 0; }
.holder { position: relative; min-height: 0; background: var(--ub-stage); overflow: hidden; }
canvas { position: absolute; inset: 0; width: 100%; height: 100%; display: block; touch-action: none; cursor: grab; }
canvas:active { cursor: grabbing; }
canvas:focus-visible { outline-offset: -3px; }
.notice { position: absolute; inset: auto 16px 16px; padding: 10px 12px; background: var(--ub-card); }
.edge { display: flex; align-items: stretch; height: 30px; border-bottom: 1px solid var(--ub-line); padding: 0 14px; gap: 14px; }
label, button { display: flex; align-items: center; color: var(--ub-quiet); cursor: pointer; border-bottom: 2px solid transparent; }
label:hover, button:hover { color: var(--ub-text); }
label.on { color: var(--ub-text); font-weight: 500; border-bottom-color: var(--ub-accent); }
label:focus-within { outline: 2px solid var(--ub-accent); }
input { position: absolute; opacity: 0; pointer-events: none; }
.grow { flex: 1; }
</style>
