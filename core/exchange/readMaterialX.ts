import { XMLParser } from 'fast-xml-parser'
import { addNode, connect, setParam } from '../graph/edit'
import { inputType, kindFor } from '../graph/kinds'
import { nodeOf } from '../graph/ports'
import { emptyLook, LookError, parseLook, type Look } from '../graph/look'
import type { Channel, Rgb } from '../graph/types'
import { tidied } from '../graph/tidy'
import type { ParamValue } from '../nodes/declare'

/** Booleans as numbers. */
const TRUTH: Record<string, string | undefined> = { true: '1', false: '0' }

interface Element {
  tag: string
  name: string
  type: string
  attributes: Record<string, string>
  inputs: Map<string, Element>
  children: Element[]
}
/** Numbers, or where a node's value comes out. */
type Value = readonly number[] | { node: string; port: string }
type Wanted = 'value' | 'color'
const isNumbers = (v: Value): v is readonly number[] => Array.isArray(v)

/** Documents larger than this are no material documents. */
const MOST_CHARACTERS = 20_000_000
const MOST_NODES = 1500

type Raw = Record<string, unknown>
function elements(raw: readonly Raw[]): Element[] {
  return raw.flatMap(entry => {
    const tag = Object.keys(entry).find(k => k !== ':@')
    if (!tag || tag.startsWith('#') || tag.startsWith('?')) return []
    const attributes = Object.fromEntries(
      Object.entries((entry[':@'] ?? {}) as Record<string, unknown>).map(([k, v]) => [k, String(v)]),
    )
    const children = elements(Array.isArray(entry[tag]) ? (entry[tag] as Raw[]) : [])
    return [
      {
        tag,
        name: attributes.name ?? '',
        type: attributes.type ?? '',
        attributes,
        children,
        inputs: new Map(children.filter(c => c.tag === 'input').map(c => [c.name, c])),
      },
    ]
  })
}

/** Inputs of the surfaces that are understood, by channel. */
const SURFACES: Record<
  string,
  Partial<
    Record<
      'baseColor' | 'metalness' | 'roughness' | 'emission' | 'intensity' | 'opacity' | 'translucency' | 'throughColor',
      string
    >
  >
> = {
  open_pbr_surface: {
    baseColor: 'base_color',
    metalness: 'base_metalness',
    roughness: 'specular_roughness',
    emission: 'emission_color',
    intensity: 'emission_luminance',
    opacity: 'geometry_opacity',
    translucency: 'subsurface_weight',
    throughColor: 'subsurface_color',
  },
  gltf_pbr: {
    baseColor: 'base_color',
    metalness: 'metallic',
    roughness: 'roughness',
    emission: 'emissive',
    intensity: 'emissive_strength',
    opacity: 'alpha',
  },
  standard_surface: {
    baseColor: 'base_color',
    metalness: 'metalness',
    roughness: 'specular_roughness',
    emission: 'emission_color',
    intensity: 'emission',
    opacity: 'opacity',
    translucency: 'subsurface',
    throughColor: 'subsurface_color',
  },
  UsdPreviewSurface: {
    baseColor: 'diffuseColor',
    metalness: 'metallic',
    roughness: 'roughness',
    emission: 'emissiveColor',
    opacity: 'opacity',
  },
}
const CHANNEL_OF: Record<string, Channel> = { intensity: 'emission', throughColor: 'translucency' }
const COLORS = new Set(['baseColor', 'emission', 'throughColor'])
const ARITHMETIC: Record<string, string> = {
  add: 'add',
  subtract: 'subtract',
  multiply: 'multiply',
  divide: 'divide',
  power: 'power',
  min: 'smaller',
  max: 'larger',
  modulo: 'remainder',
  difference: 'difference',
}
/** Standard blends of colors whose order of operands does not matter, or is named fg and bg. */
const BLENDS: Record<string, string> = {
  multiply: 'multiply',
  min: 'darken',
  max: 'lighten',
  screen: 'screen',
  overlay: 'overlay',
  difference: 'difference',
  burn: 'colorBurn',
  dodge: 'colorDodge',
}

/**
 * Reads a MaterialX document (1.38 or 1.39) as a look: the first surface material, its surface, and whatever of its
 * node graph is of kinds that Ubblet has. What it does not have stays at its default and is named in the report.
 * @param name what the look is called
 * @throws LookError with one sentence where the document cannot be read at all
 */
