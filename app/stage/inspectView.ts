import {
  BufferAttribute,
  BufferGeometry,
  Color,
  LineBasicMaterial,
  LineSegments,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  Scene,
  Vector2,
  WebGLRenderTarget,
  type Texture,
  type WebGLRenderer,
} from 'three'
import { swatchOf } from '#core/color/falseColor'
import type { CageSurfaces } from '#core/dense/cage'
import type { Picture } from '#core/evaluate/pictures'
import type { MeshTables } from '#core/evaluate/tables'
import { keyOf } from '#core/mesh/hash'
import { InspectMaterial, MODES } from './inspectMaterial'
import { partTexture } from './partState'
import { pictureTexture } from './pictureTexture'
import type { Camera } from './sample'

/** What the stage shows instead of the look: a level of the mesh, a number per part, or one per vertex. */
export type Inspected =
  | { kind: 'level'; level: 'object' | 'group' | 'part' | 'patch' }
  /** How red each part is, from 0 to 1. */
  | { kind: 'astray'; shares: Float32Array }
  /** The parts that are alone in gray, the others each in a color of its own. */
  | { kind: 'partners'; alone: Uint8Array }
  /** One number of a surface map. */
  | { kind: 'surface'; picture: Picture; lane: number; span: [number, number]; falseColors: boolean }
  | {
      kind: 'values'
      values: Float32Array
      stride: number
      offset: number
      span: [number, number]
      falseColors: boolean
    }
export interface Layout {
  overlapping: Uint32Array
  borders: Uint32Array
  tiles: readonly number[]
}

/** A shell of the cage, which is seen through. */
const shellMaterial = (opacity: number): MeshBasicMaterial =>
  new MeshBasicMaterial({ transparent: true, opacity, depthWrite: false, toneMapped: false })

const FOUND = [0.72, 0.72, 0.72]
const ASTRAY = [0.82, 0.1, 0.08]
/** A little is seen, too. */
const LEAST = 0.25
/** Gray at 0, and red from a little on. */
function redAt(share: number): number[] {
  const t = share > 0 ? LEAST + (1 - LEAST) * Math.min(1, share) : 0
  return FOUND.map((x, k) => x + (ASTRAY[k]! - x) * t)
}

