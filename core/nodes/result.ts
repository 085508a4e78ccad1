import type { Ref, Ref3 } from '../program/ops'
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
      help: "A picture of which way the surface faces, taken from a dense mesh: three numbers from −1 to 1 in the space of the mesh, on its UVs. The height of the look lies on it. Without one, those that the preparation says are the mesh's own.",
    },
    heights: {
      type: 'picture',
      title: 'Heights',
      default: '',
      optional: true,
      help: 'A picture of how far a dense mesh stands out, in millimeters, on the UVs. The height that is delivered is it and the height of the look; without a picture of normals, the surface is shaded by both.',
    },
    occlusion: {
      type: 'picture',
      title: 'Occlusion',
      default: '',
      optional: true,
      help: 'A picture of how much light from all around arrives, in red, on the UVs: 1 is all of it. The stage and what is delivered are darkened by it where no lamp shines.',
    },
  },
  outputs: {},
  lower: () => ({}),
})

/** Pictures that lie on the mesh and not on one another: on the first UV set, between texels, once. */
const ON_MESH = { linear: true, across: 'edge', down: 'edge', nearest: false } as const

/** How much of such a picture a point stands for. */
const seenOver = (b: LowerContext['b']): [Ref, Ref] => [b.surface('footprintUv'), b.surface('footprintUv')]

/** The red of a picture that a result names, on the UVs; undefined where it names none. */
function redOf({ b, choice }: LowerContext, param: 'heights' | 'occlusion'): Ref | undefined {
  const name = choice(param)
  return name ? b.picture(name, 0, ON_MESH, b.surface('u'), b.surface('v'), seenOver(b)) : undefined
}

/** How far the surface stands out by the picture of heights, in millimeters; undefined where none is named. */
export const heightsOf = (context: LowerContext): Ref | undefined => redOf(context, 'heights')

/** The share of the light from all around that does not arrive, 0 to 1; undefined where no picture says so. */
export function closedOf(context: LowerContext): Ref | undefined {
  const arrives = redOf(context, 'occlusion')
  const { b } = context
  return arrives === undefined ? undefined : b.sub(b.constant(1), b.clamp01(arrives))
}

/**
 * Which way the surface faces by the picture of normals that a result names, or the mesh has of its own, unit length;
 * undefined where there is none.
 */
export function normalsOf({ b, choice }: LowerContext, own = ''): Ref3 | undefined {
  const name = choice('normals') || own
  if (!name) return undefined
  const [u, v] = [b.surface('u'), b.surface('v')]
  const read = [0, 1, 2].map(channel => b.picture(name, channel, ON_MESH, u, v, seenOver(b))) as Ref3
  const between = [b.surface('normalX'), b.surface('normalY'), b.surface('normalZ')] as Ref3
  const square = (n: Ref3): number =>
    b.row3(
      b.map3((x, y) => b.mul(x!, y!), n, n),
      [1, 1, 1],
    )
  const says = b.op('less', [b.constant(SHORTEST), square(read)])
  const chosen = b.map3((x, y) => b.op('select', [says, x!, y!]), read, between)
  const length = b.op('sqrt', [square(chosen)])
  return b.map3(x => b.div(x!, length), chosen)
}
