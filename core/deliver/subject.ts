import { Baker } from '../bake/baker'
import { lanesOf, OCCLUSION_MAP, type Lanes } from '../bake/lanes'
import { isExr, mapOf, MAPS, type MapSpec } from '../bake/maps'
import { taken } from '../bake/tangents'
import { vertexLanes } from '../bake/vertexValues'
import { Evaluator } from '../evaluate/evaluator'
import type { Gatherer } from '../evaluate/gather'
import type { Workpiece } from '../evaluate/workpiece'
import type { GlbSurface } from '../exchange/writeGlb'
import { surfaceGraph, type SurfaceGraph } from '../exchange/surfaceGraph'
import { plainName } from '../exchange/names'
import { PART_INDEX } from '../exchange/writeGlb'
import { MxGraph, type MxValue } from '../exchange/mxGraph'
import { mxImage, type MxChannels, type MxLook } from '../exchange/writeMaterialX'
import type { Primvar } from '../exchange/usdMesh'
import type { PictureUse, UsdSurface } from '../exchange/usdPreview'
import { CHANNEL_NAMES, type Channel } from '../graph/types'
import { titleOf } from '../graph/check'
import type { Look } from '../graph/look'
import { onFrame } from '../graph/notes'
import { valueNames } from '../program/valueNames'
import type { Kernels } from '../kernels/kernels'
import { triangleAreas, type VertexMap } from '../mesh/mesh'
import { pointSet } from '../mesh/sample'
import { refsOf } from '../program/lower'
import { plan, type Plan } from '../program/plan'
import { UNIFORM, VERTEX, type Ref } from '../program/ops'
import { partsAtVertices, type Delivered } from './delivered'
import { formatsOf } from './formats'
import { recipeFaces } from './recipeFaces'
import { DeliveryError, type DeliverySettings } from './settings'

/** Pictures that a USD surface reads as they are. */
const SURFACE_PICTURES = [
  'baseColor',
  'metalness',
  'roughness',
  'occlusion',
  'normal',
  'opacity',
  'translucency',
  'translucencyColor',
] as const

const OCCLUSION: MapSpec = { name: 'occlusion', lanes: ['occlusion'], space: 'linear' }
/** Which channel each picture shows, for those that most looks leave alone. */
const NEEDS: Partial<Record<string, Channel>> = {
  normal: 'height',
  height: 'height',
  emission: 'emission',
  opacity: 'opacity',
  translucency: 'translucency',
  translucencyColor: 'translucency',
}

const THROUGH_LANES = ['translucency.r', 'translucency.g', 'translucency.b', 'translucency']
/** As glTF packs what passes through a surface: its color, and in the alpha how much of it. */
const GLB_THROUGH: MapSpec = { name: 'glb through', lanes: THROUGH_LANES, space: 'srgb' }

/** Settings that a document cannot have, in a sentence. */
const shutSettings = (settings: readonly string[]): string[] =>
  settings.length ? [`Values of the mesh, or pictures, depend on ${settings.join(', ')}: not to be set here`] : []

/** One look on one mesh, about to leave. */
export class Subject {
  readonly baker: Baker
  readonly leftOut: string[] = []

  constructor(
    private readonly kernels: Kernels,
    private readonly piece: Workpiece,
    private readonly delivered: Delivered,
    readonly look: Look,
    private readonly settings: DeliverySettings,
    tangents?: Float32Array,
    clock?: () => number,
  ) {
    this.baker = new Baker(kernels, piece.tables, look, tangents, clock)
    if (this.liesOnNormals && this.sets('height') && settings.relief === 'displacement')
      this.leftOut.push(
        'Displacement alone: the look lies on a picture of normals, which leaves with the height in it.',
      )
    if (this.liesOnNormals && settings.materials.includes('procedural'))
      this.leftOut.push('Normals: a procedural material has the height of the look alone, not what it lies on.')
    for (const map of settings.maps) {
      const channel = NEEDS[map]
      if (channel && !this.has(map)) this.leftOut.push(`${MAPS[map].title}: the look sets no ${channel}.`)
    }
  }

