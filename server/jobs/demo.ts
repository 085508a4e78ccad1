import { createHash } from 'node:crypto'
import { fork } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { isMainThread, parentPort, workerData } from 'node:worker_threads'
import { pngOf } from '../../core/bake/png'
import { DEMOS, type Demo } from '../../demo'
import { partedDense, type Parted } from '../../core/dense/partners'
import { DEMO_SETUP, demoPictures } from '../../demo/detail'
import { Workpiece } from '../../core/evaluate/workpiece'
import { writeGlb } from '../../core/exchange/writeGlb'
import { readMesh } from '../../core/exchange/readMesh'
import { computeMap } from '../../core/geometry/compute'
import { Geometry } from '../../core/geometry/geometry'
import { loadKernels } from '../../core/kernels/kernels'
import { readPicture } from '../../node/bake/readPicture'
import { compressor } from '../../node/bake/compress'
import { keyTable } from '../../core/mesh/keys'
import { findParts } from '../../core/mesh/parts'
import { stills } from '../../core/light/still'
import { mapIdOf } from '../../core/mesh/preparation'
import type { VertexMap } from '../../core/mesh/mesh'

/** Size of a project's picture, and the gray behind it: the stage's in the light theme. */
const PICTURE = {
  width: 480,
  height: 300,
  rig: 'overcast',
  background: [0.69, 0.69, 0.69],
  without: ['ground'],
} as const

/** What of the maps stands in the file of a demo: the name of each without its ending. */
interface Written {
  maps: string[]
}

/** The dense mesh of a demo, as a project keeps it, and what its looks read of it. */
async function denseOf(demo: Demo, light: Parted) {
  if (!demo.dense) return { taken: [] }
  const fine = partedDense(demo.dense())
  const { texels } = await loadKernels()
  const dense = {
    name: `${demo.file}-dense.glb`,
    glb: await writeGlb(fine.mesh, demo.title),
    keys: JSON.stringify(keyTable(fine.mesh, fine.parts)),
    triangles: fine.mesh.indices.length / 3,
    parts: fine.parts.parts.length,
    setup: DEMO_SETUP,
  }
  return { dense, taken: demoPictures(texels, light, fine, compressor) }
}

/** A demo mesh with its looks, without geometry maps and pictures of the looks. */
async function plain(demo: Demo) {
  const { mesh, counts } = demo.make()
  const parts = findParts(mesh)
  return {
    title: demo.title,
    file: `${demo.file}.glb`,
    glb: await writeGlb(mesh, demo.title),
    keys: JSON.stringify(keyTable(mesh, parts)),
    triangles: mesh.indices.length / 3,
    parts: counts.parts,
    ...(await denseOf(demo, { mesh, parts })),
    preparation: demo.preparation(),
    looks: demo.looks.map(make => make()),
  }
}

/**
 * Writes a demo into a folder, with its geometry maps and a picture of each look: `NAME.json` says where everything is.
 */
async function write(demo: Demo, folder: string): Promise<void> {
  mkdirSync(folder, { recursive: true })
  const { glb, keys, dense, taken, ...rest } = await plain(demo)
  const named = (ending: string) => join(folder, `${demo.file}${ending}`)
  writeFileSync(named('.glb'), glb)
  writeFileSync(named('.keys.json'), keys)
  if (dense) {
    writeFileSync(named('.dense.glb'), dense.glb)
    writeFileSync(named('.dense.keys.json'), dense.keys)
  }
  for (const { name, bytes } of taken) writeFileSync(named(`.${name}`), bytes)
  // (1) The maps that looks read, each under its own name: computed once, as long as they are the same.
  const hash = createHash('sha256').update(glb).digest('hex')
  const piece = new Workpiece(await readMesh(glb, rest.file), rest.preparation)
  const { mesh, parts } = piece.analysis
  let geometry: Geometry | undefined
  const maps = rest.preparation.maps.map((settings): VertexMap & { id: string } => {
    const id = mapIdOf(hash, rest.preparation, settings)
    const file = join(folder, `${id}.map`)
    if (existsSync(file)) {
      const values = new Float32Array(new Uint8Array(readFileSync(file)).buffer)
      return { id, name: settings.name, components: values.length / (mesh.positions.length / 3), values }
    }
    const map = computeMap((geometry ??= new Geometry(mesh, parts)), settings)!
    writeFileSync(file, new Uint8Array(map.values.buffer, map.values.byteOffset, map.values.byteLength))
    return { id, ...map }
  })
  piece.setComputed(maps)
  piece.setPictures(taken.map(({ name, bytes }) => readPicture(name, bytes)))
  // (2) A picture of each look.
  const kernels = await loadKernels()
  const drawn = stills(kernels, piece.tables, { ...PICTURE, background: [...PICTURE.background] })
  const pictures = rest.looks.map((look, i) => {
    const name = `${demo.file}.${i}.png`
    const data = drawn(look)
    writeFileSync(
      join(folder, name),
      pngOf({ width: PICTURE.width, height: PICTURE.height, data, channels: 4 }, compressor),
    )
    return name
  })
  const plainDense = dense && { ...dense, glb: undefined, keys: undefined }
  writeFileSync(
    named('.json'),
    JSON.stringify({ ...rest, dense: plainDense, taken: taken.map(t => t.name), maps: maps.map(m => m.id), pictures }),
  )
}

/** Removes the geometry maps that no demo of a folder has any more. */
function clear(folder: string): void {
  const named = DEMOS.flatMap(d => (JSON.parse(readFileSync(join(folder, `${d.file}.json`), 'utf8')) as Written).maps)
  for (const file of readdirSync(folder).filter(f => f.endsWith('.map')))
    if (!named.includes(basename(file, '.map'))) rmSync(join(folder, file))
}

const role = workerData as { role?: string; file?: string } | null
if (parentPort && role?.role === 'demo') {
  // On a thread: sends the demo meshes, each with its looks, one by one; nothing more when it is through.
  for (const demo of DEMOS.filter(d => !role.file || d.file === role.file).reverse())
    parentPort.postMessage(await plain(demo))
} else if (isMainThread && process.argv[2] === '--write') {
  // As a command: writes all demos into a folder, in a process for each, or the one that is named.
  const [, , , folder, file] = process.argv as [string, string, string, string, string?]
  if (file)
    await write(
      DEMOS.find(d => d.file === file)!,
      folder,
    )
  else {
    const ends = await Promise.all(
      DEMOS.map(
        d =>
          new Promise<number>(resolve => {
            fork(fileURLToPath(import.meta.url), ['--write', folder, d.file]).once('exit', code => resolve(code ?? 1))
          }),
      ),
    )
    process.exitCode = Math.max(...ends)
    if (!process.exitCode) clear(folder)
  }
}
