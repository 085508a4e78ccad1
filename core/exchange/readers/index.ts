import { glb } from './glb'
import { gltf } from './gltf'
import { obj } from './obj'
import { ply } from './ply'
import type { MeshReader } from './reader'
import { stl } from './stl'

export type { MeshReader } from './reader'

/** Every kind of file that holds a mesh. A new one is listed here; menus, the command line and errors follow. */
export const READERS: readonly MeshReader[] = [glb, gltf, obj, ply, stl]

/** Endings of the files that hold a mesh, zips of them among them. */
export const MESH_ENDINGS: readonly string[] = [...READERS.flatMap(r => r.endings), '.zip'].sort()
