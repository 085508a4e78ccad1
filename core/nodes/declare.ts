import type { Builder } from '../program/builder'
import type { Ref, Ref3 } from '../program/ops'
import type { Channel, CurvePoint, Pin, PortType, Rgb, Stop } from '../graph/types'

/** Limits and look of a number in the interface. `min` and `max` bound what is stored. */
export interface NumberShape {
  min: number
  max: number
  step: number
  unit?: Unit
}
export type Unit = 'cm' | 'mm' | '°' | '%' | ''

/**
 * A parameter. `number`, `seed`, `color` and the numbers inside `stops` are uniforms: changing them never recompiles.
 * `choice`, `map`, `set`, `component` and the number of stops shape the program.
 */
/** A setting without effect is not shown: `when` asks the node's other settings, and whether an input has a wire. */
export type ParamDeclaration = {
  title: string
  help: string
  when?: (values: (name: string) => ParamValue | undefined, wired: (input: string) => boolean) => boolean
} & (
  | ({ type: 'number'; default: number; whole?: boolean } & NumberShape)
  | { type: 'seed'; default: number }
  | { type: 'color'; default: Rgb }
  | { type: 'choice'; default: string; options: { value: string; title: string }[] }
  | { type: 'toggle'; default: boolean }
  | { type: 'stops'; default: Stop[] }
  | { type: 'map'; default: string; of?: 'geometry'; optional?: boolean }
  | { type: 'set'; default: string; optional?: boolean }
  | { type: 'component'; default: number }
  | { type: 'channels'; default: Channel[] }
  /** Single parts that are rolled again or have a value of their own. */
  /** `rolls` is false where a part can have a value, but not be rolled again. */
  | { type: 'pins'; default: Pin[]; rolls?: false }
  /** A port of another node, as `node/port`. */
  | { type: 'port'; default: string }
  /** A picture of the project, by its name. */
  | { type: 'picture'; default: string; optional?: boolean }
  | { type: 'curve'; default: CurvePoint[] }
  /** Colors with weights: `at` is the weight. */
  | { type: 'palette'; default: Stop[] }
)
export type ParamValue = number | string | boolean | number[] | string[] | Stop[] | Pin[] | CurvePoint[]
export type ParamValues = Readonly<Record<string, ParamValue | undefined>>

/**
 * An input. Without a wire it uses its own stored number or color (`default` at first); a type that cannot be stored
 * (finish, vector) says in `missing` what an open port means.
 */
export interface InputDeclaration {
  title: string
  help: string
  type: PortType | ((params: ParamValues) => PortType)
  default?: number | Rgb
  shape?: NumberShape
  missing?: string
  /** The input the node cannot do without: a check speaks up while it is open. */
  needed?: boolean
  /** As for parameters: an open input without effect is not shown. */
  when?: (values: (name: string) => ParamValue | undefined) => boolean
}

export interface OutputDeclaration {
  title: string
  type: PortType | ((params: ParamValues) => PortType)
}

/** What a finish sets. A channel that is absent is left alone. */
export type FinishRefs = Partial<Record<Channel, Ref[]>>
export type Lowered =
  | { type: 'value'; value: Ref }
  | { type: 'color'; value: Ref3 }
  | { type: 'vector'; value: Ref3 }
  | { type: 'finish'; value: FinishRefs }

/** What a node's lowering may ask for. */
export interface LowerContext {
  b: Builder
  value(input: string): Ref
  color(input: string): Ref3
  finish(input: string): FinishRefs
  /** A number, seed or toggle as a uniform. */
  number(param: string): Ref
  colorParam(param: string): Ref3
  /** Position and color of each stop, sorted by position, as uniforms. */
  stops(param: string): { at: Ref; color: Ref3 }[]
  /** A parameter that shapes the program. */
  choice(param: string): string
  /** The colors of a palette with their weights, as uniforms, in the order of the list. */
  palette(param: string): { weight: Ref; color: Ref3 }[]
  /** The points of a curve as uniforms, from left to right. */
  curve(param: string): { x: Ref; y: Ref }[]
  /** What a list of pinned parts says of each part; undefined where no part is pinned. */
  pinned(param: string, reading: 'is' | 'value' | 'roll'): Ref | undefined
  /** The channels that a parameter names. */
  channels(param: string): readonly Channel[]
  /** Does a wire that counts lead into this input? */
  wired(input: string): boolean
  /** Does the mesh carry this vertex map, and with how many numbers? */
  mapComponents(name: string): number | undefined
}

/** A node kind. The inspector, the menu, validation, the documentation and every backend are derived from this. */
export interface NodeKind {
  kind: string
  title: string
  family: Family
  help: string
  /** Words by which the kind is found, besides its title and help. */
  words: string[]
  inputs: Record<string, InputDeclaration>
  params: Record<string, ParamDeclaration>
  outputs: Record<string, OutputDeclaration>
  /** The input that decides where something lies, which is of no use where it covers nothing or everything. */
  mask?: string
  /** When a pattern follows the UVs: the parameter that says so, its values for that, and one for lying otherwise. */
  onUvs?: { param: string; values: readonly string[]; instead: string }
  /** How many texels the `size` of a pattern (in centimeters) must have for a texture to hold it. */
  texels?: number
  lower(c: LowerContext): Record<string, Lowered>
}
export const FAMILIES = ['From the mesh', 'Patterns', 'Shaping', 'Color', 'Finishes', 'Order', 'Recipes'] as const
export type Family = (typeof FAMILIES)[number]

/** Names a declaration's type; the value comes back as it is. */
export const defineNode = (kind: NodeKind): NodeKind => kind

export const typeOf = (port: { type: PortType | ((p: ParamValues) => PortType) }, params: ParamValues): PortType =>
  typeof port.type === 'function' ? port.type(params) : port.type

/** Shapes that many declarations share. */
export const UNIT_SHAPE: NumberShape = { min: 0, max: 1, step: 0.01 }
