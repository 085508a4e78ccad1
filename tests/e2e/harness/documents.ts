import {
  BufferAttribute,
  BufferGeometry,
  FloatType,
  Mesh,
  NodeMaterial,
  OrthographicCamera,
  Points,
  RenderTarget,
  Scene,
  WebGPURenderer,
  type Group,
  type MeshPhysicalMaterial,
} from 'three/webgpu'
import { attribute, float, vec3, vec4 } from 'three/tsl'
import { MaterialXLoader } from 'three/examples/jsm/loaders/MaterialXLoader.js'
import { createStrictInterfaceValidator } from 'three/examples/jsm/loaders/materialx/MaterialXInterfaceValidation.js'
import { USDLoader } from 'three/examples/jsm/loaders/USDLoader.js'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'

export interface UsdSeen {
  meshes: {
    name: string
    triangles: number
    min: number[]
    max: number[]
    uvs: boolean
    map: string
    normals: number
  }[]
}

/** Reads a USD text layer with three.js's loader. */
function usd(text: string): UsdSeen {
  const group = new USDLoader().parse(text, '') as Group
  const meshes: UsdSeen['meshes'] = []
  group.updateMatrixWorld(true)
  group.traverse(o => {
    if (!(o instanceof Mesh)) return
    const geometry = o.geometry as BufferGeometry
    const normal = geometry.getAttribute('normal')
    const material = (Array.isArray(o.material) ? o.material[0] : o.material) as MeshPhysicalMaterial
    geometry.computeBoundingBox()
    const box = geometry.boundingBox!.clone().applyMatrix4(o.matrixWorld)
    let unit = 0
    for (let i = 0; i < normal.count; i++)
      unit += Number(Math.abs(Math.hypot(normal.getX(i), normal.getY(i), normal.getZ(i)) - 1) < 1e-3)
    meshes.push({
      name: o.name,
      triangles: (geometry.index?.count ?? geometry.getAttribute('position').count) / 3,
      min: box.min.toArray(),
      max: box.max.toArray(),
      uvs: geometry.hasAttribute('uv'),
      map: material.name,
      normals: unit / normal.count,
    })
  })
  return { meshes }
}

type Nodes = Partial<Record<'colorNode' | 'roughnessNode' | 'metalnessNode', unknown>>
export interface MtlxSeen {
  materials: string[]
  errors: string[]
  warnings: string[]
  set: string[]
}
interface Element {
  element: string
  children: { getAttribute(name: string): string | null }[]
}
/** Vertex attributes are left to the host by this loader: they come from the geometry under their names. */
const nodeResolver = (node: Element) =>
  node.element === 'geompropvalue'
    ? attribute(node.children.find(c => c.getAttribute('name') === 'geomprop')!.getAttribute('value')!, 'float')
    : null
function load(xml: string) {
  return new MaterialXLoader().parse(xml, {
    throwOnErrors: false,
    interfaceValidator: createStrictInterfaceValidator(),
    nodeResolver,
  }) as { materials: Record<string, Nodes>; errors: { message: string }[]; warnings: { message: string }[] }
}
/**
 * Reads a MaterialX document with three.js's loader, which also checks every node against the standard's interfaces.
 */
function mtlx(xml: string): MtlxSeen {
  const { materials, errors, warnings } = load(xml)
  return {
    materials: Object.keys(materials),
    errors: errors.map(e => e.message),
    warnings: warnings.map(w => w.message),
    set: Object.entries(Object.values(materials)[0]!)
      .filter(([k, v]) => k.endsWith('Node') && v)
      .map(([k]) => k),
  }
}

/** Color, roughness and metalness of a document's material at points, on the graphics card: five numbers each. */
async function mtlxAt(
  xml: string,
  name: string,
  positions: number[],
  uvs: number[],
  attributes: Record<string, number[]>,
): Promise<number[]> {
  const material = load(xml).materials[name]!
  const count = positions.length / 3
  const renderer = new WebGPURenderer({ forceWebGL: true })
  await renderer.init()
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3))
  geometry.setAttribute('uv', new BufferAttribute(Float32Array.from(uvs), 2))
  geometry.setAttribute(
    'pixel',
    new BufferAttribute(
      Float32Array.from({ length: count }, (_, i) => ((i + 0.5) / count) * 2 - 1),
      1,
    ),
  )
  for (const [key, values] of Object.entries(attributes))
    geometry.setAttribute(key, new BufferAttribute(Float32Array.from(values), 1))
  const target = new RenderTarget(count, 1, { type: FloatType, depthBuffer: false })
  const camera = new OrthographicCamera(-1, 1, 1, -1, -1, 1)
  const draw = async (node: unknown): Promise<Float32Array> => {
    const plain = new NodeMaterial()
    plain.vertexNode = vec4(attribute('pixel', 'float'), 0, 0, 1)
    plain.fragmentNode = node as typeof plain.fragmentNode
    const points = new Points(geometry, plain as never)
    const scene = new Scene()
    points.frustumCulled = false
    scene.add(points)
    renderer.setRenderTarget(target)
    await renderer.renderAsync(scene, camera)
    return (await renderer.readRenderTargetPixelsAsync(target, 0, 0, count, 1)) as Float32Array
  }
  const color = await draw(vec4(vec3((material.colorNode ?? vec3(0.5)) as never), 1))
  const rest = await draw(
    vec4((material.roughnessNode ?? float(0.5)) as never, (material.metalnessNode ?? float(0)) as never, 0, 1),
  )
  return Array.from({ length: count }, (_, i) => [
    ...color.slice(i * 4, i * 4 + 3),
    ...rest.slice(i * 4, i * 4 + 2),
  ]).flat()
}

/** Reads an EXR with three.js's loader: size, channels and some numbers. */
function exr(base64: string): { width: number; height: number; data: number[] } {
  const bytes = Uint8Array.from(atob(base64), c => c.charCodeAt(0))
  const { width, height, data } = new EXRLoader().setDataType(FloatType).parse(bytes.buffer) as {
    width: number
    height: number
    data: Float32Array
  }
  return { width, height, data: [...data.slice(0, 64)] }
}
Object.assign(window, { documents: { usd, mtlx, mtlxAt, exr } })
