import { betweenPieces } from '../stage/turns'

/**
 * How many items of a long list are drawn: some at once, and the others piece by piece, after the first picture on the
 * stage. Each takes milliseconds, in which nothing else moves.
 */
export function usePieces(total: () => number, piece: number): Readonly<Ref<number>> {
  const drawn = ref(piece)
  let isGrowing = false
  let isGone = false
  async function grow(): Promise<void> {
    if (isGrowing) return
    isGrowing = true
    while (!isGone && drawn.value < total()) {
      await betweenPieces()
      drawn.value += piece
    }
    isGrowing = false
  }
  watch(total, () => void grow(), { immediate: true })
  onBeforeUnmount(() => (isGone = true))
  return drawn
}
