<script setup lang="ts">
import { useElementSize, useDevicePixelRatio } from '@vueuse/core'
import type { WholeValues } from '#core/evaluate/gather'
import type { Look } from '#core/graph/look'
import type { TileLight } from '../compare/useSheet'
import { evaluator, kernels } from '../shared/evaluation'
import type { Picked } from '../shared/evaluate.worker'
import { count } from '../shared/units'
import type { Sight } from './eyes'
import { drawsInSoftware } from './drawsInSoftware'
import type { ProofAsked } from './proof'
import { putBackEasel, takeEasel } from './easel'
import { Stage } from './stage'
import type { Standing } from './standing'
import { useLookOnStage } from './useLookOnStage'
import { useStageFeed } from './useStageFeed'
import { useStageHand } from './useStageHand'
import { useStageMarks } from './useStageMarks'

/** `mode` is what the stage is for: judging the look, or looking at what the mesh is made of. */
const props = defineProps<{ mode: 'look' | 'mesh' }>()
const emit = defineEmits<{ picked: [what: Picked | null]; aim: [] }>()
const project = useProject()
const mesh = useMesh()
const looking = useLooking()
const holder = useTemplateRef('holder')
const root = useTemplateRef('root')
/** What is said of the canvas, which is not of the template: it outlives this. */
const CANVAS = {
  tabindex: '0',
  role: 'img',
  'aria-label': 'The mesh. Arrow keys turn it, plus and minus move nearer and farther.',
}
const canvas = shallowRef<HTMLCanvasElement | null>(null)
const { width, height } = useElementSize(holder)
const { pixelRatio } = useDevicePixelRatio()
const stage = shallowRef<Stage>()
/**
 * Counts frames, for what is laid over the canvas; held in an object, since a ref that the template reads draws all of
 * this anew.
 */
const clock = { frames: ref(0) }
const failure = ref('')

onMounted(async () => {
  const loaded = await kernels()
  if (!holder.value) return
  const software = drawsInSoftware()
  const settings = { backend: looking.backend(software), software, threads: looking.threads }
  try {
    const easel = takeEasel(settings.backend === 'card')
    canvas.value = easel.canvas
    for (const [name, value] of Object.entries(CANVAS)) easel.canvas.setAttribute(name, value)
    holder.value.prepend(easel.canvas)
    // What is listened to here comes before what the stage listens to.
    await nextTick()
    if (!holder.value) return putBackEasel(easel)
    stage.value = markRaw(new Stage(easel, loaded, settings))
  } catch {
    failure.value =
      'The stage needs WebGL 2, which this browser does not offer. The graph and the delivery work without it.'
    return
  }
  looking.evaluatedBy = stage.value.backend.name
  note({ backend: looking.evaluatedBy })
  stage.value.drawn = tell
  stage.value.outdated = () => {
    note({ picture: 'sharp' })
    if (looking.standing) looking.standing = { ...looking.standing, final: false }
  }
})
onBeforeUnmount(() => {
  stage.value?.dispose()
  // From now on it may be another stage's.
  canvas.value = null
})

/** Writes onto the canvas what whoever measures needs to know. */
function note(what: Record<string, string | number>): void {
  for (const [name, value] of Object.entries(what)) if (canvas.value) canvas.value.dataset[name] = String(value)
}
/** What the foot line and whoever measures need to know of the picture. */
function tell(standing: Standing): void {
  const { samples, evaluated, visible, ever } = standing
  note({ frames: ++clock.frames.value, submitMs: standing.submitMs.toFixed(3), compiled: stage.value!.compiled })
  note({ picture: pictureIs(standing), samples, evaluated, visible, ever })
  looking.standing = standing
  placeMarks()
}
function pictureIs({ step, final }: Standing): string {
  if (final) return 'final'
  if (step === 0) return 'none'
  return step > 1 ? 'coarse' : 'sharp'
}

const purpose = (): 'look' | 'mesh' => props.mode
watch([stage, width, height, pixelRatio], () =>
  stage.value?.resize(width.value, height.value, Math.min(2, pixelRatio.value)),
)
const { channels, lagging, costly } = useLookOnStage(stage, ms => {
  note({ updateMs: ms.toFixed(3) })
})
// After the mesh is set, so that the values of what is shown fit its vertices.
useStageFeed(stage, purpose, costly)
const { marks, placeMarks } = useStageMarks(stage, purpose)
const { boxing } = useStageHand(
  stage,
  purpose,
  { canvas, root },
  { picked: what => emit('picked', what), aim: () => emit('aim') },
)
const frame = (): void => stage.value?.frame(mesh.selected.size ? mesh.selected : undefined)

