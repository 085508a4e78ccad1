const { port1, port2 } = new MessageChannel()
const waiters: (() => void)[] = []
port1.onmessage = () => waiters.shift()?.()

/** Gives messages of this thread a turn: a newer state may have come. */
export const turn = (): Promise<void> =>
  new Promise(resolve => {
    waiters.push(resolve)
    port2.postMessage(null)
  })
