import type { OfMesh } from '#core/evaluate/ofMesh'
import type { MeshTables } from '#core/evaluate/tables'
import type { ChannelPicture } from '#core/evaluate/visible'
import type { Backend } from './backend'
import { ofMeshFor, type Inspected } from './inspected'
import { MeshColors } from './meshColors'

/** The mesh on the stage, where it is shown in place of the look. */
export class ShownMesh {
  readonly colors = new MeshColors()
  private tables?: MeshTables
  private inspected: Inspected | null = null
  /** What is found out at each point, and of which list of values. */
  private told?: { what: OfMesh; from?: string; of?: Float32Array }
  /** Counts the changes of what is to be found out. */
  version = 0
  /** Counts the changes of the colors in which it is shown. */
  colored = 0

  constructor(private readonly backend: Backend) {}

  get on(): boolean {
    return this.inspected !== null
  }
  /** What is found out at each point goes where a look has its relief. */
  get pictures(): readonly ChannelPicture[] | undefined {
    return this.tables && this.told ? ['relief'] : undefined
  }
  get what(): OfMesh | undefined {
    return this.told?.what
  }

  /** @param same whether vertices and triangles are those from before */
  setMesh(tables: MeshTables, same: boolean): void {
    this.tables = tables
    // Patches may be others on the same triangles.
    if (!same || this.told?.what.kind === 'patch') this.told = undefined
    this.show(this.inspected)
  }

  /** Shows a level or a vertex map of the mesh; null shows the look. What does not fit the mesh is not shown. */
  show(inspected: Inspected | null): void {
    const { tables } = this
    this.inspected = inspected
    if (!tables || !inspected) return
    if (inspected.kind === 'values' && inspected.values.length * 3 !== tables.mesh.positions.length * inspected.stride)
      return
    this.colors.show(inspected, tables)
    this.colored++
    const of = inspected.kind === 'values' ? inspected.values : undefined
    const from = inspected.kind === 'values' ? `${inspected.stride} ${inspected.offset}` : ''
    const what = of && of === this.told?.of && from === this.told.from ? this.told.what : ofMeshFor(inspected)
    if (what === this.told?.what || (what.kind !== 'values' && what.kind === this.told?.what.kind)) return
    this.told = { what, from, ...(of && { of }) }
    this.version++
    this.backend.setOfMesh(what)
  }

  dispose(): void {
    this.colors.dispose()
  }
}
