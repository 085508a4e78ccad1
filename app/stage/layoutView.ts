import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  GLSL3,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  Scene,
  ShaderMaterial,
  Vector2,
  WebGLRenderTarget,
  type Color,
  type WebGLRenderer,
} from 'three'
import type { MeshTables } from '#core/evaluate/tables'
import type { Layout } from './inspected'
import { MESH_COLORS } from './meshColors'
import { HIDE_VERTEX, STATE_DECLARATION } from './partState'
import type { Camera } from './sample'
import type { ShownMesh } from './shownMesh'

/** Tile beside tile, the first UDIM row at the bottom. */
const VERTEX = `
in float ubPartIn;
in float ubNumberIn;
out vec2 ubUv;
out float ubNumber;
flat out int ubPartOut;
${STATE_DECLARATION}
void main() {
  int ubPart = int(ubPartIn + 0.5);
  ubPartOut = ubPart;
  ubNumber = ubNumberIn;
  ubUv = vec2(position.x, 1.0 - position.y);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  ${HIDE_VERTEX}
}`
const declared = (main: string): string => `
in vec2 ubUv;
in float ubNumber;
flat in int ubPartOut;
layout(location = 0) out vec4 color;
${MESH_COLORS}
void main() {
  ${main}
}`
const COLORED = declared('color = vec4(ubShownAs(ubPartOut, ubNumber, ubUv, gl_FragCoord.xy, 1.0), 1.0);')
const IDENTITY = declared(`int id = ubPartOut + 1;
  color = vec4(float(id & 255), float((id >> 8) & 255), float((id >> 16) & 255), 255.0) / 255.0;`)
const HATCHED = declared(`if (fract((gl_FragCoord.x + gl_FragCoord.y) / 9.0) < 0.5) discard;
  color = vec4(0.1, 0.1, 0.1, 1.0);`)

/** Where some vertices lie in the layout, three numbers each. */
function placesOf(uvs: Float32Array, vertices: Uint32Array): Float32Array {
  const places = new Float32Array(vertices.length * 3)
  vertices.forEach((v, i) => {
    places[i * 3] = uvs[v * 2]!
    places[i * 3 + 1] = 1 - uvs[v * 2 + 1]!
  })
  return places
}