  private sets(channel: Channel): boolean {
    return this.baker.program.sets.has(channel)
  }
  /** Whether the look has what a picture shows. */
  private has(map: string): boolean {
    if (map === 'normal') return this.bends
    const needed = NEEDS[map]
    return !needed || this.sets(needed)
  }
  /** Whether the surface is shaded otherwise than the mesh faces. */
  private get bends(): boolean {
    return this.sets('height') || this.liesOnNormals
  }
  private get liesOnNormals(): boolean {
    return this.baker.program.normals !== undefined
  }
  private varies(channel: Channel): boolean {
    const { program } = this.baker
    return program.result[channel].some(ref => program.domains[ref]! > UNIFORM)
  }
  private get occludes(): boolean {
    const { mesh } = this.piece.tables
    const computed = mesh.maps.some(m => m.name === OCCLUSION_MAP && m.components === 1)
    return computed || this.baker.program.closed !== undefined
  }
  private lanes(names: readonly string[]): Lanes {
    return lanesOf(this.baker.laid, names)
  }

  /** The numbers of a channel that is the same everywhere. */
  private constant(channel: Channel): number[] {
    const { laid, program } = this.baker
    return laid
      .sampler(program.result[channel])(pointSet(1))
      .map(c => c[0]!)
  }

  /** The pictures inside a GLB: always PNG of 8 bits. */
  glbMaps(): MapSpec[] {
    if (!this.piece.tables.mesh.uvs) return []
    const { colorIn } = this.settings
    const opacity = this.sets('opacity')
    return [
      ...(colorIn === 'texture'
        ? [
            {
              name: 'glb color',
              lanes: ['baseColor.r', 'baseColor.g', 'baseColor.b', ...(opacity ? ['opacity'] : [])],
              space: 'srgb' as const,
            },
          ]
        : []),
      mapOf('orm'),
      ...(this.bends ? [mapOf('normal')] : []),
      ...(this.sets('emission') ? [mapOf('emission')] : []),
      ...(this.sets('translucency') ? [GLB_THROUGH] : []),
    ]
  }

  /** What a material document reads from pictures. */
  documentMaps(): MapSpec[] {
    const { materials, colorIn, relief } = this.settings
    if (!formatsOf(this.settings).some(f => f.reads)) return []
    const wanted = (['baseColor', 'metalness', 'roughness'] as const).filter(
      c => this.varies(c) && !(c === 'baseColor' && colorIn === 'vertices' && !materials.includes('baked')),
    )
    return [
      ...wanted.map(mapOf),
      ...(this.occludes ? [OCCLUSION] : []),
      ...(this.bends && (relief !== 'displacement' || this.liesOnNormals) ? [mapOf('normal')] : []),
      ...(this.sets('height') && relief !== 'normal' ? [mapOf('height')] : []),
      ...(['emission', 'opacity', 'translucency'] as const).filter(c => this.sets(c)).map(mapOf),
      ...(this.sets('translucency') ? [mapOf('translucencyColor')] : []),
    ]
  }

  /** The pictures that leave as files, each once: those that were asked for, and those that documents read. */
  fileMaps(): MapSpec[] {
    const all = [...this.askedMaps(), ...this.documentMaps()]
    return [...new Map(all.map(spec => [spec.name, spec])).values()]
  }

  /** The pictures that leave as files by themselves, and those of a procedural document. */
  askedMaps(): MapSpec[] {
    return [
      ...this.settings.maps.filter(m => this.has(m)).map(mapOf),
      ...this.settings.extra,
      ...this.setMasks(),
      ...(this.procedural?.specs ?? []),
    ]
  }

  private setMasks(): MapSpec[] {
    if (!this.settings.setMasks) return []
    const { sets } = this.piece.tables
    return sets.map(({ set }) => ({ name: `set ${plainName(set.name)}`, lanes: [`set:${set.id}`], space: 'linear' }))
  }

  /** Numbers of part, group and object at the vertices that leave, from 0. */
  identity(): Primvar[] {
    if (!this.settings.identity) return []
    const partOf = partsAtVertices(this.delivered)
    const { parts } = this.piece.parts
    const column = (name: string, of: (part: number) => number): Primvar => ({
      name,
      components: 1,
      values: Float32Array.from(partOf, of),
      perPart: true,
      whole: true,
    })
    return [
      column(PART_INDEX, p => p),
      column('group_index', p => parts[p]!.group),
      column('object_index', p => parts[p]!.object),
    ]
  }