defineExpose({
  picture: (w: number, h: number) => stage.value?.picture(w, h) ?? Promise.resolve(null),
  frame,
  proof: (asked: ProofAsked) => stage.value?.proof(asked) ?? Promise.resolve(null),
  eyePoint: () => stage.value?.eyePoint,
  viewKey: () => stage.value?.viewKey,
  endSheet: () => stage.value?.tiles.end(),
  /** The part at a place of the picture, 0 to 1 from its upper left corner. */
  partAt: async (x: number, y: number): Promise<number | null> => {
    const at = await stage.value?.at(x, y)
    return at && 'triangle' in at ? project.tables!.parts.partOfTriangle[at.triangle]! : null
  },
  width: () => stage.value?.width ?? 0,
  /** Moves the camera around what it looks at, by angles in radians, and away from it by a factor. */
  orbit: (turn: number, tilt: number, zoom: number) => stage.value?.orbit(turn, tilt, zoom),
  standAt: (from: [number, number, number], to: [number, number, number]) => stage.value?.standAt(from, to),
  heightSeen: () => stage.value?.eyes.heightSeen,
  tile(look: Look, width: number, count: number, light?: TileLight, sight?: Sight) {
    const gather = (l: Look, exact: boolean): Promise<WholeValues> => {
      // What the worker has sent for the stage's own look does not hold for this one.
      costly.forget()
      return evaluator.gatherOther(l, exact ? 'exact' : 'soon')
    }
    return stage.value?.tiles.take(look, width, count, gather, light, sight) ?? Promise.resolve(null)
  },
})
</script>

<template>
  <section ref="root" class="stage" aria-label="Stage">
    <div ref="holder" class="holder">
      <span v-for="m in marks" :key="m.text" class="mark" :style="{ left: `${m.x * 100}%`, top: `${m.y * 100}%` }">{{
        m.text
      }}</span>
      <span v-if="boxing" class="box" :style="boxing" />
      <p v-if="mesh.hidden.size && project.tables" class="veiled">
        {{ count(mesh.hidden.size, 'part') }} hidden <UButton variant="bare" @click="mesh.hide([])">Show all</UButton>
      </p>
      <p v-if="mesh.pickInto && mode === 'mesh'" class="veiled" role="status">
        Click parts to put them in or take them out <UButton variant="bare" @click="mesh.pickInto = null">Done</UButton>
      </p>
      <p v-if="lagging && mode === 'look'" class="lagging" role="status">Coverage and the like are catching up</p>
      <template v-if="mode === 'look'">
        <StageHandles v-if="stage && project.tables" :stage="stage" :frames="clock.frames" />
        <StageWipe v-if="looking.kept" />
        <StageSays />
      </template>
      <p v-if="failure" class="notice">{{ failure }}</p>
      <slot />
    </div>
    <StageBar :mode="mode" :channels="channels" @fit="frame" />
  </section>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: 1fr auto;
  grid-template-columns: minmax(0, 1fr);
  min-height: 0;
}
.stage.alone {
  position: fixed;
  inset: 0;
  z-index: 30;
  grid-template-rows: 1fr;
  background: var(--ub-stage);
}
.stage.alone .edge {
  position: absolute;
  left: 50%;
  bottom: 14px;
  transform: translateX(-50%);
  max-width: calc(100% - 32px);
  border: 1px solid var(--ub-line);
  background: color-mix(in srgb, var(--ub-panel) 78%, transparent);
  backdrop-filter: blur(6px);
}
.holder {
  position: relative;
  min-height: 0;
  background: var(--ub-stage);
  overflow: hidden;
}
.holder :deep(> canvas) {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
  /* Over what the camera's controls write onto it. */
  cursor: grab !important;
}
.holder :deep(> canvas:active) {
  cursor: grabbing !important;
}
.holder :deep(> canvas:focus-visible) {
  outline-offset: -3px;
}
.notice {
  position: absolute;
  inset: auto 16px 16px;
  padding: 10px 12px;
  background: var(--ub-card);
}
.mark {
  position: absolute;
  transform: translate(5px, -50%);
  padding: 0 5px;
  font-size: 11px;
  background: var(--ub-card);
  pointer-events: none;
}
.mark::before {
  content: '';
  position: absolute;
  left: -8px;
  top: 50%;
  width: 6px;
  height: 6px;
  margin-top: -4px;
  border: 1.5px solid var(--ub-text);
  background: var(--ub-card);
  border-radius: 50%;
}
.box {
  position: absolute;
  border: 1px dashed var(--ub-accent);
  background: color-mix(in srgb, var(--ub-accent) 12%, transparent);
  pointer-events: none;
}
.veiled {
  position: absolute;
  left: 12px;
  bottom: 34px;
  padding: 2px 8px;
  font-size: 12px;
  background: var(--ub-card);
  color: var(--ub-quiet);
}
.lagging {
  position: absolute;
  right: 12px;
  bottom: 8px;
  padding: 2px 8px;
  font-size: 12px;
  background: var(--ub-card);
  color: var(--ub-quiet);
  pointer-events: none;
}
.veiled button {
  color: var(--ub-text);
  text-decoration: underline;
  text-underline-offset: 3px;
  margin-left: 6px;
}
</style>
