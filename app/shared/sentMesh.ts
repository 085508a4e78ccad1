import type { Group } from '#core/mesh/groups'
import type { Mesh, MeshObject } from '#core/mesh/mesh'
import type { Part, Parts } from '#core/mesh/parts'
import { columnsOf, listOf, type Columns } from './columns'

/** A mesh and its parts on the way from one thread to another: their long lists go column by column. */
export interface Sent<M extends Pick<Mesh, 'objects'>> {
  mesh: Omit<M, 'objects'>
  parts: Omit<Parts, 'parts' | 'groups'>
  objects: Columns<MeshObject>
  list: Columns<Part>
  groups: Columns<Group>
}

export function sent<M extends Pick<Mesh, 'objects'>>(whole: M, { parts, groups, ...rest }: Parts): Sent<M> {
  const { objects, ...mesh } = whole
  return { mesh, parts: rest, objects: columnsOf(objects), list: columnsOf(parts), groups: columnsOf(groups) }
}

export function received<M extends Pick<Mesh, 'objects'>>({
  mesh,
  parts,
  objects,
  list,
  groups,
}: Sent<M>): { mesh: M; parts: Parts } {
  return {
    mesh: { ...mesh, objects: listOf(objects) } as unknown as M,
    parts: { ...parts, parts: listOf(list), groups: listOf(groups) },
  }
}
