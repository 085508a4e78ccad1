import { carriedTable } from '../core/deliver/formats'
import { CHANNELS, PORT_LETTERS } from '../core/graph/types'
import { KINDS } from '../core/nodes'
import { hasPicture } from './pictures'
import { FAMILIES, typeOf, type InputDeclaration, type ParamDeclaration } from '../core/nodes/declare'

const settingOf = (p: ParamDeclaration): string => {
  switch (p.type) {
    case 'number':
      return `${p.default}${p.unit ? ` ${p.unit}` : ''} (${p.min} to ${p.max})`
    case 'seed':
      return 'a fresh one for each node'
    case 'choice':
      return p.options.map(o => o.title).join(' · ')
    case 'toggle':
      return p.default ? 'on' : 'off'
    case 'color':
      return p.default.join(', ')
    case 'stops':
      return `${p.default.length} stops`
    case 'map':
      return 'a vertex map of the mesh'
    case 'set':
      return 'a part set of the project'
    case 'component':
      return 'the first'
    case 'channels':
      return p.default.map(c => CHANNELS[c].title).join(', ')
    case 'pins':
      return 'no part'
    case 'port':
      return 'an output of a node'
    case 'picture':
      return 'a picture of the project'
    case 'curve':
      return 'a straight line'
    case 'palette':
      return `${p.default.length} colors with weights`
  }
}
const openOf = (d: InputDeclaration): string =>
  d.missing ??
  (Array.isArray(d.default)
    ? `its own color, ${d.default.join(', ')} at first`
    : `its own number, ${d.default} at first`)

/** The node reference as Markdown, one section for each kind. */
export function reference(): string {
  const kinds = FAMILIES.filter(f => KINDS.some(k => k.family === f)).flatMap(family => [
    `## ${family}`,
    ...KINDS.filter(k => k.family === family).flatMap(k => {
      const type = (port: Parameters<typeof typeOf>[0]) =>
        typeof port.type === 'function' ? 'color or value' : `${port.type} (${PORT_LETTERS[port.type]})`
      const inputs = Object.values(k.inputs)
      const params = Object.values(k.params)
      const outputs = Object.values(k.outputs)
      return [
        `### ${k.title}`,
        ...(hasPicture(k) ? [`![${k.title} on the kiosk roof](reference/${k.kind}.png)`] : []),
        k.help,
        `Found by: ${k.words.join(', ')}.`,
        ...(inputs.length
          ? [
              [
                '| input | takes | unconnected | |',
                '|---|---|---|---|',
                ...inputs.map(d => `| ${d.title} | ${type(d)} | ${openOf(d)} | ${d.help} |`),
              ].join('\n'),
            ]
          : []),
        ...(params.length
          ? [
              [
                '| setting | default or choices | |',
                '|---|---|---|',
                ...params.map(p => `| ${p.title} | ${settingOf(p)} | ${p.help} |`),
              ].join('\n'),
            ]
          : []),
        ...(outputs.length ? [`Puts out: ${outputs.map(o => `${o.title}, ${type(o)}`).join('; ')}.`] : []),
      ]
    }),
  ])
  return (
    [
      '# Node reference',
      "<!-- Made from the nodes' own declarations by scripts/reference.mjs. -->",
      'Colors are linear light with Rec. 709 primaries; values are nominally 0 to 1. A value passes into a color input as gray, a color into a value input by its luminance.',
      ...kinds,
    ].join('\n\n') + '\n'
  )
}
export { pictures } from './pictures'

/** A page on delivering with the table of what each format carries, as the formats declare it. */
export const withFormats = (page: string): string =>
  page.replace(/(<!-- formats -->\n)[^]*(<!-- \/formats -->)/, (_, from, to) => `${from}${carriedTable()}\n${to}`)