  /** A surface of a GLB from its pictures, which are in the order of {@link glbMaps}. */
  glbSurface(pngs: readonly Uint8Array[]): GlbSurface {
    const of = new Map(this.glbMaps().map((spec, i) => [spec.name, pngs[i]!]))
    const uvs = pngs.length > 0
    const normal = of.get('normal')
    const emissive = of.get('emission')
    const baseColor = of.get('glb color')
    const metallicRoughness = of.get('orm')
    const through = of.get(GLB_THROUGH.name)
    return {
      ...(baseColor && { baseColor }),
      ...(metallicRoughness && { metallicRoughness, occluded: this.occludes }),
      ...(normal && { normal }),
      ...(emissive && { emissive, emissiveStrength: this.largest.emission }),
      ...(baseColor && this.sets('opacity') && { opacity: true }),
      ...(through && { through }),
      ...(!uvs && { factors: this.means() }),
    }
  }

  private means(): NonNullable<GlbSurface['factors']> {
    const areas = triangleAreas(this.piece.tables.mesh)
    const points = pointSet(areas.length)
    points.u.fill(1 / 3)
    points.v.fill(1 / 3)
    for (let t = 0; t < areas.length; t++) points.triangle[t] = t
    const lanes = ['metalness', 'roughness', ...(this.sets('translucency') ? THROUGH_LANES : [])]
    const total = areas.reduce((a, b) => a + b, 0) || 1
    const mean = (column: Float32Array) => column.reduce((sum, x, t) => sum + x * areas[t]!, 0) / total
    const [metalness, roughness, ...through] = this.lanes(lanes).at(points).map(mean)
    return {
      baseColor: [1, 1, 1],
      metalness: metalness!,
      roughness: roughness!,
      ...(through.length && { through: through as [number, number, number, number] }),
    }
  }

  /** What 8 and 16 bits of height and emission stand for. */
  get largest(): Lanes['largest'] {
    return (this.known ??= this.baker.largestOf([mapOf('height'), mapOf('emission')]))
  }
  private known?: Lanes['largest']

  /** Lanes at the vertices that leave. */
  private atVertices(names: readonly string[]): Float32Array[] {
    const { from, coarse } = this.delivered
    const columns = vertexLanes(this.lanes(names), this.piece.tables, coarse)
    return from ? columns.map(c => taken(c, 1, from)) : columns
  }
  private woven(columns: readonly Float32Array[]): Float32Array {
    const n = columns[0]!.length
    const out = new Float32Array(n * columns.length)
    columns.forEach((c, k) => {
      for (let v = 0; v < n; v++) out[v * columns.length + k] = c[v]!
    })
    return out
  }
  /** Linear base color per vertex. */
  vertexColors(): Float32Array {
    return this.woven(this.atVertices(['baseColor.r', 'baseColor.g', 'baseColor.b']))
  }
  /** The named maps that the settings ask for. `perPart` where the value belongs to parts. */
  vertexMaps(): Primvar[] {
    return this.settings.vertexMaps.map(({ name, lanes }) => ({
      name,
      components: lanes.length,
      values: this.woven(this.atVertices(lanes)),
      perPart: this.belongsToParts(lanes),
    }))
  }
  private belongsToParts(names: readonly string[]): boolean {
    const { program } = this.baker
    return names.every(name => {
      if (/^(part|group|object|id)\.|^set:/.test(name)) return true
      const port = /^port:(.+\/[^/.]+)/.exec(name)
      const value = port ? program.outputs.get(port[1]!) : undefined
      const ofChannels = CHANNEL_NAMES.filter(c => name === c || name.startsWith(`${c}.`)).flatMap(
        c => program.result[c],
      )
      const ofPort = value && value.type !== 'finish' ? refsOf(value) : []
      const refs = value ? ofPort : ofChannels
      return refs.length > 0 && refs.every(ref => program.domains[ref]! < VERTEX)
    })
  }

