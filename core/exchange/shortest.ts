const TENS = Array.from({ length: 12 }, (_, power) => 10 ** power)

/** The shortest text of the same 32-bit float: six digits, or as many as it takes; nine say every float. */
export function shortest(x: number): string {
  const float = Math.fround(x)
  const size = Math.abs(float)
  if (size === 0) return '0'
  if (size < 1e-4 || size >= 1e6) return shortestOfAny(x, float)
  const places = 5 - Math.floor(Math.log10(size))
  for (let more = 0; more < 3; more++) {
    // A whole number by a power of ten, both exact, is the double that the decimal reads as.
    const scale = TENS[places + more]!
    const near = Math.round(float * scale) / scale
    if (Math.fround(near) === float) return String(near)
  }
  return String(Number(x.toPrecision(9)))
}

/** As `shortest`, for floats of any size; it takes three times as long. */
function shortestOfAny(x: number, float: number): string {
  for (let digits = 6; digits < 9; digits++) {
    const near = Number(x.toPrecision(digits))
    if (Math.fround(near) === float) return String(near)
  }
  return String(Number(x.toPrecision(9)))
}
