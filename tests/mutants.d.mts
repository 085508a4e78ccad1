/** A deliberate fault: what stands once in a file, and what is put in its place. */
export interface Mutant {
  file: string
  fault: string
  from: string
  to: string
  /** Files of unit tests that are likely to find it. */
  first: string[]
}
export const MUTANTS: readonly Mutant[]
