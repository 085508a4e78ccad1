import { rangeOf, sweepables, type Sweep, type Sweepable } from '#core/compare/sheet'

/** The settings that a sheet sweeps over, from left to right and downward. */
export function useSweeps() {
  const project = useProject()
  const settings = computed(() => sweepables(project.look))
  const columns = ref<Sweep | null>(null)
  const rows = ref<Sweep | null>(null)
  const settingOf = (sweep: Sweep | null): Sweepable | null =>
    settings.value.find(s => s.node === sweep?.node && s.param === sweep.param) ?? null
  /** Sweeps that the look can do as it is now. */
  const across = computed(() => (settingOf(columns.value) ? columns.value : null))
  const down = computed(() => (settingOf(rows.value) ? rows.value : null))
  /** A setting as `node.param`, with a range to begin with; none for the empty text. */
  function sweepOver(key: string, count: number): Sweep | null {
    const setting = settings.value.find(s => `${s.node}.${s.param}` === key)
    return setting ? { node: setting.node, param: setting.param, ...rangeOf(setting), count } : null
  }
  /** Another look begins anew. */
  function forget(): void {
    columns.value = rows.value = null
  }
  return { settings, columns, rows, settingOf, across, down, sweepOver, forget }
}
