import { hasSeed } from '#core/graph/recipe'

/** How many rolls a sheet can have. */
export const COUNTS = [4, 9, 16, 25, 36, 64] as const

/** What of the look is rolled, and which rolls are on the sheet. */
export function useRolls() {
  const project = useProject()
  const count = ref<(typeof COUNTS)[number]>(16)
  /** The first roll of the sheet after the look as it is. */
  const first = ref(1)
  /** The nodes that are rolled alone; none where all are. */
  const only = ref<readonly string[]>([])
  const drawing = computed(() => project.look.nodes.filter(hasSeed))
  const rolled = computed(() => {
    const there = only.value.filter(id => drawing.value.some(n => n.id === id))
    return there.length ? new Set(there) : undefined
  })
  /** Rolls a node alone, or with those that are rolled alone; or leaves it out again. */
  function toggleDraw(id: string): void {
    only.value = only.value.includes(id) ? only.value.filter(other => other !== id) : [...only.value, id]
  }
  const more = (): void => {
    first.value += count.value - 1
  }
  const back = (): void => {
    first.value = Math.max(1, first.value - (count.value - 1))
  }
  /** Another look begins anew. */
  function forget(): void {
    first.value = 1
    only.value = []
  }
  return { count, first, only, drawing, rolled, toggleDraw, more, back, forget }
}
