/**
 * Who may work while a picture is awaited: the stage first, long computations after it. They share the same few cores,
 * and a browser gives its threads no ranks.
 */
let stageWorks = false
const waiting: (() => void)[] = []
/** The longest that a piece of a long computation is held back, in milliseconds. */
const LONGEST = 1500

/** The stage says whether somebody waits for its next picture. */
export function stageIsWorking(works: boolean): void {
  stageWorks = works
  if (!works) for (const go of waiting.splice(0)) go()
}

/** Waits until no picture is awaited, but not for ever. @param longest in milliseconds */
export async function handsRest(longest = LONGEST): Promise<void> {
  if (!stageWorks) return
  await new Promise<void>(resolve => {
    waiting.push(resolve)
    setTimeout(resolve, longest)
  })
}
