import { heightSlopes } from '../bake/relief'
import { colorDifference } from '../color/difference'
import { titleOf, type Finding } from '../graph/check'
import type { Look, LookNode } from '../graph/look'
import { paramOf } from '../graph/kinds'
import { CHANNEL_NAMES, CHANNELS, type Channel, type Stop } from '../graph/types'
import { RESULT } from '../nodes'
import type { FinishRefs, Lowered } from '../nodes/declare'
import type { Kernels } from '../kernels/kernels'
import { samplePartPoints, samplePoints, type SurfacePoints } from '../mesh/sample'
import { triangleAreas } from '../mesh/mesh'
import { lower, reader } from '../program/lower'
import type { Ref } from '../program/ops'
import { MEASURED_POINTS } from './gather'
import { alikePairs } from './pick'
import { sampler } from './sampler'
import type { MeshTables } from './tables'

/** The input that decides where something lies, by the kind of its node. */
const MASK_PORTS: Record<string, string | undefined> = { layer: 'mask', mix: 'amount' }

/** Points of a part behind its mean color. */
const PART_POINTS = 24
/** Above so many parts, neighbors are not compared: finding them would take longer than the answer is worth. */
const MOST_PARTS = 5000
/** A mask under or over this everywhere covers nothing or everything. */
const EDGE = 0.004
/** Base colors of real surfaces: luminance of coal and of fresh snow, and of the darkest bare metal in use. */
const DARKEST = 0.015
const LIGHTEST = 0.92
const DARKEST_METAL = 0.12
/** Shares of the area from which a finding is worth the artist's time. */
const MUCH = 0.05
const VERY_MUCH = 0.25
/** Slopes beyond this, 60 degrees, shade as no real relief does: it would hide itself and cast shadows. */
const STEEP = 1.75
/** CIEDE2000 under which two neighbors look the same. */
const ALIKE = 1.5

