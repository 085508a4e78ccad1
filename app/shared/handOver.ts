interface TypedArray extends ArrayBufferView<ArrayBuffer> {
  slice(): TypedArray
}

const isTyped = (value: object): value is TypedArray => ArrayBuffer.isView(value) && !(value instanceof DataView)
const isPlain = (value: object): boolean => Object.getPrototypeOf(value) === Object.prototype

/**
 * A copy of plain data to give away to another thread, and the buffers that go with it. What is posted otherwise is
 * copied twice: here, and again by the thread that reads it, which may be the one that draws the interface.
 */
export function handOver<T>(message: T): { message: T; buffers: ArrayBuffer[] } {
  const copies = new Map<TypedArray, TypedArray>()
  const copy = (value: unknown): unknown => {
    if (typeof value !== 'object' || value === null) return value
    if (Array.isArray(value)) return value.map(copy)
    if (isTyped(value)) {
      const known = copies.get(value) ?? value.slice()
      copies.set(value, known)
      return known
    }
    if (!isPlain(value)) return value
    return Object.fromEntries(Object.entries(value).map(([key, entry]) => [key, copy(entry)]))
  }
  const whole = copy(message) as T
  return { message: whole, buffers: [...copies.values()].map(array => array.buffer) }
}
