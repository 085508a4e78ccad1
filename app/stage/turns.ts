/**
 * Who may work while a picture is awaited: the stage first, other computations after it, and then the stage again to
 * refine what is there. They share the same few cores, and a browser gives its threads no ranks.
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

/** Short computations that have their turn now, and since when. */
let turns = 0
let since = 0

/** Waits for a turn, and has the stage refine nothing meanwhile. @param longest as for `handsRest` */
export async function inTurn<T>(work: () => Promise<T>, longest = LONGEST): Promise<T> {
  await handsRest(longest)
  if (!turns++) since = performance.now()
  try {
    return await work()
  } finally {
    turns--
  }
}

/** Whether somebody has a turn; those who take too long are not waited for. */
export const othersWork = (): boolean => turns > 0 && performance.now() - since < LONGEST

/** Waits until no picture is awaited, but not for ever. @param longest in milliseconds */
export async function handsRest(longest = LONGEST): Promise<void> {
  if (!stageWorks) return
  await new Promise<void>(resolve => {
    waiting.push(resolve)
    setTimeout(resolve, longest)
  })
}

/** The longest that pieces of a long list wait for a picture, in milliseconds. */
const PIECES_WAIT = 4000

/** Between two pieces of a long list that is drawn into the page: what else waits has its turn, pictures first. */
export async function betweenPieces(): Promise<void> {
  await new Promise(resolve => setTimeout(resolve))
  await handsRest(PIECES_WAIT)
}
