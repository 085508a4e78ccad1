import type { ShallowRef } from 'vue'
import type { Connection, VueFlowStore } from '@vue-flow/core'
import { connect, connectThrough } from '#core/graph/edit'
import { refusal, type Port, type Refusal } from '#core/graph/ports'

/** A wire that is being drawn, from the port where it began. */
export interface Drawn {
  node: string
  port: string
  source: boolean
}

/**
 * Draws wires between ports: what does not fit is refused with its reason, and with the node that would make it right.
 * @param dropped is told of a wire that is let go over the empty canvas
 */
export function useWiring(
  flow: VueFlowStore,
  holder: Readonly<ShallowRef<HTMLElement | null>>,
  dropped: (e: MouseEvent, from: Drawn) => void,
) {
  const project = useProject()

  // These hold plain objects that end up in the look, so they must not turn into proxies: shallow refs.
  // Connecting: the reason for a refusal shows beside the pointer while the wire is drawn.
  const drawing = shallowRef<Drawn | null>(null)
  const refused = shallowRef<(Refusal & { from: Port; to: Port }) | null>(null)
  const offer = shallowRef<(Refusal & { from: Port; to: Port; x: number; y: number }) | null>(null)
  const pointer = ref({ x: 0, y: 0 })
  const ends = (c: Connection): [Port, Port] => [
    { node: c.source, port: c.sourceHandle! },
    { node: c.target, port: c.targetHandle! },
  ]
  function valid(c: Connection): boolean {
    // Wires of the look are asked for, too; what is wrong with one of them the checks say.
    if (!drawing.value) return true
    const [from, to] = ends(c)
    const why = refusal(project.page, from, to)
    refused.value = why && { ...why, from, to }
    return !why
  }
  let made = false
  flow.onConnectStart(({ nodeId, handleId, handleType }) => {
    drawing.value = { node: nodeId!, port: handleId!, source: handleType === 'source' }
    refused.value = null
    offer.value = null
    made = false
  })
  flow.onConnect(c => {
    made = true
    project.editPage('Connect', look => connect(look, ...ends(c)))
  })
  flow.onConnectEnd(event => {
    const start = drawing.value
    drawing.value = null
    const target = event && 'clientX' in event ? document.elementFromPoint(event.clientX, event.clientY) : null
    if (!made && refused.value?.bridge && target?.closest('.vue-flow__handle'))
      offer.value = { ...refused.value, ...pointer.value }
    else if (!made && start && event && target?.classList.contains('vue-flow__pane'))
      dropped(event as MouseEvent, start)
    refused.value = null
  })
  function takeOffer(): void {
    const { from, to } = offer.value!
    project.editPage('Connect through a new node', look => connectThrough(look, from, to))
    offer.value = null
  }
  function follow(e: PointerEvent): void {
    const box = holder.value!.getBoundingClientRect()
    pointer.value = { x: e.clientX - box.left, y: e.clientY - box.top }
    // Away from every port there is nothing to refuse.
    if (refused.value && !(e.target as Element).closest?.('.vue-flow__handle')) refused.value = null
  }

  return { refused, offer, pointer, valid, takeOffer, follow }
}
