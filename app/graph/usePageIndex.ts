import { createSharedComposable } from '@vueuse/core'

/**
 * What cards ask of the page that they lie on, found once for all of them: with hundreds of cards, each looking through
 * hundreds of wires, every change would take a tenth of a second.
 */
export const usePageIndex = createSharedComposable(() => {
  const project = useProject()
  /** Names of the inputs that wires come into, by node. */
  const wired = computed(() => {
    const found = new Map<string, string[]>()
    for (const { to } of project.page.wires) {
      const ports = found.get(to.node)
      if (ports) ports.push(to.port)
      else found.set(to.node, [to.port])
    }
    return found
  })
  /** What the checks found, by node; they look at the look, not into recipes. */
  const findings = computed(() => {
    const found = new Map<string, string>()
    if (project.scope.length) return found
    for (const { node, message } of project.findings) {
      if (!node) continue
      const before = found.get(node)
      found.set(node, before ? `${before}\n${message}` : message)
    }
    return found
  })
  return { wired, findings }
})
