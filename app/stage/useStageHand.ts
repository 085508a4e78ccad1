import { useEventListener, useThrottleFn } from '@vueuse/core'
import type { ShallowRef } from 'vue'
import { setParam } from '#core/graph/edit'
import { pinnedAgain } from '#core/graph/pins'
import { nodeOf } from '#core/graph/find'
import { evaluator } from '../shared/evaluation'
import type { Picked } from '../shared/evaluate.worker'
import { useRightClick } from '../shared/rightClick'
import type { Stage } from './stage'

type Held = Readonly<ShallowRef<HTMLElement | null>>

/**
 * What hands do on the canvas besides turning the mesh: clicks pick, boxes select, and keys turn.
 * @param told is told what lies under the cursor, and of a click with the right button
 */
export function useStageHand(
  stage: Readonly<Ref<Stage | undefined>>,
  mode: () => 'look' | 'mesh',
  { canvas, root }: { canvas: Held; root: Held },
  told: { picked: (what: Picked | null) => void; aim: () => void },
) {
  const project = useProject()
  const mesh = useMesh()
  const looking = useLooking()

  /** The part and the values at a point of the canvas. */
  async function pick(x: number, y: number): Promise<Picked | null> {
    const where = await stage.value!.at(x, y)
    return where && project.tables ? evaluator.pick(looking.shown, where) : null
  }
  let asked = 0
  const look = useThrottleFn(
    async (x: number, y: number) => {
      const mine = ++asked
      if (!stage.value || !project.tables) return
      const found = await pick(x, y)
      if (mine === asked) told.picked(found)
    },
    60,
    true,
  )
  const placeOf = (e: MouseEvent): [number, number] => {
    const box = canvas.value!.getBoundingClientRect()
    return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height]
  }
  function leave(): void {
    asked++
    told.picked(null)
  }

  useRightClick(
    canvas,
    async e => {
      if (stage.value && project.tables) {
        const part = (await pick(...placeOf(e)))?.part
        if (part !== undefined && !mesh.selected.has(part)) mesh.select([part])
      }
      told.aim()
    },
    root,
  )

  // Selecting: a click picks, Shift and a drag draw a box. Drags without Shift turn the mesh.
  const from = ref<[number, number] | null>(null)
  const to = ref<[number, number]>([0, 0])
  let pressed: [number, number] | undefined
  const boxing = computed(
    () =>
      from.value && {
        left: `${Math.min(from.value[0], to.value[0]) * 100}%`,
        top: `${Math.min(from.value[1], to.value[1]) * 100}%`,
        width: `${Math.abs(from.value[0] - to.value[0]) * 100}%`,
        height: `${Math.abs(from.value[1] - to.value[1]) * 100}%`,
      },
  )
  function press(e: PointerEvent): void {
    if (e.button !== 0 || !stage.value) return
    pressed = placeOf(e)
    if (!e.shiftKey || mode() !== 'mesh') return
    stage.value.turning = false
    from.value = to.value = pressed
  }
  function hover(e: PointerEvent): void {
    if (from.value) to.value = placeOf(e)
    else if (!e.buttons) void look(...placeOf(e))
  }
  async function release(e: PointerEvent): Promise<void> {
    const at = placeOf(e)
    const begun = pressed
    pressed = undefined
    if (!begun || !stage.value) return
    const { clientWidth, clientHeight } = canvas.value!
    const moved = Math.hypot((at[0] - begun[0]) * clientWidth, (at[1] - begun[1]) * clientHeight) > 4
    if (from.value) {
      from.value = null
      stage.value.turning = true
      if (moved) return mesh.choose(await stage.value.partsIn(...begun, ...at), 'add')
    } else if (moved) return
    const [x, y] = at
    if (mode() === 'look') {
      const hit = await pick(x, y)
      if (looking.dropper) {
        if (hit) looking.dropper.take(hit.channels.baseColor as [number, number, number])
        looking.dropper = null
      } else if (project.picking) {
        if (hit) pinPart(project.tables!.parts.parts[hit.part]!.key)
      } else if (hit) mesh.choose([hit.part], e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only')
      else if (!e.shiftKey) mesh.select([])
      return
    }
    const found = await stage.value.partsIn(x, y, x, y)
    if (mesh.pickInto) {
      if (found.length) mesh.pickInto.take(found[0]!)
      return
    }
    if (found.length) mesh.choose(found.slice(0, 1), e.shiftKey || e.ctrlKey || e.metaKey ? 'toggle' : 'only')
    else if (!e.shiftKey) mesh.select([])
  }
  /**
   * Adds a part to the list that is being picked into; one that is there already is rolled once more, or gets the next
   * color.
   */
  function pinPart(key: string): void {
    const { node: id, param } = project.picking!
    const node = nodeOf(project.page, id)
    if (node) project.editPage('Draw a part again', look => setParam(look, id, param, pinnedAgain(node, param, key)))
  }
  function key(e: KeyboardEvent): void {
    const moves: Record<string, [number, number, number]> = {
      ArrowLeft: [-0.1, 0, 1],
      ArrowRight: [0.1, 0, 1],
      ArrowUp: [0, -0.1, 1],
      ArrowDown: [0, 0.1, 1],
      '+': [0, 0, 0.9],
      '=': [0, 0, 0.9],
      '-': [0, 0, 1.1],
    }
    const move = moves[e.key]
    if (!move) return
    stage.value?.orbit(...move)
    e.preventDefault()
    e.stopPropagation()
  }

  useEventListener(canvas, 'pointerdown', press, { capture: true })
  useEventListener(canvas, 'pointermove', hover)
  useEventListener(canvas, 'pointerup', release)
  useEventListener(canvas, 'pointerleave', leave)
  useEventListener(canvas, 'keydown', key)

  return { boxing }
}
