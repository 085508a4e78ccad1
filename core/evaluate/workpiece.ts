import { computeMap } from '../geometry/compute'
import { Geometry } from '../geometry/geometry'
import { refine } from '../geometry/refine'
import type { MapSettings } from '../geometry/maps'
import { findingContacts, type Contacts } from '../mesh/contacts'
import type { KeyTable, Match } from '../mesh/keys'
import { withMaps, type Mesh, type VertexMap } from '../mesh/mesh'
import type { Parts } from '../mesh/parts'
import {
  arrange,
  onNormals,
  prepare,
  shapesParts,
  type Arranged,
  type Preparation,
  type Prepared,
} from '../mesh/preparation'
import { atOnce } from '../pieces'
import type { Picture } from './pictures'
import { meshTables, type MeshTables } from './tables'

/**
 * A file's mesh on its way to the tables that programs read: units and names, parts and their keys, groups and sets,
 * the analysis mesh, geometry maps. Does again only what a changed preparation asks for.
 */
export class Workpiece {
  private shape = ''
  private edge: number | null = null
  private contacts?: Contacts
  /** The search for them, while it is under way. */
  private search?: Generator<void, Contacts>
  private prepared!: Prepared
  private fine!: { mesh: Mesh; parts: Parts; complete: boolean; parents?: Uint32Array }
  private computed: readonly VertexMap[] = []
  private pictures: readonly Picture[] = []
  private geometry?: { of: Mesh; parts: Parts; geometry: Geometry }
  arranged!: Arranged
  tables!: MeshTables
  preparation!: Preparation

  /**
   * @param keys the project's key table, in the file's units; without one the parts have the keys of what they are as
   * they are first prepared, and keep them when they are prepared in another way
   */
  constructor(
    readonly file: Mesh,
    preparation: Preparation,
    private keys?: KeyTable,
  ) {
    this.apply(preparation)
  }

  /** The mesh of the file in the preparation's units, unrefined. */
  get mesh(): Mesh {
    return this.prepared.mesh
  }
  /** Its parts. */
  get parts(): Parts {
    return this.prepared.parts
  }
  get match(): Match | undefined {
    return this.prepared.match
  }
  /** Keys for the next export of this mesh to be matched with. */
  get table(): KeyTable {
    return this.prepared.table
  }
  /**
   * The analysis mesh without computed maps, and its parts; `complete` is false where the limit on triangles came
   * first, `parents` names the unrefined triangles where there are others.
   */
  get analysis(): { mesh: Mesh; parts: Parts; complete: boolean; parents?: Uint32Array } {
    return this.fine
  }

  /** @returns whether vertices or triangles of the analysis mesh, or the number of parts, may have changed */
  apply(preparation: Preparation): boolean {
    const shape = shapesParts(preparation)
    const moved = shape !== this.shape
    if (moved || preparation.contact !== this.preparation.contact) this.search = undefined
    if (moved) {
      this.prepared = prepare(this.file, preparation, this.keys)
      this.keys ??= this.prepared.table
      this.contacts = undefined
    }
    const { mesh, parts } = this.prepared
    this.arranged = arrange(mesh, parts, preparation, this.contacts)
    this.contacts = this.arranged.contacts ?? this.contacts
    const refined = moved || preparation.edge !== this.edge
    if (refined)
      this.fine = preparation.edge === null ? { mesh, parts, complete: true } : refine(mesh, parts, preparation.edge)
    this.fine = { ...this.fine, parts: { ...this.fine.parts, groups: parts.groups } }
    this.shape = shape
    this.edge = preparation.edge
    this.preparation = preparation
    if (refined) this.computed = []
    this.retable()
    return refined
  }

  /** Puts computed maps beside those of the file. A computed map takes precedence over one of the same name. */
  setComputed(maps: readonly VertexMap[]): void {
    this.computed = maps
    this.retable()
  }

  /** Pictures that looks may name. */
  setPictures(pictures: readonly Picture[]): void {
    this.pictures = pictures
    this.retable()
  }

  private retable(): void {
    const { mesh, parts } = this.fine
    const tables = meshTables(
      onNormals(withMaps(mesh, this.computed), this.preparation),
      parts,
      this.arranged.sets,
      this.arranged.measures,
      () => this.touching(),
      this.pictures,
    )
    this.tables = {
      ...tables,
      touchingKnown: () => this.contacts?.distance === this.preparation.contact,
      findingTouching: () => this.findingTouching(),
    }
  }

  /** Pairs of touching parts; found when first asked for. */
  touching(): Contacts {
    return atOnce(this.findingTouching())
  }
  /** The same piece by piece. Whoever else wants them meanwhile goes on with what was found so far. */
  *findingTouching(): Generator<void, Contacts> {
    for (;;) {
      const { contacts, preparation, mesh, parts } = this
      if (contacts?.distance === preparation.contact) return contacts
      this.search ??= findingContacts(mesh, parts, preparation.contact)
      const step = this.search.next()
      if (step.done) {
        this.search = undefined
        this.contacts = step.value
        this.arranged = arrange(mesh, parts, preparation, step.value)
      } else yield
    }
  }

  /** Computes geometry maps, one after the other, on this thread. */
  compute(settings: readonly MapSettings[], progress?: (map: string, share: number) => void): VertexMap[] {
    const { mesh, parts } = this.fine
    // What rays are cast against is built once for all maps.
    if (this.geometry?.of !== mesh || this.geometry.parts !== parts)
      this.geometry = { of: mesh, parts, geometry: new Geometry(mesh, parts) }
    const { geometry } = this.geometry
    return settings.map(m => computeMap(geometry, m, { progress: share => progress?.(m.name, share) })!)
  }

  /** Computes every geometry map of the preparation. */
  computeAll(progress?: (map: string, share: number) => void): void {
    this.setComputed(this.compute(this.preparation.maps, progress))
    this.geometry = undefined
  }
}
