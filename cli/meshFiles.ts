import { existsSync } from 'node:fs'
import { basename, dirname, extname, join, normalize } from 'node:path'
import { zipSync } from 'fflate'
import { namedByGltf, namedByMtl, namedByObj } from '../core/exchange/companions'
import { MESH_ENDINGS, MeshFileError, readMesh } from '../core/exchange/readMesh'
import type { Mesh } from '../core/mesh/mesh'
import { draco } from '../node/draco'
import { file } from './files'
import { UsageError } from './usage'

/** A mesh as it was read, and the bytes that it was read from: a zip where the file names others. */
export interface ReadFile {
  mesh: Mesh
  name: string
  bytes: Uint8Array
}

/** The files that a document names, and those that they name, by path from its folder. */
async function companionsOf(path: string, bytes: Uint8Array): Promise<Map<string, Uint8Array>> {
  const found = new Map<string, Uint8Array>()
  const folder = dirname(path)
  const take = async (names: readonly string[]): Promise<void> => {
    for (const name of names) {
      const inside = normalize(name).replaceAll('\\', '/')
      // What lies elsewhere is not the mesh's: whoever sends one could ask for any file here.
      if (inside.startsWith('../') || inside.startsWith('/') || found.has(inside)) continue
      const at = join(folder, inside)
      if (existsSync(at)) found.set(inside, await file(at))
    }
  }
  if (extname(path).toLowerCase() === '.gltf') {
    await take(namedByGltf(bytes))
    return found
  }
  const libraries = namedByObj(bytes)
  // Some programs write the library under the file's own name and name another.
  const beside = `${basename(path).replace(/\.[^.]*$/, '')}.mtl`
  await take(libraries.length ? [...libraries, beside] : [])
  const pictures = [...found].flatMap(([name, mtl]) => namedByMtl(mtl).map(p => join(dirname(name), p)))
  await take(pictures)
  return found
}

/** A mesh file with the files that it names, also in folders below its own. */
async function meshBytes(path: string): Promise<{ name: string; bytes: Uint8Array }> {
  const bytes = await file(path)
  const name = basename(path)
  if (!['.gltf', '.obj'].includes(extname(path).toLowerCase())) return { name, bytes }
  const named = await companionsOf(path, bytes)
  if (!named.size) return { name, bytes }
  return { name: `${name}.zip`, bytes: zipSync({ [name]: bytes, ...Object.fromEntries(named) }, { level: 0 }) }
}

/** Reads a mesh. @throws UsageError with one sentence that begins with the path */
export async function meshFile(path: string): Promise<ReadFile> {
  if (!MESH_ENDINGS.some(e => e === extname(path).toLowerCase()))
    throw new UsageError(`${path}: Ubblet reads ${MESH_ENDINGS.join(', ')}.`)
  const { name, bytes } = await meshBytes(path)
  try {
    return { mesh: await readMesh(bytes, name, { draco }), name, bytes }
  } catch (error) {
    throw error instanceof MeshFileError ? new UsageError(`${path}: ${error.message}`) : error
  }
}
