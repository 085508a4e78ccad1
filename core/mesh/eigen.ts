/**
 * Eigenvalues (largest first) and unit eigenvectors of a symmetric 3x3 matrix, by cyclic Jacobi rotations (Golub and
 * Van Loan, Matrix Computations, section 8.5). Signs are fixed: the largest component of each vector is positive.
 * @param m xx, xy, xz, yy, yz, zz
 */
export function eigen3(m: ArrayLike<number>): {
  values: [number, number, number]
  vectors: [number, number, number][]
} {
  const a = [
    [m[0]!, m[1]!, m[2]!],
    [m[1]!, m[3]!, m[4]!],
    [m[2]!, m[4]!, m[5]!],
  ]
  const v = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]
  for (let sweep = 0; sweep < 12; sweep++) {
    const off = Math.abs(a[0]![1]!) + Math.abs(a[0]![2]!) + Math.abs(a[1]![2]!)
    if (off <= 1e-15 * (Math.abs(a[0]![0]!) + Math.abs(a[1]![1]!) + Math.abs(a[2]![2]!))) break
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ] as const) {
      const apq = a[p]![q]!
      if (apq === 0) continue
      const theta = (a[q]![q]! - a[p]![p]!) / (2 * apq)
      const t = (theta < 0 ? -1 : 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1))
      const c = 1 / Math.sqrt(t * t + 1)
      const s = t * c
      for (let k = 0; k < 3; k++) {
        const kp = a[k]![p]!
        const kq = a[k]![q]!
        a[k]![p] = c * kp - s * kq
        a[k]![q] = s * kp + c * kq
      }
      for (let k = 0; k < 3; k++) {
        const pk = a[p]![k]!
        const qk = a[q]![k]!
        const vp = v[k]![p]!
        const vq = v[k]![q]!
        a[p]![k] = c * pk - s * qk
        a[q]![k] = s * pk + c * qk
        v[k]![p] = c * vp - s * vq
        v[k]![q] = s * vp + c * vq
      }
    }
  }
  const order = [0, 1, 2].sort((i, j) => a[j]![j]! - a[i]![i]!)
  return {
    values: order.map(i => a[i]![i]!) as [number, number, number],
    vectors: order.map(i => {
      const axis = [v[0]![i]!, v[1]![i]!, v[2]![i]!] as [number, number, number]
      const main = axis.reduce((best, x, k) => (Math.abs(x) > Math.abs(axis[best]!) + 1e-9 ? k : best), 0)
      return axis[main]! < 0 ? (axis.map(x => 0 - x) as [number, number, number]) : axis
    }),
  }
}