  /** The surface of a USD layer, from what pictures are called. */
  usdSurface(name: string, path: (spec: MapSpec) => PictureUse): UsdSurface {
    const maps = new Map(this.documentMaps().map(m => [m.name, m]))
    const use = (map: string) => (maps.has(map) ? path(maps.get(map)!) : undefined)
    const raw = isExr(this.settings.format)
    const entries = SURFACE_PICTURES.map(k => [k, use(k)] as const).filter(([, v]) => v)
    const height = use('height')
    const emission = use('emission')
    const { largest } = this
    return {
      name,
      ...Object.fromEntries(entries),
      ...(!maps.has('baseColor') && this.settings.colorIn === 'vertices' && { vertexColor: true }),
      factors: {
        baseColor: this.varies('baseColor') ? undefined : (this.constant('baseColor') as [number, number, number]),
        metalness: this.varies('metalness') ? undefined : this.constant('metalness')[0],
        roughness: this.varies('roughness') ? undefined : this.constant('roughness')[0],
      },
      ...(height && {
        height: {
          ...height,
          ...(raw ? { scale: 0.001, bias: 0 } : { scale: (2 * largest.height) / 1000, bias: -largest.height / 1000 }),
        },
      }),
      ...(emission && { emission: { ...emission, strength: raw ? 1 : largest.emission } }),
    }
  }

  /** A MaterialX look that reads everything from pictures. */
  bakedMaterial(name: string, path: (spec: MapSpec) => PictureUse): MxLook {
    const graph = new MxGraph()
    const channels: MxChannels = {}
    const raw = isExr(this.settings.format)
    const { largest } = this
    for (const spec of this.documentMaps()) {
      const channel = spec.name as keyof MxChannels
      const plain = spec.lanes.length === 3 ? 'color3' : 'float'
      const type = spec.name === 'normal' ? 'vector3' : plain
      channels[channel] = mxImage(graph, spec.name, type, path(spec))
    }
    const float = (category: string, in1: MxValue, in2: MxValue) =>
      graph.node(category, 'float', { in1: { type: 'float', value: in1 }, in2: { type: 'float', value: in2 } })
    if (channels.height && !raw)
      channels.height = float('multiply', float('subtract', channels.height, 0.5), 2 * largest.height)
    if (channels.emission && !raw && largest.emission !== 1)
      channels.emission = graph.node('multiply', 'color3', {
        in1: { type: 'color3', value: channels.emission },
        in2: { type: 'float', value: largest.emission },
      })
    this.fillConstants(channels)
    return { name, graph, channels }
  }
  private fillConstants(channels: MxChannels): void {
    for (const c of ['baseColor', 'metalness', 'roughness'] as const) {
      if (channels[c] !== undefined) continue
      const numbers = this.constant(c)
      channels[c] = numbers.length === 1 ? numbers[0]! : numbers
    }
  }

  private proceduralPlan() {
    const { program, read } = this.baker
    const set = CHANNEL_NAMES.filter(
      c => c === 'baseColor' || c === 'metalness' || c === 'roughness' || program.sets.has(c),
    )
    const roots = [...new Set(set.flatMap(c => program.result[c]))]
    const made = plan(program, roots)
    const gatherer = this.baker.laid.gatherer()
    const evaluator = new Evaluator(this.kernels, made, this.piece.tables, gatherer)
    gatherer.refresh(read, roots)
    evaluator.refresh(read)
    return { set, roots, made, evaluator, uniform: this.uniformsOf(made, gatherer) }
  }

  /** The numbers of all uniform values of a plan, not only of those that it hands on. */
  private uniformsOf({ program, stages }: Plan, gatherer: Gatherer): (ref: Ref) => number {
    const all = plan(program, stages[UNIFORM].order)
    const evaluator = new Evaluator(this.kernels, all, this.piece.tables, gatherer)
    evaluator.refresh(this.baker.read)
    const at = new Map(all.stages[UNIFORM].out.map((ref, i) => [ref, i]))
    return ref => evaluator.uniforms[at.get(ref)!]!
  }
  private cached?: {
    specs: MapSpec[]
    attributes: SurfaceGraph['attributes']
    baked: string[]
    build: (name: string, path: (spec: MapSpec) => PictureUse) => MxLook
    evaluator: Evaluator
  }

