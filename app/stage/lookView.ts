import { BufferAttribute, BufferGeometry, Mesh as ThreeMesh } from 'three'
import { Evaluator } from '#core/evaluate/evaluator'
import { Gatherer, type WholeValues } from '#core/evaluate/gather'
import type { MeshTables } from '#core/evaluate/tables'
import type { Look } from '#core/graph/look'
import { CHANNEL_NAMES, type Channel } from '#core/graph/types'
import type { Kernels } from '#core/kernels/kernels'
import { lower, reader, signature } from '#core/program/lower'
import { plan } from '#core/program/plan'
import { probe, type Probed } from '#core/program/probe'
import { lookShader, packMaps, packPartTable, type LookShader } from '#core/shader/glsl'
import { LookMaterial } from './lookMaterial'

/** A look on a mesh: its program, and the costly values that it takes from elsewhere. */
interface Shown { shape: string, evaluator: Evaluator, waits: boolean, shader: LookShader, sets: ReadonlySet<Channel>, look: Look, shows?: Probed }

/** What tells two programs apart: the look's shape, and the port that is looked at instead of the result. */
export const shapeOf = (look: Look, port?: string): string => port ? `${signature(look)} ${port}` : signature(look)

/** A look drawn on a mesh, with a geometry of its own that shares its vertices with others. */
export class LookView {
  readonly material = new LookMaterial()
  readonly object = new ThreeMesh(new BufferGeometry(), this.material)
  private tables?: MeshTables
  private shown?: Shown
  /** A look of another shape that waits for values that a worker gathers; until then what is shown stays. */
  private coming?: Shown

  /** @param changed called after every change of what is to be drawn */
  constructor(private readonly kernels: Kernels, private readonly changed: () => void) {
    this.object.visible = this.object.frustumCulled = false
  }

  get ready(): boolean { return this.shown !== undefined }
  /** The channels that the look sets. */
  get channels(): ReadonlySet<Channel> { return (this.coming ?? this.shown)?.sets ?? new Set() }
  /** What of a port is shown; undefined while the result is. */
  get shows(): Probed | undefined { return this.shown?.shows }

  /** Takes a mesh. Where its vertices are those from before, what is shown stays until the look is set again. */
  setMesh(tables: MeshTables, geometry?: BufferGeometry): void {
    this.tables = tables
    this.coming = undefined
    if (!geometry) {
      if (this.shown) this.shown.shape = ''
      return
    }
    this.shown = undefined
    const own = new BufferGeometry()
    for (const [name, attribute] of Object.entries(geometry.attributes)) own.setAttribute(name, attribute)
    own.setIndex(geometry.index)
    this.object.geometry = own
  }

  /**
   * Shows a look, or what runs through one of its ports. As long as its graph keeps its shape, only uniforms and the part
   * table are written.
   * @returns whether values have to be gathered for it elsewhere, and brought by `give`
   */
  setLook(look: Look, port?: string): boolean {
    if (!this.tables) return false
    const shape = shapeOf(look, port)
    if (shape === this.shown?.shape) this.coming = undefined
    else if (shape !== this.coming?.shape) {
      const whole = lower(look, this.tables.mesh.maps), probed = port ? probe(whole, port) : undefined, program = probed?.program ?? whole
      const prepared = plan(program, CHANNEL_NAMES.flatMap(c => program.result[c]))
      const gatherer = new Gatherer(this.kernels, program, this.tables, 'given')
      this.coming = { shape, evaluator: new Evaluator(this.kernels, prepared, this.tables, gatherer), waits: gatherer.costly(prepared.roots).length > 0, shader: lookShader(prepared), sets: program.sets, look, ...(probed && { shows: probed.shows }) }
    }
    const shown = this.coming ?? this.shown!
    shown.look = look
    if (!this.coming) this.refresh()
    else if (!shown.waits) this.change()
    return shown.waits
  }

  /** Takes what was gathered for a look of some shape. */
  give(shape: string, values: WholeValues): void {
    const target = this.coming?.shape === shape ? this.coming : this.shown?.shape === shape ? this.shown : undefined
    if (!target) return
    target.evaluator.gatherer.give(values)
    if (target === this.coming) this.change()
    else if (values.length) {
      if (values.some(v => typeof v.value !== 'number')) this.writeMaps()
      this.refresh()
    }
  }

  /** Compiles what comes, and shows it. */
  private change(): void {
    this.shown = this.coming!
    this.coming = undefined
    this.material.setShader(this.shown.shader, this.shown.sets)
    this.material.setPictures(this.tables!.pictures ?? [])
    this.writeMaps()
    this.refresh(true)
  }

  private writeMaps(): void {
    const { shader: { maps }, evaluator: { gatherer } } = this.shown!, { geometry } = this.object
    packMaps(maps, this.tables!.mesh, ref => gatherer.valueOf(ref) as Float32Array).forEach((data, i) => {
      const old = geometry.getAttribute(`ubMap${i}`) as BufferAttribute | undefined
      if (old?.array.length !== data.length) geometry.setAttribute(`ubMap${i}`, new BufferAttribute(data, 4))
      else {
        old.array.set(data)
        old.needsUpdate = true
      }
    })
  }

  private refresh(all = false): void {
    const { evaluator, look } = this.shown!, read = reader(look)
    evaluator.gatherer.refresh(read)
    const changed = evaluator.refresh(read, 'parts')
    this.material.setUniforms(evaluator.uniforms)
    if (changed.parts || all) {
      const { data, height } = packPartTable(evaluator.partColumns, evaluator.tables.parts.parts.length)
      this.material.setPartTable(data, height)
    }
    this.changed()
  }

  dispose(): void {
    this.object.geometry.dispose()
    this.material.dispose()
  }
}
