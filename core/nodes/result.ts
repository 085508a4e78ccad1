import type { Ref3 } from '../program/ops'
import { defineNode, type LowerContext } from './declare'

/** Below this length squared a picture of normals says nothing: there the surface keeps its own. */
const SHORTEST = 0.25

export default defineNode({
  kind: 'result',
  title: 'Result',
  family: 'Finishes',
  help: 'The end of the look: what it is given is what the stage shows and what is delivered.',
  words: ['output', 'end', 'final'],
  inputs: {
    finish: {
      type: 'finish',
      title: 'Finish',
      missing: 'A plain gray finish.',
      needed: true,
      help: 'The finish of the whole mesh.',
    },
  },
  params: {
    normals: {
      type: 'picture',
      title: 'Normals',
      default: '',
      optional: true,
      help: 'A picture of which way the surface faces, taken from a dense mesh: three numbers from −1 to 1 in the space of the mesh, on its UVs. The height of the look lies on it.',
    },
  },
  outputs: {},
  lower: () => ({}),
})

/**
 * Which way the surface faces by the picture of normals that a result names, unit length; undefined where it names
 * none.
 */
export function normalsOf({ b, choice }: LowerContext): Ref3 | undefined {
  const name = choice('normals')
  if (!name) return undefined
  const reading = { linear: true, across: 'edge', down: 'edge', nearest: false } as const
  const [u, v] = [b.surface('u'), b.surface('v')]
  const read = [0, 1, 2].map(channel => b.picture(name, channel, reading, u, v)) as Ref3
  const own = [b.surface('normalX'), b.surface('normalY'), b.surface('normalZ')] as Ref3
  const square = (n: Ref3): number =>
    b.row3(
      b.map3((x, y) => b.mul(x!, y!), n, n),
      [1, 1, 1],
    )
  const says = b.op('less', [b.constant(SHORTEST), square(read)])
  const chosen = b.map3((x, y) => b.op('select', [says, x!, y!]), read, own)
  const length = b.op('sqrt', [square(chosen)])
  return b.map3(x => b.div(x!, length), chosen)
}
