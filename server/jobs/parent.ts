/** What a job in a process of its own says to the server that began it. */

/** Ends with the server: nobody would hear the answer. */
export function endWithParent(): void {
  process.once('disconnect', () => process.exit(0))
  process.on('error', () => process.exit(0))
}

/** Says the one thing that was asked for, and ends. */
export function answerParent(message: unknown): void {
  if (!process.connected) process.exit(0)
  process.send!(message, () => process.exit(0))
}
