/**
 * A list of entries that a field edits one at a time: which is chosen, and what is done with it.
 * @param least entries that stay whatever is removed
 */
export function useEntries<T extends object>(
  entries: () => readonly T[],
  limits: { least: number; most: number },
  emit: { change: (value: T[]) => void; settle: () => void },
) {
  const chosen = ref(0)
  const entry = computed(() => entries()[Math.min(chosen.value, entries().length - 1)]!)
  const replace = (change: Partial<T>): void =>
    emit.change(entries().map((e, i) => (i === chosen.value ? { ...e, ...change } : e)))
  function add(made: T): void {
    if (entries().length >= limits.most) return
    const at = entries().length
    emit.change([...entries(), made])
    emit.settle()
    chosen.value = at
  }
  function remove(): void {
    if (entries().length <= limits.least) return
    emit.change(entries().filter((_, i) => i !== chosen.value))
    emit.settle()
    chosen.value = Math.max(0, chosen.value - 1)
  }
  function grab(e: PointerEvent, i: number): void {
    chosen.value = i
    ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  }
  /** Is what was grabbed still held? */
  const held = (e: PointerEvent): boolean => (e.currentTarget as Element).hasPointerCapture(e.pointerId)
  return { chosen, entry, replace, add, remove, grab, held }
}