export function readMaterialX(text: string, name: string): { look: Look; report: string[] } {
  if (text.length > MOST_CHARACTERS) throw new LookError('The material document is too large.')
  let roots: Element[]
  try {
    roots = elements(
      new XMLParser({
        ignoreAttributes: false,
        attributeNamePrefix: '',
        preserveOrder: true,
        parseAttributeValue: false,
        processEntities: true,
      }).parse(text, true) as Raw[],
    )
  } catch (error) {
    throw new LookError(
      `This is not a MaterialX document: ${(error as Error).message.split('\n')[0]!.replace(/\.+$/, '')}.`,
    )
  }
  const document = roots.find(e => e.tag === 'materialx')
  if (!document) throw new LookError('This is not a MaterialX document: it has no materialx element.')
  const material = document.children.find(e => e.tag === 'surfacematerial')
  const shader =
    material?.inputs.get('surfaceshader')?.attributes.nodename ??
    document.children.find(e => e.type === 'surfaceshader')?.name
  const surface = document.children.find(e => e.name === shader)
  if (!surface) throw new LookError('The MaterialX document has no surface.')

  let look: Look = emptyLook((material?.name ?? name).slice(0, 120))
  let count = 0
  const report = new Set<string>()
  const made = new Map<string, Value>()
  const busy = new Set<string>()
  const node = (kind: string, params: Record<string, ParamValue> = {}): string => {
    if (++count > MOST_NODES) throw new LookError(`The document has more than ${MOST_NODES} nodes.`)
    const added = addNode(look, kind, [0, 0])
    look = Object.entries(params).reduce((l, [k, v]) => setParam(l, added.id, k, v), added.look)
    return added.id
  }
  /** Feeds an input of ours by wire or number; says so where it cannot. */
  const feed = (id: string, input: string, value: Value | undefined) => {
    if (!value) return
    if (!isNumbers(value)) {
      const next = connect(look, value, { node: id, port: input })
      if (next === look) report.add(`A value could not be wired into ${input} of ${id}.`)
      look = next
    } else {
      // A number for a color is a gray, a color for a number its luminance, as wires have it.
      const node = nodeOf(look, id)!
      const [r, g, b] = value.length >= 3 ? (value as Rgb) : [value[0]!, value[0]!, value[0]!]
      const luminance = value.length >= 3 ? 0.2126 * r! + 0.7152 * g! + 0.0722 * b! : r!
      look = setParam(
        look,
        id,
        input,
        inputType(node, kindFor(node)!.inputs[input]!) === 'color' ? [r!, g!, b!] : luminance,
      )
    }
  }
  const numbers = (text: string): number[] => text.split(',').map(Number)

  const scopes = new Map(document.children.filter(e => e.tag === 'nodegraph').map(g => [g.name, g]))
  const inputOf = (
    e: Element,
    input: string,
    wanted: Wanted,
    scope: Element,
    fallback?: readonly number[],
  ): Value | undefined => {
    const given = e.inputs.get(input)
    if (!given) return fallback
    const { value, nodename, nodegraph, output, interfacename } = given.attributes
    if (value !== undefined) {
      const read = numbers(TRUTH[value] ?? value)
      if (read.some(x => !Number.isFinite(x))) return fallback
      return wanted === 'color' && read.length === 1 ? [read[0]!, read[0]!, read[0]!] : read
    }
    if (interfacename) {
      const outer = scope.inputs.get(interfacename)
      return outer ? inputOf({ ...e, inputs: new Map([[input, outer]]) }, input, wanted, document, fallback) : fallback
    }
    if (nodegraph) {
      const graph = scopes.get(nodegraph)
      const out = graph?.children.find(c => c.tag === 'output' && (!output || c.name === output))
      return graph && out?.attributes.nodename
        ? (follow(graph, out.attributes.nodename, out.attributes.output, wanted) ?? fallback)
        : fallback
    }
    return nodename ? (follow(scope, nodename, output, wanted) ?? fallback) : fallback
  }
  const follow = (scope: Element, target: string, output: string | undefined, wanted: Wanted): Value | undefined => {
    const key = `${scope.name}/${target}/${output ?? ''}`
    if (made.has(key)) return made.get(key)
    const e = scope.children.find(c => c.name === target)
    if (!e) {
      report.add(`"${target}" is named but not in the document.`)
      return undefined
    }
    if (busy.has(key)) throw new LookError(`The document has a loop at "${target}".`)
    busy.add(key)
    const value = convert(e, scope, output, wanted)
    busy.delete(key)
    if (value) made.set(key, value)
    return value
  }
  const out = (id: string, port: string): Value => ({ node: id, port })

  /** How wide features are, in centimeters, from what a pattern's coordinates are multiplied by. */
  const placed = (e: Element, scope: Element): Record<string, ParamValue> => {
    const given = e.inputs.get('position') ?? e.inputs.get('texcoord')
    const flat = e.tag.endsWith('2d')
    const at = given?.attributes.nodename && scope.children.find(c => c.name === given.attributes.nodename)
    const params: Record<string, ParamValue> = { size: 100, ...(flat && { sits: 'uv' }) }
    if (!at) return params
    if (at.tag === 'multiply') {
      const factor = ['in1', 'in2'].map(k => at.inputs.get(k)?.attributes.value).find(v => v !== undefined)
      const scale = factor ? numbers(factor) : [1]
      if (scale.every(x => Math.abs(x - scale[0]!) < 1e-6) && scale[0]! > 0)
        params.size = Math.min(10000, Math.max(0.01, 100 / scale[0]!))
      else report.add(`"${e.name}": its coordinates are scaled unevenly, which is left out.`)
    } else if (!['position', 'texcoord'].includes(at.tag))
      report.add(`"${e.name}": its coordinates come from a ${at.tag} node, which is left out.`)
    return params
  }
  const number = (e: Element, input: string, fallback: number): number => {
    const text = e.inputs.get(input)?.attributes.value
    const read = text === undefined ? NaN : numbers(text)[0]!
    return Number.isFinite(read) ? read : fallback
  }

  const convert = (e: Element, scope: Element, output: string | undefined, wanted: Wanted): Value | undefined => {
    const colored = e.type.startsWith('color') || (e.type.startsWith('vector') && wanted === 'color')
    const of: Wanted = colored ? 'color' : 'value'
    const get = (input: string, fallback?: number) =>
      inputOf(
        e,
        input,
        of,
        scope,
        fallback === undefined ? undefined : Array.from({ length: colored ? 3 : 1 }, () => fallback),
      )
    switch (e.tag) {
      case 'constant':
        return get('value', 0)
      case 'dot':
      case 'convert':
        return inputOf(e, 'in', wanted, scope)
      case 'image':
      case 'tiledimage': {
        const file = e.inputs.get('file')
        const id = node('picture', {
          picture: (file?.attributes.value ?? '').split('/').pop()!,
          space: file?.attributes.colorspace === 'srgb_texture' ? 'srgb' : 'linear',
        })
        report.add(
          `"${e.name}" reads the picture ${file?.attributes.value ?? '(none)'}: add it to the project under its name.`,
        )
        return out(id, colored ? 'color' : 'red')
      }
      case 'geompropvalue':
        return out(
          node('vertexMap', { map: e.inputs.get('geomprop')?.attributes.value ?? '' }),
          colored ? 'color' : 'value',
        )
      case 'fractal2d':
      case 'fractal3d':
      case 'noise2d':
      case 'noise3d': {
        const fractal = e.tag.startsWith('fractal')
        const id = node('noise', {
          ...placed(e, scope),
          detail: fractal ? Math.min(10, Math.max(1, Math.round(number(e, 'octaves', 3)))) : 1,
          strength: fractal ? number(e, 'diminish', 0.5) : 0.5,
          sits: e.tag.endsWith('2d') ? 'uv' : 'space',
        })
        report.add(`"${e.name}": the noise has the size and detail of the document; its seed puts it in another place.`)
        if (fractal && Math.abs(number(e, 'lacunarity', 2) - 2) > 1e-3)
          report.add(`"${e.name}": each octave is half as wide as the one before, not 1/${number(e, 'lacunarity', 2)}.`)
        const amplitude = number(e, 'amplitude', 1)
        const pivot = fractal ? 0 : number(e, 'pivot', 0)
        if (amplitude === 0.5 && pivot === 0.5) return out(id, 'value')
        const spread = node('remap', {
          fromLow: 0,
          fromHigh: 1,
          toLow: pivot - amplitude,
          toHigh: pivot + amplitude,
          hold: false,
        })
        feed(spread, 'value', out(id, 'value'))
        return out(spread, 'value')
      }
      case 'worleynoise2d':
      case 'worleynoise3d':
        return out(
          node('cells', {
            ...placed(e, scope),
            jitter: number(e, 'jitter', 1),
            sits: e.tag.endsWith('2d') ? 'uv' : 'space',
          }),
          number(e, 'style', 0) === 1 ? 'value' : 'distance',
        )
      case 'mix': {
        const id = node('mix', { of: colored ? 'color' : 'value' })
        feed(id, 'a', get('bg', 0))
        feed(id, 'b', get('fg', 0))
        feed(id, 'amount', inputOf(e, 'mix', 'value', scope, [0]))
        return out(id, 'out')
      }
      case 'invert': {
        if (colored) break
        const id = node('invert')
        feed(id, 'value', get('in', 0))
        return out(id, 'value')
      }
      case 'clamp': {
        if (colored) break
        const low = number(e, 'low', 0)
        const high = number(e, 'high', 1)
        const id = node('remap', { fromLow: low, fromHigh: high, toLow: low, toHigh: high, hold: true })
        feed(id, 'value', get('in', 0))
        return out(id, 'value')
      }
      case 'remap':
      case 'range': {
        if (colored) break
        const id = node('remap', {
          fromLow: number(e, 'inlow', 0),
          fromHigh: number(e, 'inhigh', 1),
          toLow: number(e, 'outlow', 0),
          toHigh: number(e, 'outhigh', 1),
          hold: e.inputs.get('doclamp')?.attributes.value === 'true',
        })
        feed(id, 'value', get('in', 0))
        return out(id, 'value')
      }
      case 'luminance':
        return inputOf(e, 'in', wanted, scope)
      case 'combine3': {
        const id = node('join', { as: 'rgb' })
        ;['first', 'second', 'third'].forEach((port, k) =>
          feed(id, port, inputOf(e, `in${k + 1}`, 'value', scope, [0])),
        )
        return out(id, 'color')
      }
      case 'extract':
      case 'separate3': {
        const index =
          e.tag === 'extract'
            ? Math.round(number(e, 'index', 0))
            : ['outr', 'outg', 'outb', 'outx', 'outy', 'outz'].indexOf(output ?? 'outr') % 3
        const from = e.inputs.get('in')
        const target = from?.attributes.nodename
          ? scope.children.find(c => c.name === from.attributes.nodename)
          : undefined
        if (target?.tag === 'position') {
          // Ours is in centimeters.
          const id = node('position', { unit: 'cm' })
          const meters = node('math', { operation: 'divide', b: 100 })
          feed(meters, 'a', out(id, 'xyz'[index]!))
          return out(meters, 'value')
        }
        if (target?.tag === 'texcoord') return out(node('uv'), index ? 'v' : 'u')
        const id = node('separate')
        feed(id, 'color', inputOf(e, 'in', 'color', scope, [0, 0, 0]))
        return out(id, ['red', 'green', 'blue'][index] ?? 'red')
      }
      default:
    }
    const operation = ARITHMETIC[e.tag]
    const blend = BLENDS[e.tag]
    if (operation && !colored) {
      const id = node('math', { operation })
      feed(id, 'a', get('in1', 0))
      feed(id, 'b', get('in2', e.tag === 'add' || e.tag === 'subtract' ? 0 : 1))
      return out(id, 'value')
    }
    if (blend && colored) {
      const id = node('blendColors', { mode: blend })
      const named = e.inputs.has('fg') || e.inputs.has('bg')
      feed(id, 'below', named ? get('bg', 0) : get('in1', 1))
      feed(id, 'above', named ? get('fg', 0) : get('in2', 1))
      if (named) feed(id, 'amount', inputOf(e, 'mix', 'value', scope, [1]))
      return out(id, 'color')
    }
    report.add(
      `"${e.name}": there is no kind for ${e.tag}${colored ? ' of colors' : ''}; what it feeds has its default.`,
    )
    return undefined
  }

  const finishOf = (e: Element, scope: Element): { node: string; port: string } | undefined => {
    if (e.tag === 'mix') {
      const [below, above] = ['bg', 'fg'].map(k => {
        const named = e.inputs.get(k)?.attributes.nodename
        const inner = named && scope.children.find(c => c.name === named)
        return inner ? finishOf(inner, scope) : undefined
      })
      const id = node('layer')
      feed(id, 'below', below)
      feed(id, 'above', above)
      feed(id, 'mask', inputOf(e, 'mix', 'value', scope, [0]))
      return { node: id, port: 'finish' }
    }
    const inputs = SURFACES[e.tag]
    if (!inputs) {
      report.add(`"${e.name}": surfaces of the kind ${e.tag} are not read.`)
      return undefined
    }
    const sets = new Set<Channel>(['baseColor', 'metalness', 'roughness'])
    const id = node('finish')
    const known = new Set(Object.values(inputs))
    for (const [own, theirs] of Object.entries(inputs)) {
      const value = inputOf(e, theirs, COLORS.has(own) ? 'color' : 'value', scope)
      if (!value) continue
      if (own !== 'intensity' && own !== 'throughColor') sets.add((CHANNEL_OF[own] ?? own) as Channel)
      feed(id, own, value)
    }
    for (const input of e.inputs.keys())
      if (!known.has(input) && input !== 'alpha_mode' && input !== 'geometry_thin_walled')
        report.add(`"${e.name}": its ${input} is left out.`)
    look = setParam(look, id, 'sets', [...sets])
    return { node: id, port: 'finish' }
  }

  const finish = finishOf(surface, document)
  if (finish) feed('result', 'finish', finish)
  const places = tidied(
    look,
    look.nodes.map(n => n.id),
    () => ({ width: 180, height: 120 }),
  )
  look = { ...look, nodes: look.nodes.map(n => ({ ...n, at: places.get(n.id) ?? n.at })) }
  return { look: parseLook(look), report: [...report] }
}
