import type { IUniform, DataTexture, WebGLRenderer, WebGLRenderTarget } from 'three'
import type { WholeValues } from '#core/evaluate/gather'
import type { OfMesh } from '#core/evaluate/ofMesh'
import type { MeshTables } from '#core/evaluate/tables'
import { SEEN_WORDS } from '#core/evaluate/visible'
import type { Kernels } from '#core/kernels/kernels'
import type { Box } from '#core/mesh/mesh'
import { LOOK_SLOTS, type LookSlot, type Slot } from './slots'
import type { Backend, LoweredLook, Outcome, Rectangle } from './backend'
import { CardLook } from './cardLook'
import type { CardProgram } from './cardProgram'
import { OfMeshOnCard } from './ofMeshOnCard'
import { ownerTexture, triangleTexture, vertexTexture } from './meshTextures'
import { stateTexture } from './partState'
import { FullPass } from './passes'
import type { Camera, Sample } from './sample'
import { SurfacePass } from './surfacePass'

/** Evaluates looks by shaders on the graphics card. */
export class EvaluateOnCard implements Backend {
  readonly name = 'card'
  readonly wholeFloats = false
  compiled = 0
  private tables?: MeshTables
  private readonly full = new FullPass()
  private readonly looks: Partial<Record<LookSlot, CardLook>> = {}
  /** Looks of another shape, compiled before they can be shown. */
  private readonly prepared: Partial<Record<LookSlot, CardLook>> = {}
  private mesh: Record<string, IUniform> = {}
  private what: OfMesh = { kind: 'part' }
  private ofMesh?: OfMeshOnCard

  private readonly surface = new SurfacePass()
  private state = stateTexture(1, new Set(), new Set())
  private hidden: ReadonlySet<number> = new Set()

  /**
   * @param keeps whether values are kept while the same parameters change; not for cards made of software, which stand
   * still while they compile
   */
  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly kernels: Kernels,
    private readonly camera: () => Camera,
    private readonly changed: () => void,
    private readonly keeps: boolean,
  ) {}

  setMesh(tables: MeshTables, box: Box, same: boolean): void {
    this.tables = tables
    for (const slot of LOOK_SLOTS) this.forget(slot)
    this.dropOfMesh()
    if (same) return
    this.surface.setMesh(tables, box)
    this.setHidden(this.hidden)
    this.dropMesh()
    this.mesh = {
      ubTriangles: { value: triangleTexture(tables) },
      ubVertexList: { value: vertexTexture(tables) },
      ubOwners: { value: ownerTexture(tables) },
    }
  }

  setLook(slot: LookSlot, lowered: LoweredLook, values: WholeValues): void {
    const old = this.looks[slot]
    if (old?.lowered.shape === lowered.shape) {
      old.refresh(lowered, values)
      return
    }
    old?.dispose()
    this.prepare(slot, lowered)
    const look = this.prepared[slot]!
    this.prepared[slot] = undefined
    this.looks[slot] = look
    look.refresh(lowered, values)
  }

  // Its programs read the mesh's own maps, so they cannot be made without one.
  expect(): void {}

  prepare(slot: LookSlot, lowered: LoweredLook): void {
    const old = this.prepared[slot]
    if (old?.lowered.shape === lowered.shape) return
    old?.dispose()
    const compile = this.keeps ? (program: CardProgram): Promise<void> => this.compile(program) : undefined
    const look = new CardLook(this.kernels, lowered, this.tables!, this.mesh, compile)
    this.prepared[slot] = look
    void this.compile(look.whole).then(this.changed)
  }

  private async compile(program: CardProgram): Promise<void> {
    for (const { material, target } of program.passes) {
      if (program.isGone) return
      this.compiled++
      await this.full.ready(this.renderer, material, target, this.camera())
    }
    program.ready = true
  }

  /** How many values of a look are kept at every point while the same of its parameters change. */
  keptOf(slot: LookSlot): number {
    return this.looks[slot]?.kept ?? 0
  }

  forget(slot: LookSlot): void {
    this.looks[slot]?.dispose()
    this.prepared[slot]?.dispose()
    this.looks[slot] = this.prepared[slot] = undefined
  }

  setHidden(hidden: ReadonlySet<number>): void {
    this.hidden = hidden
    this.state.dispose()
    this.state = stateTexture(this.tables?.parts.parts.length ?? 1, new Set(), hidden)
    this.surface.state = this.state
  }

  setGround(on: boolean): void {
    this.surface.groundOn = on
  }
  holds(): boolean {
    return true
  }
  cancel(): void {}
  drop(sample: Sample): void {
    for (const slot of LOOK_SLOTS) this.looks[slot]?.drop(sample)
  }

  see(sample: Sample, layers: number): void {
    sample.roomForLayers(layers)
    sample.layers.forEach((layer, i) => this.surface.draw(this.renderer, layer, sample.camera, sample.layers[i - 1]))
  }

  async seenIn(sample: Sample, { left, right, bottom, top }: Rectangle): Promise<Uint32Array> {
    const words = new Uint32Array((right - left) * (top - bottom) * SEEN_WORDS)
    await this.renderer.readRenderTargetPixelsAsync(sample.layers[0]!, left, bottom, right - left, top - bottom, words)
    return words
  }

  depths(camera: Camera, target: WebGLRenderTarget): Promise<boolean> {
    this.surface.drawDepths(this.renderer, target, camera)
    return Promise.resolve(true)
  }

  setOfMesh(what: OfMesh): void {
    this.what = what
    this.dropOfMesh()
  }
  private dropOfMesh(): void {
    this.ofMesh?.dispose()
    this.ofMesh = undefined
  }

  async evaluate(slot: Slot, sample: Sample): Promise<Outcome> {
    const { renderer, full } = this
    const from = performance.now()
    if (slot === 'mesh') {
      this.ofMesh ??= new OfMeshOnCard(this.mesh, this.tables!, this.what)
      if (!this.ofMesh.ready(renderer, full, this.camera(), this.changed)) return 'compiling'
      this.ofMesh.evaluate(renderer, full, sample)
    } else {
      const look = this.looks[slot]
      if (!look?.ready) return 'compiling'
      look.evaluate(renderer, full, this.camera(), sample, slot)
    }
    await finished(renderer)
    // What it was worth is not counted by the card: every point of a layer is run once.
    const points = sample.width * sample.height
    return { evaluated: points, visible: points, ms: performance.now() - from }
  }

  private dropMesh(): void {
    for (const { value } of Object.values(this.mesh)) (value as DataTexture).dispose()
  }

  dispose(): void {
    for (const slot of LOOK_SLOTS) this.forget(slot)
    this.dropOfMesh()
    this.dropMesh()
    this.surface.dispose()
    this.state.dispose()
    this.full.dispose()
  }
}

/** Waits until the graphics card has done what it was given. */
export async function finished(renderer: WebGLRenderer): Promise<void> {
  const gl = renderer.getContext() as WebGL2RenderingContext
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
  if (!fence) return
  gl.flush()
  while (!gl.isContextLost()) {
    const state = gl.clientWaitSync(fence, 0, 0)
    if (state !== gl.TIMEOUT_EXPIRED) break
    await new Promise(resolve => setTimeout(resolve, 2))
  }
  gl.deleteSync(fence)
}
