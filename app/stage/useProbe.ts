import { nodeOf } from '#core/graph/find'

/** The port that is looked at in place of the result. */
export function useProbe() {
  const project = useProject()
  const probe = shallowRef<{ node: string; port: string } | null>(null)
  /** As the program names it: with the recipes that are open. */
  const probeKey = computed(() =>
    probe.value ? [...project.scope, probe.value.node, probe.value.port].join('/') : undefined,
  )
  watch(
    () => [project.page, project.scope] as const,
    ([page, scope], [, before]) => {
      if (probe.value && (scope !== before || !nodeOf(page, probe.value.node))) probe.value = null
    },
  )
  /** Looks at a port; at the same one again, back at the result. */
  function look(node: string, port: string): void {
    probe.value = probe.value?.node === node && probe.value.port === port ? null : { node, port }
  }
  return { probe, probeKey, look }
}
