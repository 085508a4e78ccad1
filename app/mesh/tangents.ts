import moduleUrl from 'mikktspace/dist/module/mikktspace_module_bg.wasm?url'
import type { TangentMaker } from '#core/bake/tangents'

/** What the module of the MikkTSpace algorithm exports. */
interface Exports {
  memory: WebAssembly.Memory
  generateTangents(
    out: number,
    positions: number,
    positionCount: number,
    normals: number,
    normalCount: number,
    uvs: number,
    uvCount: number,
  ): void
  __wbindgen_add_to_stack_pointer(by: number): number
  __wbindgen_malloc(bytes: number): number
  __wbindgen_free(at: number, bytes: number): void
}

/** Room on the module's stack for where the answer lies and how long it is. */
const ANSWER = 16
const refuse = (): never => {
  throw new Error('Tangents cannot be found: positions, normals and UVs do not go together.')
}

let loaded: Promise<TangentMaker> | undefined
/**
 * The MikkTSpace algorithm for the browser, whose own package expects a bundler's way of loading modules; loaded when
 * first asked for.
 */
export const tangentMaker = (): Promise<TangentMaker> =>
  (loaded ??= (async () => {
    const bytes = await fetch(moduleUrl).then(r => r.arrayBuffer())
    const { instance } = await WebAssembly.instantiate(bytes, {
      './mikktspace_module_bg.js': { __wbindgen_string_new: () => 0, __wbindgen_rethrow: refuse },
    })
    const run = instance.exports as unknown as Exports
    const pass = (values: Float32Array): [at: number, count: number] => {
      const at = run.__wbindgen_malloc(values.length * 4)
      new Float32Array(run.memory.buffer, at, values.length).set(values)
      return [at, values.length]
    }
    return (positions, normals, uvs) => {
      const answer = run.__wbindgen_add_to_stack_pointer(-ANSWER)
      try {
        run.generateTangents(answer, ...pass(positions), ...pass(normals), ...pass(uvs))
        const [at, count] = new Int32Array(run.memory.buffer, answer, 2)
        const tangents = new Float32Array(run.memory.buffer, at!, count!).slice()
        run.__wbindgen_free(at!, count! * 4)
        return tangents
      } finally {
        run.__wbindgen_add_to_stack_pointer(ANSWER)
      }
    }
  })())
