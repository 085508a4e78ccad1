/**
 * What normals are multiplied by, where places are by a matrix of 4 by 4, column by column: the cofactors of its turn
 * and scale, nine numbers, column by column; and whether it mirrors. Where it does, the cofactors point inward.
 */
export function cofactorsOf(m: readonly number[]): { cofactors: number[]; mirrored: boolean } {
  const [a, b, c, , d, e, f, , g, h, i] = m as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  const cofactors = [
    e * i - f * h,
    f * g - d * i,
    d * h - e * g,
    c * h - b * i,
    a * i - c * g,
    b * g - a * h,
    b * f - c * e,
    c * d - a * f,
    a * e - b * d,
  ]
  return { cofactors, mirrored: a * cofactors[0]! + b * cofactors[1]! + c * cofactors[2]! < 0 }
}
