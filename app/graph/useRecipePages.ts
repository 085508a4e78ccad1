import { pageOf } from '#core/graph/scope'

/**
 * Opens and closes recipes, one inside the other.
 * @param recipes the ids of the selected recipes
 * @param fit brings the graph into view
 */
export function useRecipePages(recipes: Readonly<Ref<readonly string[]>>, fit: () => void) {
  const project = useProject()

  /** Names of the pages from the look to the one that is open. */
  const path = computed(() => [
    project.look.name || 'Look',
    ...project.scope.map((_, i) => pageOf(project.look, project.scope.slice(0, i + 1)).name),
  ])
  const crumbs = computed(() => path.value.map(label => ({ label })))
  function open(): void {
    if (recipes.value.length !== 1) return
    project.enter([...project.scope, recipes.value[0]!])
    nextTick(() => setTimeout(fit, 60))
  }
  function close(): void {
    const last = project.scope.at(-1)
    project.enter(project.scope.slice(0, -1))
    if (last)
      nextTick(() => {
        project.selected = [last]
      })
    nextTick(() => setTimeout(fit, 60))
  }

  return { crumbs, open, close }
}
