/** What is known of all parts. */
interface Known {
  materials: readonly (string | undefined)[]
  /** Along each part's own axes, in meters. */
  measures: Record<'length' | 'width' | 'thickness', ArrayLike<number>>
}

/** How far sides of parts of the same size may differ, as a share. */
const SAME_SIZE = 0.05
const near = (a: number, b: number): boolean => Math.abs(a - b) <= SAME_SIZE * Math.max(a, b) + 1e-6
/** A name but for its digits. */
const stemOf = (name: string): string => name.replace(/\d+/g, '#')

/** Whether a part is of the size of one of some, to 5 % along each of its own axes. */
function sameSize(chosen: readonly number[], arranged: Known | undefined): (part: number) => boolean {
  const { length, width, thickness } = arranged?.measures ?? { length: [], width: [], thickness: [] }
  const sides = arranged ? [length, width, thickness] : []
  // Few sizes are told apart among thousands of chosen parts, so that each part is compared with few.
  const rough = (i: number): string => sides.map(s => Math.round(Math.log(s[i]! + 1e-9) / SAME_SIZE)).join()
  const sizes = [...new Map(chosen.map(i => [rough(i), i])).values()]
  return i => sizes.some(j => sides.every(s => near(s[i]!, s[j]!)))
}

/** Parts like one of some: of the same material, of its size, or named alike but for digits. */
export function partsAlike(
  by: 'material' | 'size' | 'name',
  chosen: readonly number[],
  parts: readonly { name: string }[],
  arranged: Known | undefined,
): number[] {
  const all = [...parts.keys()]
  if (by === 'size') return all.filter(sameSize(chosen, arranged))
  const of = (i: number): string | undefined => (by === 'material' ? arranged?.materials[i] : stemOf(parts[i]!.name))
  const wanted = new Set(chosen.map(of))
  return all.filter(i => wanted.has(of(i)))
}