/** UV patterns, by kind: the parameter that says so, and its values. */
const ON_UVS: Record<string, [param: string, values: readonly string[], instead: string]> = {
  noise: ['sits', ['uv'], 'space'],
  cells: ['sits', ['uv'], 'space'],
  grunge: ['sits', ['uv'], 'space'],
  picture: ['sits', ['uv'], 'threeWay'],
  stripes: ['across', ['U', 'V'], 'Y'],
  tiles: ['plane', ['UV'], 'XY'],
}
const percent = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`

/**
 * What is wrong with a look on a mesh: what only its values tell. The other checks are in `core/graph/check.ts`.
 * @param texels along each side of the texture that is to be delivered
 */
export function checkValues(kernels: Kernels, tables: MeshTables, look: Look, texels = 1024): Finding[] {
  const found: Finding[] = []
  const { mesh, parts } = tables
  const program = lower(look, mesh.maps)
  const warn = (node: LookNode, message: string, more: Partial<Finding> = {}): void =>
    void found.push({ severity: 'warning', node: node.id, message, ...more })
  const sample = sampler(kernels, tables, program, reader(look), MEASURED_POINTS)
  const valuesAt = (refs: readonly Ref[], where: SurfacePoints): Float32Array[] => sample(refs)(where)
  const points = samplePoints(mesh, MEASURED_POINTS)
  /** What arrives at an input of a node, where it has a wire. */
  const arriving = (node: LookNode, port: string): Lowered | undefined => {
    const wire = look.wires.find(w => w.to.node === node.id && w.to.port === port)
    return wire && program.outputs.get(`${wire.from.node}/${wire.from.port}`)
  }
  const finishInto = (node: LookNode, port: string): FinishRefs | undefined => {
    const got = arriving(node, port)
    return got?.type === 'finish' ? got.value : undefined
  }
  const nodes = look.nodes.filter(n => !n.recipe)

  // (1) Masks that cover nothing or everything.
  const masks = nodes.flatMap(n => {
    const port = MASK_PORTS[n.kind]
    const got = port === undefined ? undefined : arriving(n, port)
    return got?.type === 'value' ? [{ node: n, ref: got.value }] : []
  })
  const masksAt = valuesAt(
    masks.map(m => m.ref),
    points,
  )
  masks.forEach(({ node }, i) => {
    const low = masksAt[i]!.reduce((s, x) => Math.min(s, x), Infinity)
    const high = masksAt[i]!.reduce((s, x) => Math.max(s, x), -Infinity)
    if (high < EDGE)
      warn(
        node,
        `The mask of ${titleOf(node)} covers nothing, so what it lets in is never seen. Raise the coverage or the levels before it.`,
        { port: node.kind === 'layer' ? 'mask' : 'amount' },
      )
    else if (low > 1 - EDGE)
      warn(
        node,
        `The mask of ${titleOf(node)} covers everything, so what lies below is never seen. Lower the coverage or the levels before it.`,
        { port: node.kind === 'layer' ? 'mask' : 'amount' },
      )
  })

  // (2) Draws that are the same everywhere.
  if (parts.parts.length > 1) {
    for (const n of nodes.filter(n => n.kind === 'partRandom')) {
      const got = program.outputs.get(`${n.id}/value`)
      if (got?.type !== 'value') continue
      const [drawn] = valuesAt([got.value], samplePartPoints(mesh, parts, 1))
      if (drawn!.some(x => x !== drawn![0])) continue
      const level = String(paramOf(n, 'level'))
      warn(
        n,
        `${titleOf(n)} draws the same for all ${parts.parts.length} parts, so nothing varies${level === 'part' ? '' : `: they are one ${level}`}.`,
        level === 'part' ? {} : { fixes: [{ label: 'Draw for each part', set: { level: 'part' } }] },
      )
    }
  }

  // (3) Patterns over UV seams; detail finer than a texel.
  const islands = parts.patches
  const across = texelSize(tables, texels)
  for (const n of nodes) {
    const where = ON_UVS[n.kind]
    if (where && mesh.uvs && islands > 1 && where[1].includes(String(paramOf(n, where[0])))) {
      warn(
        n,
        `${titleOf(n)} follows the UVs, which are cut into ${islands} islands: it will not meet itself across their seams.`,
        {
          fixes: [
            { label: where[2] === 'space' ? 'Lay it in space' : 'Lay it otherwise', set: { [where[0]]: where[2] } },
          ],
        },
      )
    }
    const size = Number(paramOf(n, 'size') ?? 0) / 100
    if (across && n.kind === 'noise' && paramOf(n, 'sits') !== 'uv') {
      const detail = Number(paramOf(n, 'detail'))
      const strength = Number(paramOf(n, 'strength'))
      const most = Math.floor(Math.log2(size / (2 * across))) + 1
      // Layers so weak that nobody sees them do not matter.
      const seen =
        strength > 0 ? Math.min(detail, 1 + Math.floor(Math.log(0.06) / Math.log(Math.min(0.999, strength)))) : 1
      if (most < 1)
        warn(
          n,
          `${titleOf(n)} is finer than two texels (${(across * 2000).toFixed(1)} mm) at ${texels} x ${texels}, so a texture cannot hold it. Make it larger, or deliver more texels.`,
          {
            fixes: [{ label: 'Make it as large as two texels', set: { size: Number((across * 200).toPrecision(3)) } }],
          },
        )
      else if (seen > most)
        warn(
          n,
          `The finest detail of ${titleOf(n)} is smaller than two texels (${(across * 2000).toFixed(1)} mm) at ${texels} x ${texels}, so a texture turns it into grain.`,
          { fixes: [{ label: `Keep ${most} ${most === 1 ? 'layer' : 'layers'} of detail`, set: { detail: most } }] },
        )
    } else if (
      across &&
      (n.kind === 'cells' || n.kind === 'grunge') &&
      paramOf(n, 'sits') !== 'uv' &&
      size < across * 4
    ) {
      warn(
        n,
        `${titleOf(n)} is finer than four texels (${(across * 4000).toFixed(1)} mm) at ${texels} x ${texels}, so a texture cannot hold it. Make it larger, or deliver more texels.`,
        { fixes: [{ label: 'Make it as large as four texels', set: { size: Number((across * 400).toPrecision(3)) } }] },
      )
    }
  }

  // (4) Layers through which something shines.
  for (const n of nodes.filter(n => n.kind === 'layer' && paramOf(n, 'opens') === 'through')) {
    const below = finishInto(n, 'below')
    const above = finishInto(n, 'above')
    const mask = arriving(n, 'mask')
    if (!below || !above?.baseColor) continue
    for (const channel of ['metalness', 'roughness'] as const) {
      const way = paramOf(n, 'channels') === 'each' ? paramOf(n, `${channel}Way`) : 'blend'
      const [ref] = below[channel] ?? []
      if (above[channel] || ref === undefined || way === 'leave') continue
      const [values, where] = valuesAt([ref, mask?.type === 'value' ? mask.value : ref], points)
      const plain = CHANNELS[channel].fallback[0]!
      let area = 0
      let off = 0
      values!.forEach((x, i) => {
        const w = mask ? Math.min(1, Math.max(0, where![i]!)) : 1
        area += w
        off += w * Math.abs(x - plain)
      })
      if (area / points.count < 0.002 || off / area < 0.12) continue
      warn(
        n,
        `${titleOf(n)} lays a color over and leaves the ${CHANNELS[channel].title.toLowerCase()} open, so that of the finish below shines through it.`,
        {
          port: 'above',
          fixes: [
            { label: 'Make it an opaque coat', set: { opens: 'coat' } },
            {
              label: `Leave the ${CHANNELS[channel].title.toLowerCase()} on purpose`,
              set: { channels: 'each', [`${channel}Way`]: 'leave' },
            },
          ],
        },
      )
    }
  }

  // (5) The result: what no real surface has.
  const end = nodes.find(n => n.kind === RESULT)
  if (end && look.wires.some(w => w.to.node === end.id)) {
    const at = Object.fromEntries(CHANNEL_NAMES.map(c => [c, valuesAt(program.result[c], points)])) as Record<
      Channel,
      Float32Array[]
    >
    let dark = 0
    let light = 0
    let dull = 0
    let between = 0
    for (let i = 0; i < points.count; i++) {
      const [r, g, b] = at.baseColor.map(c => c[i]!) as [number, number, number]
      const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
      const metal = at.metalness[0]![i]!
      if (metal > 0.1 && metal < 0.9) between++
      if (metal > 0.5) dull += Number(y < DARKEST_METAL)
      else {
        dark += Number(y < DARKEST)
        light += Number(y > LIGHTEST)
      }
    }
    const share = (x: number) => x / points.count
    if (share(dark) > VERY_MUCH)
      warn(
        end,
        `The base color is darker than coal on ${percent(share(dark))} of the surface; light that bounces there is lost, and it looks like a hole.`,
      )
    if (share(light) > MUCH)
      warn(
        end,
        `The base color is lighter than fresh snow on ${percent(share(light))} of the surface; it will glow under strong light.`,
      )
    if (share(dull) > MUCH)
      warn(
        end,
        `On ${percent(share(dull))} of the surface a metal reflects less than any bare metal does. Dirt and paint over metal have metalness 0.`,
      )
    if (share(between) > VERY_MUCH)
      warn(
        end,
        `The metalness is neither 0 nor 1 on ${percent(share(between))} of the surface. Real surfaces are one or the other; only edges between them are in between.`,
      )
    if (program.sets.has('height')) {
      const height = sample(program.result.height)
      const [first, second] = heightSlopes(tables, points, height(points)[0]!, p => height(p)[0]!)
      const steep = first.filter((s, i) => Math.hypot(s, second[i]!) > STEEP).length
      if (share(steep) > MUCH / 5)
        warn(
          end,
          `The height is steeper than 60° on ${percent(share(steep))} of the surface. A normal cannot show that; soften what drives it, or lower the height scale.`,
        )
    }
    alikeNeighbors(end)
  }
  nodes.filter(n => n.kind === 'palette').forEach(paletteShares)
  return found

  /** (7) What a palette was asked for and could not be given. */
  function paletteShares(node: LookNode): void {
    const entries = paramOf(node, 'colors') as Stop[]
    const weights = entries.map(e => Math.max(0, e.at))
    const all = weights.reduce((a, b) => a + b, 0)
    const areas = parts.parts.map(p => p.area)
    const surface = areas.reduce((a, b) => a + b, 0)
    const largest = areas.reduce((best, a, i) => (a > areas[best]! ? i : best), 0)
    const least = Math.min(...weights.filter(w => w > 0)) / (all || 1)
    if (paramOf(node, 'by') === 'area' && parts.parts.length > 1 && areas[largest]! / surface > least)
      warn(
        node,
        `${titleOf(node)} divides by area, and the largest part alone has ${percent(areas[largest]! / surface)} of it, more than the ${percent(least)} of a color: the shares cannot be exact.`,
        {
          parts: [parts.parts[largest]!.key],
          fixes: [{ label: 'Divide the number of parts', set: { by: 'count' } }],
        },
      )
    const differ = Number(paramOf(node, 'differ'))
    const which = program.outputs.get(`${node.id}/value`)
    if (!(differ > 0) || which?.type !== 'value' || !tables.touching || parts.parts.length > MOST_PARTS) return
    const { pairs } = tables.touching()
    const [drawn] = valuesAt([which.value], samplePartPoints(mesh, parts, 1))
    const numbers = drawn!.map(x => Math.round(x * Math.max(1, entries.length - 1)))
    const list = entries.flatMap(e => [e.at, ...e.color])
    const alike = alikePairs(numbers, list, differ, pairs)
    if (!alike.length) return
    warn(
      node,
      `${alike.length / 2} of ${pairs.length / 2} pairs of touching parts differ by less than the ${differ} that ${titleOf(node)} is asked for. More colors that are far apart, or more even shares, would part them.`,
      { parts: [...new Set(alike)].map(p => parts.parts[p]!.key) },
    )
  }

  /** (6) Touching parts that look the same although the look draws for them. */
  function alikeNeighbors(end: LookNode): void {
    const draw =
      nodes.find(n => n.kind === 'palette') ??
      nodes.find(n => n.kind === 'partRandom' && ['part', 'patch'].includes(String(paramOf(n, 'level'))))
    if (!draw || parts.parts.length > MOST_PARTS || !tables.touching) return
    const { pairs } = tables.touching()
    const means = valuesAt(program.result.baseColor, samplePartPoints(mesh, parts, PART_POINTS))
    const mean = (p: number) =>
      means.map(c => c.subarray(p * PART_POINTS, (p + 1) * PART_POINTS).reduce((s, x) => s + x, 0) / PART_POINTS)
    let compared = 0
    let alike = 0
    for (let i = 0; i < pairs.length; i += 2) {
      const a = parts.parts[pairs[i]!]!
      const b = parts.parts[pairs[i + 1]!]!
      // Parts of different objects or sizes are other things; nobody has to tell two bolts from a plate by color.
      if (a.object !== b.object || Math.abs(a.area - b.area) > 0.5 * Math.max(a.area, b.area)) continue
      compared++
      alike += Number(colorDifference(mean(pairs[i]!), mean(pairs[i + 1]!)) < ALIKE)
    }
    if (compared < 4 || alike / compared < 0.25) return
    const message = `${alike} of ${compared} pairs of touching parts are too alike to tell apart (CIEDE2000 under ${ALIKE}).`
    if (draw.kind === 'palette')
      warn(draw, message, { fixes: [{ label: 'Have neighbors differ', set: { differ: 10 } }] })
    else if (!String(paramOf(draw, 'how')).startsWith('apart'))
      warn(draw, message, { fixes: [{ label: 'Draw apart', set: { how: 'apartBalanced' } }] })
    else warn(end, `${message} Their draw is apart already: let it drive more hue, chroma or lightness.`)
  }
}

/** About how long a texel is on the surface, in meters, at a number of texels along each side; undefined without UVs. */
function texelSize({ mesh }: MeshTables, texels: number): number | undefined {
  const { uvs, indices } = mesh
  if (!uvs) return undefined
  let inUvs = 0
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map(k => indices[t + k]! * 2) as [number, number, number]
    inUvs +=
      Math.abs((uvs[b]! - uvs[a]!) * (uvs[c + 1]! - uvs[a + 1]!) - (uvs[c]! - uvs[a]!) * (uvs[b + 1]! - uvs[a + 1]!)) /
      2
  }
  const area = triangleAreas(mesh).reduce((s, a) => s + a, 0)
  return inUvs > 0 ? Math.sqrt(area / inUvs) / texels : undefined
}
