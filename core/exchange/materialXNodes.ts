import type { ParamValue } from '../nodes/declare'
import { numberOf, numbersOf, wiredTo, type Element } from './materialXElements'
import type { Asked, MaterialXReading, Value, Wanted } from './materialXReading'

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

/** An element about to become nodes. */
interface Conversion extends Asked {
  reading: MaterialXReading
  /** Whether it works on colors, or on vectors that somebody takes for colors. */
  colored: boolean
  /** What comes in at an input, of the kind that the element works on. */
  get(input: string, otherwise?: number): Value | undefined
  /** A number that comes in, by wire or not. */
  number(input: string, otherwise: number): Value | undefined
}
type Converter = (c: Conversion) => Value | undefined
const out = (node: string, port: string): Value => ({ node, port })
const sits = (e: Element): string => (e.tag.endsWith('2d') ? 'uv' : 'space')

/** How wide features are, in centimeters, from what a pattern's coordinates are multiplied by. */
function placed({ reading, e, scope }: Conversion): Record<string, ParamValue> {
  const at = wiredTo(scope, e.inputs.get('position') ?? e.inputs.get('texcoord'))
  const params: Record<string, ParamValue> = { size: 100, sits: sits(e) }
  if (!at || at.tag === 'position' || at.tag === 'texcoord') return params
  if (at.tag !== 'multiply') {
    reading.report.add(`"${e.name}": its coordinates come from a ${at.tag} node, which is left out.`)
    return params
  }
  const factor = ['in1', 'in2'].map(k => at.inputs.get(k)?.attributes.value).find(v => v !== undefined)
  const scale = factor ? numbersOf(factor) : [1]
  const even = scale.every(x => Math.abs(x - scale[0]!) < 1e-6) && scale[0]! > 0
  if (even) params.size = Math.min(10000, Math.max(0.01, 100 / scale[0]!))
  else reading.report.add(`"${e.name}": its coordinates are scaled unevenly, which is left out.`)
  return params
}

/** A node of one number that comes in at `in`. */
function ofOne({ reading, get }: Conversion, kind: string, params: Record<string, ParamValue> = {}): Value {
  const id = reading.node(kind, params)
  reading.feed(id, 'value', get('in', 0))
  return out(id, 'value')
}

const image: Converter = ({ reading, e, colored }) => {
  const { value: path, colorspace } = e.inputs.get('file')?.attributes ?? {}
  const id = reading.node('picture', {
    picture: (path ?? '').split('/').pop()!,
    space: colorspace === 'srgb_texture' ? 'srgb' : 'linear',
  })
  reading.report.add(`"${e.name}" reads the picture ${path ?? '(none)'}: add it to the project under its name.`)
  return out(id, colored ? 'color' : 'red')
}

const noise: Converter = c => {
  const { reading, e } = c
  const { report } = reading
  const fractal = e.tag.startsWith('fractal')
  const octaves = Math.min(10, Math.max(1, Math.round(numberOf(e, 'octaves', 3))))
  const id = reading.node('noise', {
    ...placed(c),
    detail: fractal ? octaves : 1,
    strength: fractal ? numberOf(e, 'diminish', 0.5) : 0.5,
  })
  report.add(`"${e.name}": the noise has the size and detail of the document; its seed puts it in another place.`)
  const lacunarity = numberOf(e, 'lacunarity', 2)
  if (fractal && Math.abs(lacunarity - 2) > 1e-3)
    report.add(`"${e.name}": each octave is half as wide as the one before, not 1/${lacunarity}.`)
  const amplitude = numberOf(e, 'amplitude', 1)
  const pivot = fractal ? 0 : numberOf(e, 'pivot', 0)
  if (amplitude === 0.5 && pivot === 0.5) return out(id, 'value')
  const reach = { fromLow: 0, fromHigh: 1, toLow: pivot - amplitude, toHigh: pivot + amplitude, hold: false }
  const spread = reading.node('remap', reach)
  reading.feed(spread, 'value', out(id, 'value'))
  return out(spread, 'value')
}

const cells: Converter = c => {
  const id = c.reading.node('cells', { ...placed(c), jitter: numberOf(c.e, 'jitter', 1) })
  return out(id, numberOf(c.e, 'style', 0) === 1 ? 'value' : 'distance')
}

const mix: Converter = ({ reading, colored, get, number }) => {
  const id = reading.node('mix', { of: colored ? 'color' : 'value' })
  reading.feed(id, 'a', get('bg', 0))
  reading.feed(id, 'b', get('fg', 0))
  reading.feed(id, 'amount', number('mix', 0))
  return out(id, 'out')
}