/** The mesh itself, where the look is not shown: what it is made of, its vertex maps, its UV layout and its edges. */
export class InspectView {
  background = new Color()
  private readonly scene = new Scene()
  private readonly inspect = new InspectMaterial()
  private readonly identity = new InspectMaterial(MODES.identity)
  private readonly object = new ThreeMesh(new BufferGeometry(), this.inspect)
  private readonly edges = new ThreeMesh(new BufferGeometry(), new InspectMaterial(MODES.edges))
  private readonly edgeScene = new Scene()
  private readonly cageScene = new Scene()
  private readonly cage = {
    outer: new ThreeMesh(new BufferGeometry(), shellMaterial(0.2)),
    // Lies inside of the mesh, but where rays go so deep that they come out on the other side.
    inner: new ThreeMesh(new BufferGeometry(), shellMaterial(0.7)),
  }
  private readonly layout = {
    lines: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x202020, toneMapped: false })),
    tiles: new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: 0x000000, toneMapped: false })),
    overlaps: new ThreeMesh(new BufferGeometry(), new InspectMaterial(MODES.hatch)),
  }

  private inspected: Inspected | null = null
  /** The surface map that is on the graphics card. */
  private picture?: Picture
  private tables?: MeshTables
  private flat = false
  showsEdges = false

  /** @param changed called after every change of what is to be drawn */
  constructor(private readonly changed: () => void) {
    this.object.frustumCulled = this.edges.frustumCulled = false
    this.edges.material.wireframe = true
    // Just in front of the surface that they lie on.
    Object.assign(this.edges.material, {
      polygonOffset: true,
      polygonOffsetFactor: -1,
      polygonOffsetUnits: -1,
      transparent: true,
      opacity: 0.5,
    })
    this.scene.add(this.object)
    this.edgeScene.add(this.edges)
    for (const shell of Object.values(this.cage)) {
      shell.visible = shell.frustumCulled = false
      this.cageScene.add(shell)
    }
    for (const part of Object.values(this.layout)) {
      part.visible = part.frustumCulled = false
      part.renderOrder = 1
      part.material.depthTest = false
      this.scene.add(part)
    }
    this.layout.overlaps.material.uniforms.ubFlat!.value = true
  }

  /** Whether the mesh is shown in place of the look. */
  get on(): boolean {
    return this.inspected !== null || this.flat
  }
  set state(texture: Texture) {
    for (const m of [this.inspect, this.identity, this.edges.material, this.layout.overlaps.material]) m.state = texture
  }
  set accent(rgb: number[]) {
    this.cage.outer.material.color.setRGB(rgb[0]!, rgb[1]!, rgb[2]!)
    this.cage.inner.material.color.setRGB(ASTRAY[0]!, ASTRAY[1]!, ASTRAY[2]!)
    this.inspect.uniforms.ubAccent!.value = rgb
  }

  setMesh(tables: MeshTables, same: boolean): void {
    this.tables = tables
    if (!same) {
      const { mesh, parts } = tables
      const geometry = new BufferGeometry()
      const count = mesh.positions.length / 3
      geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
      geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
      geometry.setAttribute('ubUvIn', new BufferAttribute(mesh.uvs ?? new Float32Array(count * 2), 2))
      geometry.setAttribute('ubPartIn', new BufferAttribute(Float32Array.from(parts.partOfVertex), 1))
      geometry.setAttribute('ubValueIn', new BufferAttribute(new Float32Array(count), 1))
      geometry.setAttribute('ubPatchIn', new BufferAttribute(new Uint8Array(count * 3), 3, true))
      geometry.setIndex(new BufferAttribute(mesh.indices, 1))
      this.object.geometry.dispose()
      this.object.geometry = this.edges.geometry = geometry
      this.layout.overlaps.geometry = this.layout.lines.geometry = new BufferGeometry()
    }
    this.show(this.inspected)
  }

  /** Shows a level or a vertex map of the mesh; null shows the look. */
  show(inspected: Inspected | null): void {
    this.inspected = inspected
    const { tables, inspect } = this
    const { geometry } = this.object
    if (!tables || !inspected) return this.changed()
    const { parts } = tables
    const { uniforms } = inspect
    uniforms.ubLane!.value = inspected.kind === 'surface' ? inspected.lane : -1
    if (inspected.kind === 'surface') {
      const { picture, span, falseColors } = inspected
      if (picture !== this.picture) {
        this.picture = picture
        ;(uniforms.ubPicture!.value as Texture).dispose()
        uniforms.ubPicture!.value = pictureTexture(picture)
      }
      uniforms.ubCovers!.value = picture.covers ?? [0, 0, 1, 1]
      uniforms.ubSpan!.value = span
      uniforms.ubMode!.value = falseColors ? MODES.falseColor : MODES.gray
    } else if (inspected.kind === 'values') {
      const target = geometry.getAttribute('ubValueIn') as BufferAttribute
      const into = target.array as Float32Array
      const { values, stride, offset } = inspected
      if (values.length !== into.length * stride) return
      for (let v = 0; v < into.length; v++) into[v] = values[v * stride + offset]!
      target.needsUpdate = true
      uniforms.ubSpan!.value = inspected.span
      uniforms.ubMode!.value = inspected.falseColors ? MODES.falseColor : MODES.gray
    } else if (inspected.kind === 'astray') {
      const { shares } = inspected
      this.swatch(i => redAt(shares[i] ?? 0))
    } else if (inspected.kind === 'partners') {
      const { alone } = inspected
      this.swatch(i => (alone[i] ? FOUND : swatchOf(parts.parts[i]!.key)))
    } else if (inspected.level === 'patch') {
      this.colorPatches()
      uniforms.ubMode!.value = MODES.patch
    } else {
      const { level } = inspected
      const list = parts.parts
      const keyAt = (i: number): string => {
        if (level === 'part') return list[i]!.key
        return level === 'group' ? parts.groups[list[i]!.group]!.key : parts.objectKeys[list[i]!.object]!
      }
      this.swatch(i => swatchOf(keyAt(i)))
    }
    this.changed()
  }

  /** Shows two surfaces that the mesh lies between; undefined shows none. */
  setCage(cage: CageSurfaces | undefined): void {
    for (const end of ['outer', 'inner'] as const) {
      const shell = this.cage[end]
      shell.geometry.dispose()
      shell.geometry = new BufferGeometry()
      shell.visible = cage !== undefined && this.tables !== undefined
      if (!cage || !this.tables) continue
      shell.geometry.setAttribute('position', new BufferAttribute(cage[end], 3))
      shell.geometry.setIndex(new BufferAttribute(this.tables.mesh.indices, 1))
    }
    this.changed()
  }

  /** Shows each part in a color of its own, encoded for display. */
  private swatch(colorOf: (part: number) => readonly number[]): void {
    const { uniforms } = this.inspect
    ;(uniforms.ubSwatches!.value as Texture | null)?.dispose()
    uniforms.ubSwatches!.value = partTexture(this.tables!.parts.parts.length, (i, bytes, at) =>
      colorOf(i).forEach((x, k) => {
        bytes[at + k] = Math.round(x * 255)
      }),
    )
    uniforms.ubMode!.value = MODES.part
  }

  /**
   * A color for each patch. Flat values come from a triangle's last vertex, so the corners of each triangle are turned
   * until that one belongs to its patch alone; where no corner does, the triangle takes its neighbor's color.
   */
  private colorPatches(): void {
    const { mesh, parts } = this.tables!
    const { geometry } = this.object
    const owner = new Int32Array(mesh.positions.length / 3).fill(-1)
    const indices = mesh.indices.slice()
    const target = geometry.getAttribute('ubPatchIn') as BufferAttribute
    const colors = target.array as Uint8Array
    const known = new Map<number, number[]>()
    for (let t = 0; t < indices.length / 3; t++) {
      const patch = parts.patchOfTriangle[t]!
      const corner = [0, 1, 2].map(k => indices[t * 3 + k]!)
      const k = corner.findIndex(v => owner[v] === patch)
      const last = k >= 0 ? k : corner.findIndex(v => owner[v]! < 0)
      if (last < 0) continue
      owner[corner[last]!] = patch
      for (let i = 0; i < 3; i++) indices[t * 3 + i] = corner[(last + 1 + i) % 3]!
      let color = known.get(patch)
      if (!color) known.set(patch, (color = swatchOf(keyOf(`patch ${patch}`)).map(x => Math.round(x * 255))))
      colors.set(color, corner[last]! * 3)
    }
    target.needsUpdate = true
    geometry.setIndex(new BufferAttribute(indices, 1))
  }

  /** Lays the mesh out by its UVs, with tile borders, island borders and overlaps. */
  setFlat(flat: boolean, layout?: Layout): void {
    this.flat = flat
    this.inspect.uniforms.ubFlat!.value = this.identity.uniforms.ubFlat!.value = flat
    const { lines, tiles, overlaps } = this.layout
    for (const part of [lines, tiles, overlaps]) part.visible = flat
    if (flat && layout && this.tables) {
      const uvs = this.tables.mesh.uvs!
      const borders = new Float32Array(layout.borders.length * 3)
      layout.borders.forEach((v, i) => {
        borders[i * 3] = uvs[v * 2]!
        borders[i * 3 + 1] = 1 - uvs[v * 2 + 1]!
      })
      lines.geometry.dispose()
      lines.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(borders, 3))
      const corners = layout.tiles.flatMap(t => {
        const x = (t - 1001) % 10
        const y = Math.floor((t - 1001) / 10)
        return [
          [x, y],
          [x + 1, y],
          [x + 1, y],
          [x + 1, y + 1],
          [x + 1, y + 1],
          [x, y + 1],
          [x, y + 1],
          [x, y],
        ].flatMap(c => [...c, 0])
      })
      tiles.geometry.dispose()
      tiles.geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(corners), 3))
      const shared = new BufferGeometry()
      for (const [name, attribute] of Object.entries(this.object.geometry.attributes))
        shared.setAttribute(name, attribute)
      shared.setIndex(new BufferAttribute(layout.overlapping, 1))
      overlaps.geometry = shared
      overlaps.visible = layout.overlapping.length > 0
    }
    this.changed()
  }

  draw(renderer: WebGLRenderer, camera: Camera): void {
    renderer.setClearColor(this.background, 1)
    renderer.clear()
    this.object.visible = this.tables !== undefined
    renderer.render(this.scene, camera)
    if (this.showsEdges && !this.flat) renderer.render(this.edgeScene, camera)
    if (!this.flat) renderer.render(this.cageScene, camera)
  }

  /** The edges over a picture whose depths are on the canvas. */
  drawEdges(renderer: WebGLRenderer, camera: Camera): void {
    if (this.tables) renderer.render(this.edgeScene, camera)
  }

  /** The parts inside a rectangle of the UV layout as it is seen, its corners 0..1 from the upper left. */
  partsIn(renderer: WebGLRenderer, camera: Camera, x0: number, y0: number, x1: number, y1: number): number[] {
    const size = renderer.getSize(new Vector2())
    const w = Math.round(size.x)
    const h = Math.round(size.y)
    const target = new WebGLRenderTarget(w, h)
    const {
      layout: { lines, tiles, overlaps },
    } = this
    const visible = [lines, tiles, overlaps].map(o => o.visible)
    for (const o of [lines, tiles, overlaps]) o.visible = false
    this.object.material = this.identity
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
    this.object.material = this.inspect
    ;[lines, tiles, overlaps].forEach((o, i) => {
      o.visible = visible[i]!
    })
    const found = new Set<number>()
    for (let i = 0; i < pixels.length; i += 4) {
      const id = pixels[i]! + pixels[i + 1]! * 256 + pixels[i + 2]! * 65536
      if (pixels[i + 3] && id) found.add(id - 1)
    }
    this.changed()
    return [...found]
  }

  dispose(): void {
    for (const part of Object.values(this.layout)) {
      part.geometry.dispose()
      part.material.dispose()
    }
    for (const shell of Object.values(this.cage)) {
      shell.geometry.dispose()
      shell.material.dispose()
    }
    this.inspect.dispose()
    this.identity.dispose()
    this.object.geometry.dispose()
    this.edges.material.dispose()
  }
}
