/** Does work to its end that could be done piece by piece. @returns what comes of it */
export function atOnce<T>(work: Generator<void, T>): T {
  let step = work.next()
  while (!step.done) step = work.next()
  return step.value
}
