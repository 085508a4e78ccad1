import type { Stage } from './stage'

/** Marks over the canvas, which are placed anew with each picture. */
export function useStageMarks(stage: Readonly<Ref<Stage | undefined>>, mode: () => 'look' | 'mesh') {
  const project = useProject()
  const mesh = useMesh()
  /** Places on the canvas of the extremes of the map that is shown, and of the tiles' numbers. */
  const marks = shallowRef<{ text: string; x: number; y: number }[]>([])
  function placeMarks(): void {
    const next: typeof marks.value = []
    const positions = project.tables?.mesh.positions
    const uvs = project.tables?.mesh.uvs
    const put = (text: string, at: readonly [number, number, number]) => {
      const place = stage.value?.project(at)
      if (place && place.every(x => x >= 0 && x <= 1)) next.push({ text, x: place[0], y: place[1] })
    }
    if (mode() === 'mesh' && positions) {
      const flat = mesh.flat && uvs
      if (mesh.marks && mesh.reading) {
        for (const [text, v] of [
          ['lowest', mesh.reading.lowest],
          ['highest', mesh.reading.highest],
        ] as const) {
          put(
            text,
            flat
              ? [uvs[v * 2]!, 1 - uvs[v * 2 + 1]!, 0]
              : [positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!],
          )
        }
      }
      if (flat)
        for (const t of mesh.layout?.tiles ?? []) put(String(t), [(t - 1001) % 10, Math.floor((t - 1001) / 10), 0])
    }
    if (next.length || marks.value.length) marks.value = next
  }
  watch([() => mesh.marks, () => mesh.reading], () => stage.value?.invalidate())

  return { marks, placeMarks }
}
