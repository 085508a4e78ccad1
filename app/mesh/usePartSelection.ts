import { evaluator } from '../shared/evaluation'
import { partsAlike } from './alike'
import type { Level } from './levels'

/** Which parts of the mesh are selected, and which are hidden. */
export function usePartSelection() {
  const project = useProject()
  const selected = shallowRef<ReadonlySet<number>>(new Set())
  const hidden = shallowRef<ReadonlySet<number>>(new Set())
  const pickLevel = ref<Exclude<Level, 'patch'>>('part')
  const pairs = shallowRef<Uint32Array>()
  const parts = computed(() => project.opened?.parts.parts ?? [])

  // Part numbers belong to one prepared mesh, so they are carried over by key.
  watch(
    () => project.opened,
    (now, before) => {
      pairs.value = undefined
      const keys = now && new Map(now.parts.parts.map((p, i) => [p.key, i]))
      const carry = (set: ReadonlySet<number>) =>
        new Set(
          [...set].flatMap(i => {
            const n = before && keys?.get(before.parts.parts[i]?.key ?? '')
            return n === undefined ? [] : [n]
          }),
        )
      selected.value = carry(selected.value)
      hidden.value = carry(hidden.value)
    },
  )
  watch(
    hidden,
    set => void evaluator.setHidden(set.size ? Uint8Array.from(parts.value, (_, i) => Number(set.has(i))) : null),
  )
  const select = (set: Iterable<number>): void => {
    selected.value = new Set(set)
  }
  const hide = (set: Iterable<number>): void => {
    hidden.value = new Set(set)
  }

  /** All parts of the same object or group as one of them, at the level at which is picked. */
  function widen(picked: Iterable<number>): Set<number> {
    const list = parts.value
    const level = pickLevel.value
    if (level === 'part') return new Set(picked)
    const wanted = new Set([...picked].map(i => list[i]![level]))
    return new Set(list.flatMap((p, i) => (wanted.has(p[level]) ? [i] : [])))
  }
  /** What a click or a box makes of the selection. */
  function choose(picked: Iterable<number>, how: 'only' | 'toggle' | 'add'): void {
    const wide = widen(picked)
    if (how === 'only') return select(wide)
    const next = new Set(selected.value)
    const drop = how === 'toggle' && [...wide].every(i => next.has(i))
    for (const i of wide) {
      if (drop) next.delete(i)
      else next.add(i)
    }
    select(next)
  }
  async function grow(): Promise<void> {
    if (!pairs.value) {
      const answer = await evaluator.touching()
      if ('error' in answer || !answer.ok) return
      pairs.value = answer.ok.pairs
      project.takeMeasures(answer.ok.arranged)
    }
    const next = new Set(selected.value)
    const p = pairs.value
    for (let i = 0; i < p.length; i += 2) {
      if (selected.value.has(p[i]!)) next.add(p[i + 1]!)
      if (selected.value.has(p[i + 1]!)) next.add(p[i]!)
    }
    select(next)
  }

  /** Selects parts like one of the selected ones. */
  const alike = (by: 'material' | 'size' | 'name'): void =>
    select(partsAlike(by, [...selected.value], parts.value, project.arranged))
  const invert = (): void => select(parts.value.flatMap((_, i) => (selected.value.has(i) ? [] : [i])))
  const isolate = (): void => hide(parts.value.flatMap((_, i) => (selected.value.has(i) ? [] : [i])))

  return { selected, hidden, pickLevel, parts, select, hide, choose, grow, alike, invert, isolate }
}
