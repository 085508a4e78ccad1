/** The node kind that stands for an output elsewhere in the graph; its setting `of` names it as `node/port`. */
export const ECHO = 'echo'
/** Node and port of `node/port`. */
export function splitPort(text: string): [node: string, port: string] {
  const at = text.lastIndexOf('/')
  return [text.slice(0, Math.max(0, at)), text.slice(at + 1)]
}
