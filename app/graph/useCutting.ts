import type { ShallowRef } from 'vue'
import { disconnect } from '#core/graph/edit'
import type { Wire } from '#core/graph/look'
import { wireAt } from './wireAt'

/** Takes wires away by a line that is drawn across them. */
export function useCutting(holder: Readonly<ShallowRef<HTMLElement | null>>) {
  const project = useProject()

  // Cutting: a line drawn with Alt held takes away every wire that it crosses.
  const cut = shallowRef<{ from: [number, number]; to: [number, number]; wires: Wire[] } | null>(null)
  function startCut(e: PointerEvent): void {
    if (!e.altKey || e.button !== 0 || !(e.target as Element).closest('.vue-flow__pane, .vue-flow__edge')) return
    e.stopPropagation()
    e.preventDefault()
    ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
    const box = holder.value!.getBoundingClientRect()
    const at: [number, number] = [e.clientX - box.left, e.clientY - box.top]
    cut.value = { from: at, to: at, wires: [] }
  }
  function moveCut(e: PointerEvent): void {
    const c = cut.value
    if (!c) return
    const box = holder.value!.getBoundingClientRect()
    const to: [number, number] = [e.clientX - box.left, e.clientY - box.top]
    const found = new Set(c.wires)
    const steps = Math.ceil(Math.hypot(to[0] - c.to[0], to[1] - c.to[1]) / 4)
    for (let i = 1; i <= steps; i++) {
      const wire = wireAt(
        project.page.wires,
        box.left + c.to[0] + ((to[0] - c.to[0]) * i) / steps,
        box.top + c.to[1] + ((to[1] - c.to[1]) * i) / steps,
      )
      if (wire) found.add(wire)
    }
    cut.value = { ...c, to, wires: [...found] }
  }
  function endCut(): void {
    const gone = cut.value?.wires ?? []
    cut.value = null
    if (gone.length)
      project.editPage(gone.length === 1 ? 'Remove wire' : 'Remove wires', look => disconnect(look, gone))
  }

  return { cut, startCut, moveCut, endCut }
}
