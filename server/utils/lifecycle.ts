/** Whether the server has been told to stop: it takes no new work then, and finishes what it has begun. */
let stopping = false
export const isStopping = (): boolean => stopping
export const setStopping = (): void => {
  stopping = true
}
