import { BLOCK, type Kernels } from '../kernels/kernels'
import type { Plan, Stage } from '../program/plan'
import { UNIFORM, type Instruction, type Ref } from '../program/ops'
import { readPicture, type Picture } from './pictures'
import { readOver } from './pyramid'

/**
 * Writes `n` numbers of an input, for the points from `start` on, into `floats` from index `at` on. `words` is the same
 * memory, for inputs that are raw bits, and `spare` the index of six columns to work in, which are the same for all
 * inputs of a block.
 */
export type Fill = (
  start: number,
  n: number,
  floats: Float32Array,
  at: number,
  words: Uint32Array,
  spare: number,
) => void
const SPARE = 6
/** Takes `n` results from `floats` at index `at`. */
export type Drain = (start: number, n: number, floats: Float32Array, at: number) => void

/**
 * A stage made ready to run: registers are given out so that a column is used again as soon as its value is dead, and
 * every instruction becomes one kernel call with fixed addresses.
 *
 * Layout of the arena: the uniform values the stage reads, 16 bytes each (four equal lanes), then the columns, 4 KiB
 * each, the last six for the inputs to work in.
 */
export class StageRunner {
  private readonly calls: { run: (...args: number[]) => void; args: number[] }[] = []
  private readonly fills: { fill: Fill; column: number }[] = []
  private readonly drained: { address: number; mask: number }[] = []
  private readonly columns: number
  private readonly spread: number
  private readonly bytes: number

  /**
   * @param fillOf how an input of this stage, or a value of a coarser domain that is not uniform, gets into a column
   * @param keep the values wanted at the end, in the order of the drains
   */
  constructor(
    private readonly kernels: Kernels,
    plan: Plan,
    stage: Stage,
    private readonly uniforms: readonly Ref[],
    fillOf: (ref: Ref) => Fill,
    keep: readonly Ref[],
    pictures: readonly Picture[] = [],
  ) {
    const { code, domains } = plan.program
    const slot = new Map(uniforms.map((ref, i) => [ref, i]))
    const isUniform = (ref: Ref) => stage.domain !== UNIFORM && domains[ref] === UNIFORM
    this.columns = this.kernels.arena + uniforms.length * 16

    // (1) When is every value used for the last time?
    const inStage = new Set(stage.order)
    const lastUse = new Map<Ref, number>()
    stage.order.forEach((ref, i) => {
      const instruction = code[ref]!
      for (const a of 'args' in instruction ? instruction.args : []) lastUse.set(a, i)
    })
    for (const ref of keep) lastUse.set(ref, Infinity)

    // (2) Inputs get the first columns; they are filled before any kernel runs, so none may share.
    const column = new Map<Ref, number>()
    const free: number[] = []
    let count = 0
    const take = (ref: Ref) => column.set(ref, free.pop() ?? count++)
    const input = (ref: Ref) => {
      column.set(ref, count)
      this.fills.push({ fill: fillOf(ref), column: count++ })
    }
    for (const ref of [...stage.reads, ...keep])
      if (!inStage.has(ref) && !isUniform(ref) && !column.has(ref)) input(ref)
    for (const ref of stage.order) if (!('args' in code[ref]!)) input(ref)

    // (3) One call per instruction.
    const operand = (ref: Ref) =>
      isUniform(ref) ? [this.kernels.arena + slot.get(ref)! * 16, 0] : [this.columns + column.get(ref)! * BLOCK * 4, -1]
    stage.order.forEach((ref, i) => {
      const instruction = code[ref]!
      if (!('args' in instruction)) return
      const args = instruction.args.flatMap(operand)
      for (const a of new Set(instruction.args)) {
        if (lastUse.get(a) === i && column.has(a)) free.push(column.get(a)!)
      }
      take(ref)
      this.calls.push({
        run: instruction.op === 'picture' ? this.readPictures(instruction, pictures) : this.kernels.run[instruction.op],
        args: [operand(ref)[0]!, ...args, ...(instruction.constants ?? []), 0],
      })
    })
    for (const ref of keep) {
      const [address, mask] = operand(ref)
      this.drained.push({ address: address!, mask: mask! })
    }
    // One column more: a uniform result is spread out there before it is drained.
    this.spread = this.columns + count * BLOCK * 4
    this.bytes = uniforms.length * 16 + (count + 1 + SPARE) * BLOCK * 4
  }

  /** Pictures are not for the kernels: they live in memory of their own. */
  private readPictures(
    { name, channel, reading }: Extract<Instruction, { op: 'picture' }>,
    pictures: readonly Picture[],
  ): (...args: number[]) => void {
    const picture = pictures.find(p => p.name === name)
    if (!picture) {
      return (out, ...rest) =>
        this.kernels.reserve(0).floats.fill(Number(channel === 3), out! >> 2, (out! >> 2) + rest.at(-1)!)
    }
    return (out, ...rest) => {
      const { floats } = this.kernels.reserve(0)
      const at = out! >> 2
      const n = rest.at(-1)!
      // Addresses and masks of the operands, in turn.
      const operand = (k: number, i: number): number => floats[(rest[k * 2]! >> 2) + (rest[k * 2 + 1] ? i : 0)]!
      const isWide = rest.length > 5
      for (let i = 0; i < n; i++) {
        const [u, v] = [operand(0, i), operand(1, i)]
        floats[at + i] = isWide
          ? readOver(picture, channel, reading, u, v, operand(2, i), operand(3, i))
          : readPicture(picture, channel, reading, u, v)
      }
    }
  }

  /**
   * Runs the stage over points up to `end`. `uniformValues` are those named at construction.
   * @param first where to begin: a multiple of `BLOCK`
   */
  run(end: number, uniformValues: ArrayLike<number>, drains: readonly Drain[], first = 0): void {
    const { floats, words } = this.kernels.reserve(this.bytes)
    const { watch } = this.kernels
    const base = this.kernels.arena >> 2
    for (let i = 0; i < this.uniforms.length; i++) floats.fill(uniformValues[i]!, base + i * 4, base + i * 4 + 4)
    for (let start = first; start < end; start += BLOCK) {
      const n = Math.min(BLOCK, end - start)
      const padded = (n + 3) & ~3
      for (const { fill, column } of this.fills)
        fill(start, n, floats, (this.columns >> 2) + column * BLOCK, words, (this.spread >> 2) + BLOCK)
      const begun = watch.clock?.() ?? 0
      for (const { run, args } of this.calls) {
        args[args.length - 1] = padded
        run(...args)
      }
      if (watch.clock) watch.spent += watch.clock() - begun
      for (let i = 0; i < drains.length; i++) {
        const { address, mask } = this.drained[i]!
        const at = (mask === 0 ? this.spread : address) >> 2
        if (mask === 0) floats.fill(floats[address >> 2]!, at, at + n)
        drains[i]!(start, n, floats, at)
      }
    }
  }
}
