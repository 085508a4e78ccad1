/** Pieces of the files, which come one after the other on standard input. */
let pieces: AsyncIterator<Buffer> | undefined

/**
 * The next file that the server sends to this process, of so many bytes.
 * @throws Error where it ends too early
 */
export async function receivedFile(size: number): Promise<Uint8Array> {
  pieces ??= (process.stdin as AsyncIterable<Buffer>)[Symbol.asyncIterator]()
  const bytes = new Uint8Array(size)
  for (let at = 0; at < size;) {
    const { value, done } = await pieces.next()
    if (done) throw new Error('The file that was sent is cut off.')
    bytes.set(value, at)
    at += value.length
  }
  return bytes
}
