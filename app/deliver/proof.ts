/** What the proof needs of the stage. */
export interface ProofStage {
  proof: (
    glb: ArrayBuffer,
    view: 'finished' | 'baseColor',
  ) => Promise<{
    width: number
    height: number
    /** RGBA from 0 to 255, not rounded. */
    stage: Float32Array
    delivered: Float32Array
    background: number[]
  } | null>
  eyePoint: () => { from: [number, number, number]; to: [number, number, number]; angle: number } | undefined
}
