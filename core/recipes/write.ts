import type { LookNode, Recipe, Wire } from '../graph/look'

/** A node at a place of the page. */
export const node = (
  id: string,
  kind: string,
  at: [number, number],
  params: LookNode['params'] = {},
  name?: string,
): LookNode => ({ id, kind, at, params, ...(name && { name }) })

/** A port written `node.port`, and a wire written `a.out > b.in`. */
const port = (text: string): { node: string; port: string } => ({
  node: text.split('.')[0]!,
  port: text.split('.')[1]!,
})
export const wire = (text: string): Wire => {
  const [from, to] = text.split(' > ')
  return { from: port(from!), to: port(to!) }
}

/** Ports and settings as `Title = node.port`, several ports of an input with commas. Names come from the titles. */
const split = (text: string): [name: string, title: string, ports: string[]] => {
  const [title, rest] = text.split(' = ') as [string, string]
  return [
    title.toLowerCase().replace(/[^a-z0-9]+(.)?/g, (_, c: string | undefined) => c?.toUpperCase() ?? ''),
    title,
    rest.split(', '),
  ]
}
export function recipe(
  title: string,
  help: string,
  nodes: LookNode[],
  wires: string[],
  { inputs = [], settings = [], outputs }: { inputs?: string[]; settings?: string[]; outputs: string[] },
): Recipe {
  return {
    title,
    help,
    nodes,
    wires: wires.map(wire),
    inputs: inputs.map(split).map(([name, title, ports]) => ({ name, title, to: ports.map(port) })),
    settings: settings
      .map(split)
      .map(([name, title, [at]]) => ({ name, title, node: port(at!).node, param: port(at!).port })),
    outputs: outputs.map(split).map(([name, title, [at]]) => ({ name, title, from: port(at!) })),
  }
}