const clamp: Converter = c => {
  const [low, high] = [numberOf(c.e, 'low', 0), numberOf(c.e, 'high', 1)]
  return ofOne(c, 'remap', { fromLow: low, fromHigh: high, toLow: low, toHigh: high, hold: true })
}
const remap: Converter = c =>
  ofOne(c, 'remap', {
    fromLow: numberOf(c.e, 'inlow', 0),
    fromHigh: numberOf(c.e, 'inhigh', 1),
    toLow: numberOf(c.e, 'outlow', 0),
    toHigh: numberOf(c.e, 'outhigh', 1),
    hold: c.e.inputs.get('doclamp')?.attributes.value === 'true',
  })

const combine: Converter = ({ reading, number }) => {
  const id = reading.node('join', { as: 'rgb' })
  ;['first', 'second', 'third'].forEach((port, k) => reading.feed(id, port, number(`in${k + 1}`, 0)))
  return out(id, 'color')
}

const SEPARATED = ['outr', 'outg', 'outb', 'outx', 'outy', 'outz']
const lane: Converter = c => {
  const { reading, e, scope, output } = c
  const index = e.tag === 'extract' ? Math.round(numberOf(e, 'index', 0)) : SEPARATED.indexOf(output ?? 'outr') % 3
  const target = wiredTo(scope, e.inputs.get('in'))
  if (target?.tag === 'texcoord') return out(reading.node('uv'), index ? 'v' : 'u')
  if (target?.tag === 'position') {
    // Ours is in centimeters.
    const id = reading.node('position', { unit: 'cm' })
    const meters = reading.node('math', { operation: 'divide', b: 100 })
    reading.feed(meters, 'a', out(id, 'xyz'[index]!))
    return out(meters, 'value')
  }
  const id = reading.node('separate')
  reading.feed(id, 'color', reading.input(c, 'in', 'color', [0, 0, 0]))
  return out(id, ['red', 'green', 'blue'][index] ?? 'red')
}

const through: Converter = c => c.reading.input(c, 'in', c.wanted)
/** What there is for numbers alone. */
const plain =
  (convert: Converter): Converter =>
  c =>
    c.colored ? unknown(c) : convert(c)

const CONVERTERS: Record<string, Converter> = {
  constant: c => c.get('value', 0),
  dot: through,
  convert: through,
  luminance: through,
  image,
  tiledimage: image,
  geompropvalue: ({ reading, e, colored }) =>
    out(
      reading.node('vertexMap', { map: e.inputs.get('geomprop')?.attributes.value ?? '' }),
      colored ? 'color' : 'value',
    ),
  fractal2d: noise,
  fractal3d: noise,
  noise2d: noise,
  noise3d: noise,
  worleynoise2d: cells,
  worleynoise3d: cells,
  mix,
  invert: plain(c => ofOne(c, 'invert')),
  clamp: plain(clamp),
  remap: plain(remap),
  range: plain(remap),
  combine3: combine,
  extract: lane,
  separate3: lane,
}

const arithmetic: Converter = ({ reading, e, get }) => {
  const id = reading.node('math', { operation: ARITHMETIC[e.tag]! })
  reading.feed(id, 'a', get('in1', 0))
  reading.feed(id, 'b', get('in2', e.tag === 'add' || e.tag === 'subtract' ? 0 : 1))
  return out(id, 'value')
}
const blend: Converter = ({ reading, e, get, number }) => {
  const id = reading.node('blendColors', { mode: BLENDS[e.tag]! })
  const named = e.inputs.has('fg') || e.inputs.has('bg')
  reading.feed(id, 'below', named ? get('bg', 0) : get('in1', 1))
  reading.feed(id, 'above', named ? get('fg', 0) : get('in2', 1))
  if (named) reading.feed(id, 'amount', number('mix', 1))
  return out(id, 'color')
}
const unknown: Converter = ({ reading, e, colored }) => {
  const what = `${e.tag}${colored ? ' of colors' : ''}`
  reading.report.add(`"${e.name}": there is no kind for ${what}; what it feeds has its default.`)
  return undefined
}
function converterOf({ e, colored }: Conversion): Converter {
  const own = CONVERTERS[e.tag]
  if (own) return own
  if (!colored && ARITHMETIC[e.tag]) return arithmetic
  return colored && BLENDS[e.tag] ? blend : unknown
}

/** Makes nodes of an element of a document. @returns what it gives out; nothing where there is no kind for it */
export function convertNode(reading: MaterialXReading, asked: Asked): Value | undefined {
  const { type } = asked.e
  const colored = type.startsWith('color') || (type.startsWith('vector') && asked.wanted === 'color')
  const of: Wanted = colored ? 'color' : 'value'
  const filled = (x: number): number[] => Array.from({ length: colored ? 3 : 1 }, () => x)
  const conversion: Conversion = {
    ...asked,
    reading,
    colored,
    get: (input, otherwise) => reading.input(asked, input, of, otherwise === undefined ? undefined : filled(otherwise)),
    number: (input, otherwise) => reading.input(asked, input, 'value', [otherwise]),
  }
  return converterOf(conversion)(conversion)
}
