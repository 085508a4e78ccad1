/**
 * Cuts a polygon into triangles: the shorter fitting diagonal for four corners, ear clipping for more (O(n²), in the
 * plane that Newell's normal gives). Corners that cannot be cut off properly are cut off anyhow, so that n corners
 * always give n − 2 triangles.
 * @param at coordinates of corner `i`
 * @returns corner numbers, three per triangle
 */
export function triangulate(corners: number, at: (i: number) => ArrayLike<number>): number[] {
  if (corners === 3) return [0, 1, 2]
  // (1) Newell's normal, and two axes across it.
  const n = [0, 0, 0]
  const points = Array.from({ length: corners }, (_, i) => at(i))
  for (let i = 0; i < corners; i++) {
    const p = points[i]!
    const q = points[(i + 1) % corners]!
    for (let k = 0; k < 3; k++) n[k]! += (p[(k + 1) % 3]! - q[(k + 1) % 3]!) * (p[(k + 2) % 3]! + q[(k + 2) % 3]!)
  }
  const drop = [0, 1, 2].reduce((a, b) => (Math.abs(n[b]!) > Math.abs(n[a]!) ? b : a))
  const sign = n[drop]! < 0 ? -1 : 1
  const x = points.map(p => p[(drop + 1) % 3]!)
  const y = points.map(p => p[(drop + 2) % 3]! * sign)
  const turn = (a: number, b: number, c: number) =>
    (x[b]! - x[a]!) * (y[c]! - y[a]!) - (y[b]! - y[a]!) * (x[c]! - x[a]!)
  if (corners === 4) {
    const first = Math.min(turn(0, 1, 2), turn(0, 2, 3))
    const second = Math.min(turn(1, 2, 3), turn(1, 3, 0))
    const length = (a: number, b: number) =>
      [0, 1, 2].reduce((sum, k) => sum + (points[a]![k]! - points[b]![k]!) ** 2, 0)
    const straight = second <= 0 || (first > 0 && length(0, 2) <= length(1, 3))
    return straight ? [0, 1, 2, 0, 2, 3] : [0, 1, 3, 1, 2, 3]
  }
  // (2) Ears.
  const left = Array.from({ length: corners }, (_, i) => i)
  const out: number[] = []
  const inside = (p: number, a: number, b: number, c: number) =>
    turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0
  while (left.length > 3) {
    const size = left.length
    let ear = left.findIndex((b, i) => {
      const a = left[(i + size - 1) % size]!
      const c = left[(i + 1) % size]!
      return turn(a, b, c) > 0 && !left.some(p => p !== a && p !== b && p !== c && inside(p, a, b, c))
    })
    if (ear < 0) ear = 1
    out.push(left[(ear + size - 1) % size]!, left[ear]!, left[(ear + 1) % size]!)
    left.splice(ear, 1)
  }
  return [...out, ...left]
}
