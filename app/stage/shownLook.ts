import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import { picturesOf, resultRoots, withNormal } from '#core/evaluate/visible'
import type { Look } from '#core/graph/look'
import type { Channel } from '#core/graph/types'
import type { Kernels } from '#core/kernels/kernels'
import { lowerOn, signature } from '#core/program/lower'
import { probe, type Probed } from '#core/program/probe'
import type { LookSlot } from './slots'
import type { Backend, LoweredLook } from './backend'

/** What tells two programs apart: the look's shape, and the port that is looked at instead of the result. */
export const shapeOf = (look: Look, port?: string): string => (port ? `${signature(look)} ${port}` : signature(look))

/** A look on the stage: the one that is shown, and one of another shape that waits for its costly values. */
export class ShownLook {
  private tables?: MeshTables
  private shown?: LoweredLook
  private next?: LoweredLook
  /** Counts the changes of what is to be seen. */
  version = 0

  /** @param changed called after every change of what is to be seen */
  constructor(
    private readonly kernels: Kernels,
    private readonly backend: Backend,
    private readonly slot: LookSlot,
    private readonly changed: () => void,
  ) {}

  /** What will be seen once its costly values are there. */
  get coming(): LoweredLook | undefined {
    return this.next
  }
  /** What is to be seen; undefined as long as nothing can be. */
  get lowered(): LoweredLook | undefined {
    return this.shown
  }
  get ready(): boolean {
    return this.shown !== undefined && this.shown.shape !== ''
  }
  /** The channels that the look sets. */
  get channels(): ReadonlySet<Channel> {
    return (this.next ?? this.shown)?.sets ?? new Set()
  }
  get shows(): Probed | undefined {
    return this.shown?.shows
  }

  /**
   * Takes a mesh.
   * @param same whether vertices and triangles are those from before: then what is shown stays until the look is set
   * again
   */
  setMesh(tables: MeshTables, same: boolean): void {
    this.tables = tables
    this.next = undefined
    if (!same) this.shown = undefined
    else if (this.shown) this.shown = { ...this.shown, shape: '' }
  }

  /** Whether a look differs from what is shown, or coming, in numbers alone. */
  fits(look: Look, port?: string): boolean {
    return shapeOf(look, port) === (this.next ?? this.shown)?.shape
  }

  /**
   * Shows a look, or what runs through one of its ports.
   * @returns whether values have to be gathered for it elsewhere, and brought by `give`
   */
  setLook(look: Look, port?: string): boolean {
    const { tables } = this
    if (!tables) return false
    const shape = shapeOf(look, port)
    if (shape === this.shown?.shape) this.next = undefined
    else if (shape !== this.next?.shape) this.next = this.lower(tables, look, shape, port)
    const shown = this.next ?? this.shown!
    shown.look = look
    if (!this.next || !shown.waits) this.show(shown, [])
    else this.backend.prepare(this.slot, shown)
    return shown.waits
  }

  private lower(tables: MeshTables, look: Look, shape: string, port?: string): LoweredLook {
    const whole = lowerOn(look, tables.mesh)
    const probed = port ? probe(whole, port) : undefined
    const { program, normal } = withNormal(probed?.program ?? whole)
    const waits = new Gatherer(this.kernels, program, tables, 'given').costly(resultRoots(program)).length > 0
    return {
      shape,
      look,
      program,
      normal,
      sets: program.sets,
      pictures: picturesOf(program, probed?.shows === 'color'),
      waits,
      ...(port && { port }),
      ...(probed && { shows: probed.shows }),
    }
  }

  /** Takes what was gathered for a look of some shape. */
  give(shape: string, values: WholeValues): void {
    if (this.next?.shape === shape) this.show(this.next, values)
    else if (this.shown?.shape === shape && values.length) this.show(this.shown, values)
  }

  private show(lowered: LoweredLook, values: WholeValues): void {
    this.shown = lowered
    if (this.next === lowered) this.next = undefined
    this.version++
    this.backend.setLook(this.slot, lowered, values)
    this.changed()
  }

  dispose(): void {
    this.backend.forget(this.slot)
  }
}
