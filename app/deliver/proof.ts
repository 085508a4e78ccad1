import type { Proof, ProofAsked } from '../stage/proof'

/**
 * As many pictures with shifted pixels make each of those that are compared: what the stage has at rest, or more, where
 * edges and fine patterns are to be told from the chance of a few samples.
 */
export const PROOF_SAMPLES = [16, 64, 256] as const
export type ProofSamples = (typeof PROOF_SAMPLES)[number]

/** What the proof needs of the stage. */
export interface ProofStage {
  proof: (asked: ProofAsked) => Promise<Proof | null>
  eyePoint: () => { from: [number, number, number]; to: [number, number, number]; angle: number } | undefined
}
