/** What the proof needs of the stage. */
export interface ProofStage {
  proof: (
    glb: ArrayBuffer,
    view: 'finished' | 'baseColor',
  ) => Promise<{
    width: number
    height: number
    stage: Uint8ClampedArray
    delivered: Uint8ClampedArray
    background: number[]
  } | null>
  eyePoint: () => { from: [number, number, number]; to: [number, number, number]; angle: number } | undefined
}
