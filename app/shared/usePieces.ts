import { handsRest } from '../stage/turns'

/** The longest that what is still missing of a list waits for the stage's first picture, in milliseconds. */
const LONGEST = 4000

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
      await new Promise(resolve => setTimeout(resolve))
      await handsRest(LONGEST)
      drawn.value += piece
    }
    isGrowing = false
  }
  watch(total, () => void grow(), { immediate: true })
  onBeforeUnmount(() => (isGone = true))
  return drawn
}
