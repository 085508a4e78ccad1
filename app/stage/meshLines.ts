import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  GLSL3,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  Scene,
  ShaderMaterial,
  type Texture,
  type WebGLRenderer,
} from 'three'
import type { CageSurfaces } from '#core/dense/cage'
import type { MeshTables } from '#core/evaluate/tables'
import { ASTRAY } from './meshColors'
import { HIDE_VERTEX, STATE_DECLARATION } from './partState'
import type { Camera } from './sample'

const VERTEX = `
in float ubPartIn;
${STATE_DECLARATION}
void main() {
  int ubPart = int(ubPartIn + 0.5);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  ${HIDE_VERTEX}
}`
const FRAGMENT = `
layout(location = 0) out vec4 color;
void main() { color = vec4(0.0, 0.0, 0.0, 1.0); }`

/** A shell of the cage, which is seen through. */
const shell = (opacity: number): ThreeMesh<BufferGeometry, MeshBasicMaterial> =>
  new ThreeMesh(
    new BufferGeometry(),
    new MeshBasicMaterial({ transparent: true, opacity, depthWrite: false, toneMapped: false }),
  )

/** What is drawn over a picture whose depths are on the canvas: edges of triangles, and the cage of a dense mesh. */
export class MeshLines {
  private readonly edges = new ThreeMesh(
    new BufferGeometry(),
    new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: { ubState: { value: null } },
      side: DoubleSide,
      wireframe: true,
      transparent: true,
      toneMapped: false,
      // Just in front of the surface that they lie on.
      polygonOffset: true,
      polygonOffsetFactor: -1,
      polygonOffsetUnits: -1,
    }),
  )
  private readonly edgeScene = new Scene()
  private readonly cageScene = new Scene()
  // The inner shell lies inside of the mesh, but where rays go so deep that they come out on the other side.
  private readonly cage = { outer: shell(0.2), inner: shell(0.7) }
  private tables?: MeshTables
  /** The mesh of which the edges are. */
  private made?: MeshTables['mesh']
  showsEdges = false
  private showsCage = false

  constructor() {
    this.edgeScene.add(this.edges)
    this.edges.frustumCulled = false
    for (const one of Object.values(this.cage)) {
      one.frustumCulled = false
      this.cageScene.add(one)
    }
    this.cage.inner.material.color.setRGB(...ASTRAY)
  }

  get on(): boolean {
    return this.tables !== undefined && (this.showsEdges || this.showsCage)
  }
  set state(texture: Texture) {
    this.edges.material.uniforms.ubState!.value = texture
  }
  set accent(rgb: readonly number[]) {
    this.cage.outer.material.color.fromArray(rgb as number[])
  }

  setMesh(tables: MeshTables): void {
    this.tables = tables
  }

  /** Shows two surfaces that the mesh lies between; undefined shows none. */
  setCage(surfaces: CageSurfaces | undefined): void {
    this.showsCage = surfaces !== undefined && this.tables !== undefined
    for (const end of ['outer', 'inner'] as const) {
      const one = this.cage[end]
      one.geometry.dispose()
      one.geometry = new BufferGeometry()
      if (!surfaces || !this.tables) continue
      one.geometry.setAttribute('position', new BufferAttribute(surfaces[end], 3))
      one.geometry.setIndex(new BufferAttribute(this.tables.mesh.indices, 1))
    }
  }

  draw(renderer: WebGLRenderer, camera: Camera): void {
    if (this.showsEdges) {
      this.refresh()
      renderer.render(this.edgeScene, camera)
    }
    if (this.showsCage) renderer.render(this.cageScene, camera)
  }

  private refresh(): void {
    const { tables, made } = this
    if (!tables || (made?.positions === tables.mesh.positions && made.indices === tables.mesh.indices)) return
    const { mesh, parts } = tables
    this.edges.geometry.dispose()
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('ubPartIn', new BufferAttribute(Float32Array.from(parts.partOfVertex), 1))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    this.edges.geometry = geometry
    this.made = mesh
  }

  dispose(): void {
    for (const one of [this.edges, this.cage.outer, this.cage.inner]) {
      one.geometry.dispose()
      one.material.dispose()
    }
  }
}