/** The mesh laid out by its UVs, with tile borders, island borders and overlaps. */
export class LayoutView {
  private readonly scene = new Scene()
  private readonly colored: ShaderMaterial
  private readonly identity: ShaderMaterial
  private readonly islands: ThreeMesh<BufferGeometry, ShaderMaterial>
  private readonly overlaps: ThreeMesh<BufferGeometry, ShaderMaterial>
  private readonly lines = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: 0x202020, toneMapped: false }),
  )
  private readonly tiles = new LineSegments(
    new BufferGeometry(),
    new LineBasicMaterial({ color: 0x000000, toneMapped: false }),
  )
  private tables?: MeshTables
  private layout?: Layout
  /** What the islands are made of, and the numbers that they have. */
  private made?: { tables: MeshTables; version: number }

  constructor(private readonly shown: ShownMesh) {
    const material = (fragmentShader: string): ShaderMaterial =>
      new ShaderMaterial({
        glslVersion: GLSL3,
        vertexShader: VERTEX,
        fragmentShader,
        uniforms: shown.colors.uniforms,
        side: DoubleSide,
        depthTest: false,
        toneMapped: false,
      })
    this.colored = material(COLORED)
    this.identity = material(IDENTITY)
    this.islands = new ThreeMesh(new BufferGeometry(), this.colored)
    this.overlaps = new ThreeMesh(new BufferGeometry(), material(HATCHED))
    for (const one of [this.islands, ...this.over]) {
      one.frustumCulled = false
      this.scene.add(one)
    }
    for (const one of this.over) one.renderOrder = 1
    for (const one of [this.lines, this.tiles]) one.material.depthTest = false
  }

  /** What lies over the islands. */
  private get over(): [ThreeMesh, LineSegments, LineSegments] {
    return [this.overlaps, this.lines, this.tiles]
  }
  get on(): boolean {
    return this.layout !== undefined
  }

  setMesh(tables: MeshTables): void {
    this.tables = tables
  }

  /** Shows a layout; undefined shows the mesh as it is. */
  set(layout: Layout | undefined): void {
    this.layout = layout
    const uvs = this.tables?.mesh.uvs
    if (!layout || !uvs) return
    const corners = layout.tiles.flatMap(tile => {
      const x = (tile - 1001) % 10
      const y = Math.floor((tile - 1001) / 10)
      const [a, b, c, d] = [
        [x, y, 0],
        [x + 1, y, 0],
        [x + 1, y + 1, 0],
        [x, y + 1, 0],
      ] as const
      return [a, b, b, c, c, d, d, a].flat()
    })
    const take = (one: ThreeMesh | LineSegments, places: Float32Array): void => {
      one.geometry.dispose()
      one.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(places, 3))
    }
    take(this.tiles, Float32Array.from(corners))
    take(this.lines, placesOf(uvs, layout.borders))
    take(this.overlaps, placesOf(uvs, layout.overlapping))
    const { partOfVertex } = this.tables!.parts
    const owners = Float32Array.from(layout.overlapping, v => partOfVertex[v]!)
    this.overlaps.geometry.setAttribute('ubPartIn', new BufferAttribute(owners, 1))
  }

  draw(renderer: WebGLRenderer, camera: Camera, background: Color): void {
    this.refresh()
    renderer.setClearColor(background, 1)
    renderer.clear()
    renderer.render(this.scene, camera)
  }

  /** Brings the islands and their numbers up to date: three vertices of its own for each triangle. */
  private refresh(): void {
    const { tables, shown, made } = this
    const uvs = tables?.mesh.uvs
    if (!uvs || (made?.tables === tables && made.version === shown.version)) return
    const {
      mesh: { indices },
      parts,
    } = tables
    const { what } = shown
    const owners = new Float32Array(indices.length)
    const numbers = new Float32Array(indices.length)
    indices.forEach((v, i) => {
      owners[i] = parts.partOfVertex[v]!
      if (what?.kind === 'values') numbers[i] = what.values[v]!
      if (what?.kind === 'patch') numbers[i] = parts.patchOfTriangle[Math.floor(i / 3)]!
    })
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(placesOf(uvs, indices), 3))
    geometry.setAttribute('ubPartIn', new BufferAttribute(owners, 1))
    geometry.setAttribute('ubNumberIn', new BufferAttribute(numbers, 1))
    this.islands.geometry.dispose()
    this.islands.geometry = geometry
    this.made = { tables, version: shown.version }
  }

  /** The parts inside a rectangle of the layout as it is seen, its corners 0..1 from the upper left. */
  partsIn(renderer: WebGLRenderer, camera: Camera, x0: number, y0: number, x1: number, y1: number): number[] {
    this.refresh()
    const size = renderer.getSize(new Vector2())
    const w = Math.round(size.x)
    const h = Math.round(size.y)
    const target = new WebGLRenderTarget(w, h)
    for (const one of this.over) one.visible = false
    this.islands.material = this.identity
    renderer.setRenderTarget(target)
    renderer.setClearColor(0x000000, 0)
    renderer.clear()
    renderer.render(this.scene, camera)
    const left = Math.max(0, Math.floor(Math.min(x0, x1) * w))
    const right = Math.min(w, Math.max(left + 1, Math.ceil(Math.max(x0, x1) * w)))
    const bottom = Math.max(0, Math.floor((1 - Math.max(y0, y1)) * h))
    const top = Math.min(h, Math.max(bottom + 1, Math.ceil((1 - Math.min(y0, y1)) * h)))
    const pixels = new Uint8Array((right - left) * (top - bottom) * 4)
    if (pixels.length) renderer.readRenderTargetPixels(target, left, bottom, right - left, top - bottom, pixels)
    renderer.setRenderTarget(null)
    target.dispose()
    this.islands.material = this.colored
    for (const one of this.over) one.visible = true
    const found = new Set<number>()
    for (let i = 0; i < pixels.length; i += 4) {
      const id = pixels[i]! + pixels[i + 1]! * 256 + pixels[i + 2]! * 65536
      if (pixels[i + 3] && id) found.add(id - 1)
    }
    return [...found]
  }

  dispose(): void {
    for (const one of [this.islands, this.overlaps, this.lines, this.tiles]) {
      one.geometry.dispose()
      one.material.dispose()
    }
    this.colored.dispose()
    this.identity.dispose()
  }
}