  /** What a procedural material needs besides its document; nothing where none is asked for. */
  get procedural() {
    if (!this.settings.materials.includes('procedural')) return undefined
    if (this.cached) return this.cached
    const { set, roots, made, evaluator, uniform } = this.proceduralPlan()
    const names = valueNames(this.look, made.program)
    const recipes = recipeFaces(this.look, made.program)
    const draw = (graph: MxGraph, path: (spec: MapSpec) => PictureUse) =>
      surfaceGraph(
        graph,
        made,
        uniform,
        (name, ref) => mxImage(graph, name, 'float', path({ name, lanes: [`ref:${ref}`], space: 'linear' })),
        names,
        recipes,
      )
    const trial = draw(new MxGraph(), spec => ({ path: spec.name, space: spec.space }))
    if (trial.baked.length && !this.piece.tables.mesh.uvs)
      throw new DeliveryError(
        `The procedural material needs pictures for ${trial.baked[0]!.why}, and the mesh has no UVs.`,
      )
    this.cached = {
      evaluator,
      attributes: trial.attributes,
      specs: trial.baked.map(b => ({ name: b.name, lanes: [`ref:${b.ref}`], space: 'linear' })),
      baked: [...new Set(trial.baked.map(b => b.why))].map(
        why =>
          `${trial.baked
            .filter(b => b.why === why)
            .map(b => b.name)
            .join(', ')}: ${why} has no standard node.`,
      ),
      build: (name, path) => {
        const graph = new MxGraph()
        graph.comments.push(...this.frames(), ...shutSettings(trial.withheld))
        const { roots: values } = draw(graph, path)
        const channels: MxChannels = {}
        const of = (ref: number) => values[roots.indexOf(ref)]!
        const color = (channel: string, refs: readonly number[]): MxValue => {
          const lanes = refs.map(of)
          return lanes.every(x => typeof x === 'number')
            ? (lanes as number[])
            : graph.node(
                'combine3',
                'color3',
                {
                  in1: { type: 'float', value: lanes[0]! },
                  in2: { type: 'float', value: lanes[1]! },
                  in3: { type: 'float', value: lanes[2]! },
                },
                `${channel} together`,
              )
        }
        const { program } = this.baker
        for (const c of set) {
          const refs = program.result[c]
          if (c === 'translucency') {
            channels.translucency = of(refs[0]!)
            channels.translucencyColor = color('translucencyColor', refs.slice(1))
          } else channels[c] = refs.length === 3 ? color(c, refs) : of(refs[0]!)
        }
        return { name, graph, channels }
      },
    }
    return this.cached
  }

  /** What lies on the frames of the look, a sentence for each. */
  private frames(): string[] {
    const { look } = this
    const titles = new Map(look.nodes.map(n => [n.id, titleOf(n)]))
    return (look.notes ?? []).flatMap(note => {
      const on = onFrame(look, note.id).nodes.map(id => titles.get(id))
      return on.length ? [`${note.title || 'Frame'}: ${on.join(', ')}`] : []
    })
  }

  /** The geometry properties that a procedural material reads, on the vertices of the analysis mesh. */
  attributes(): (VertexMap & { perPart: boolean })[] {
    const found = this.procedural
    if (!found) return []
    const { evaluator, attributes } = found
    const { stages } = evaluator.plan
    const { partOfVertex } = this.piece.tables.parts
    const { from } = this.delivered
    return attributes.map(({ name, ref, perPart }) => {
      const own = perPart ? evaluator.perPart(ref) : evaluator.vertexColumns[stages[VERTEX].out.indexOf(ref)]!
      const spread = (column: Float32Array) => (perPart ? Float32Array.from(partOfVertex, p => column[p]!) : column)
      const values = typeof own === 'number' ? new Float32Array(partOfVertex.length).fill(own) : spread(own)
      return { name, components: 1, perPart, values: from ? taken(values, 1, from) : values }
    })
  }
}
