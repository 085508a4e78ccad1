/**
 * Disjoint sets over 0..n-1, with path halving. The smaller index becomes the root, so that roots do not depend on
 * order.
 */
export class UnionFind {
  readonly parent: Uint32Array
  constructor(n: number) {
    this.parent = new Uint32Array(n)
    for (let i = 0; i < n; i++) this.parent[i] = i
  }

  find(i: number): number {
    const p = this.parent
    while (p[i] !== i) {
      p[i] = p[p[i]!]!
      i = p[i]!
    }
    return i
  }

  union(a: number, b: number): void {
    const x = this.find(a)
    const y = this.find(b)
    if (x < y) this.parent[y] = x
    else if (y < x) this.parent[x] = y
  }
}
