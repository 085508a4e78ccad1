/** Bytes of a node of a tree as three-mesh-bvh 0.9 lays one out, and of one that is made here. */
const NODE = 32
const WIDE_NODE = 128
const LEAF = 0xffff
/** How many children a node has at most: one for each lane of the kernels. */
const LANES = 4

/** Where things lie in a wide node, in numbers of 32 bits; each is four of them. */
const MIN = 0
const MAX = 12
const CHILD = 24
const COUNT = 28

/**
 * The same boxes with up to four children a node instead of two, for rays that look at four boxes at once: the largest
 * boxes of a node give way to their own two, until there are four. A node has 128 bytes: the least and the largest x, y
 * and z of its children (six times four float32), the address of each from the first node, or of a leaf the number of
 * its first triangle, and how many triangles it has, none where it is a node itself (four uint32 each). Lanes without a
 * child have boxes that no ray meets.
 *
 * @param root a tree of two children a node, as `MeshBVH.serialize` gives it
 */
export function widened(root: ArrayBuffer): Uint8Array {
  const floats = new Float32Array(root)
  const words = new Uint32Array(root)
  const halves = new Uint16Array(root)
  const isLeaf = (node: number): boolean => halves[node * 16 + 15] === LEAF
  const area = (node: number): number => {
    const at = node * 8
    const x = floats[at + 3]! - floats[at]!
    const y = floats[at + 4]! - floats[at + 1]!
    const z = floats[at + 5]! - floats[at + 2]!
    return x * y + y * z + z * x
  }
  /** The boxes that take the place of a node's own. */
  const childrenOf = (node: number): number[] => {
    const list = [node]
    while (list.length < LANES) {
      let largest = -1
      for (const [i, child] of list.entries())
        if (!isLeaf(child) && (largest < 0 || area(child) > area(list[largest]!))) largest = i
      if (largest < 0) break
      const child = list[largest]!
      list.splice(largest, 1, child + 1, child + words[child * 8 + 6]!)
    }
    return list
  }
  // Leaves are as many as nodes with two children, and one more: a wide node has at least two of either.
  const nodes = root.byteLength / NODE
  const out = new ArrayBuffer(Math.max(1, nodes >> 1) * WIDE_NODE)
  const outFloats = new Float32Array(out)
  const outWords = new Uint32Array(out)
  let made = 0
  const add = (node: number): number => {
    const at = (made++ * WIDE_NODE) / 4
    outFloats.fill(Infinity, at + MIN, at + MAX).fill(-Infinity, at + MAX, at + CHILD)
    for (const [lane, child] of childrenOf(node).entries()) {
      for (let k = 0; k < 6; k++) outFloats[at + k * LANES + lane] = floats[child * 8 + k]!
      outWords[at + COUNT + lane] = isLeaf(child) ? halves[child * 16 + 14]! : 0
      outWords[at + CHILD + lane] = isLeaf(child) ? words[child * 8 + 6]! : add(child)
    }
    return at * 4
  }
  add(0)
  // What was not needed of it was never written, so it takes no room.
  return new Uint8Array(out, 0, made * WIDE_NODE)
}
