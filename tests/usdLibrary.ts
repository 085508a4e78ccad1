import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'

/** A node as the library lays it out; matrices as OpenUSD writes them, row by row. */
interface LaidOut {
  primName: string
  absPath: string
  nodeType: string
  globalMatrix: number[]
  contentId: number
  children: LaidOut[]
}
interface Loader {
  loadAsLayerFromBinary(bytes: Uint8Array, name: string): boolean
  composeReferences(): boolean
  layerToRenderScene(): boolean
  layerToString(): string
  getDefaultRootNode(): LaidOut
  getMesh(id: number): { points: Float32Array; faceVertexIndices: Uint32Array }
  error(): string
}

/** A mesh of a layer as it stands in the world. */
export interface UsdMesh {
  path: string
  /** Three numbers for each corner of each triangle, in the world. */
  corners: number[]
  mirrored: boolean
}
export interface UsdScene {
  meshes: UsdMesh[]
  /** Paths of all prims that are drawn, or hold such. */
  paths: string[]
  /** The layer with everything that it refers to in its place. */
  text: string
}

/** The library is built for browsers; it asks where it is only while it begins. */
async function begin(): Promise<{ TinyUSDZLoaderNative: new () => Loader }> {
  const path = createRequire(import.meta.url).resolve('tinyusdz')
  const { default: make } = (await import(path)) as { default: (options: object) => Promise<never> }
  const global = globalThis as { WorkerGlobalScope?: unknown }
  const machine = process as { type?: string }
  machine.type = 'renderer'
  global.WorkerGlobalScope = class {}
  try {
    return await make({ wasmBinary: readFileSync(path.replace(/\.js$/, '.wasm')) })
  } finally {
    delete machine.type
    delete global.WorkerGlobalScope
  }
}
const library = await begin()

/**
 * A layer as another USD library reads it: composed, and laid out in the world.
 * @throws Error in the library's words
 */
export async function readUsd(layer: string): Promise<UsdScene> {
  const loader = new library.TinyUSDZLoaderNative()
  const done =
    loader.loadAsLayerFromBinary(new TextEncoder().encode(layer), 'it.usda') &&
    loader.composeReferences() &&
    loader.layerToRenderScene()
  if (!done) throw new Error(loader.error())
  const scene: UsdScene = { meshes: [], paths: [], text: loader.layerToString() }
  const visit = (node: LaidOut): void => {
    scene.paths.push(node.absPath)
    if (node.nodeType === 'mesh') scene.meshes.push(meshOf(node, loader))
    node.children.forEach(visit)
  }
  visit(loader.getDefaultRootNode())
  return scene
}

function meshOf({ absPath, globalMatrix: m, contentId }: LaidOut, loader: Loader): UsdMesh {
  const { points, faceVertexIndices } = loader.getMesh(contentId)
  const corners = Array.from(faceVertexIndices).flatMap(v => {
    const [x, y, z] = [points[v * 3]!, points[v * 3 + 1]!, points[v * 3 + 2]!]
    return [0, 1, 2].map(k => x * m[k]! + y * m[4 + k]! + z * m[8 + k]! + m[12 + k]!)
  })
  const det =
    m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) -
    m[1]! * (m[4]! * m[10]! - m[6]! * m[8]!) +
    m[2]! * (m[4]! * m[9]! - m[5]! * m[8]!)
  return { path: absPath, corners, mirrored: det < 0 }
}
