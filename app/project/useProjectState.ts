import { emptyLook } from '#core/graph/look'
import { READ_LIMITS, type ReadLimits } from '#core/exchange/meshFile'
import { emptyPreparation } from '#core/mesh/preparation'
import { useMe } from '../people/useMe'
import type { ProjectDocument, ProjectMeta, Viewed } from './entries'

/** What the subjects of the open project share: which project and look it is, its document, and what is going on. */
export function useProjectState() {
  const meta = shallowRef<ProjectMeta>()
  const lookId = ref('')
  const document = shallowRef<ProjectDocument>({ look: emptyLook(), preparation: emptyPreparation() })
  const look = computed(() => document.value.look)
  const preparation = computed(() => document.value.preparation)
  const limits = shallowRef<ReadLimits>(READ_LIMITS)
  /** What is going on, in words; empty when nothing is. */
  const busy = ref('')
  const failure = ref('')
  /** The revision that is looked at, where it is not the newest: nothing can be changed then. */
  const viewed = shallowRef<Viewed>()
  const { me } = useMe()
  /** Why nothing can be changed; empty where it can. */
  const readOnly = computed(() => {
    if (viewed.value) return `This is revision ${viewed.value.number}; it can be looked at, not changed.`
    if (meta.value?.locked)
      return `This project is locked against changes${meta.value.lockedBy ? ` by ${meta.value.lockedBy}` : ''}.`
    if ((meta.value?.role ?? me.value?.role) === 'look') return 'You may look at projects here, not change them.'
    return ''
  })
  /** What the server has a picture of. */
  const pictured = shallowRef<{ document: ProjectDocument; mesh: string | undefined }>()
  /** Whether that is all that the project is now. */
  const hasPicture = computed(
    () => pictured.value?.document === document.value && pictured.value.mesh === meta.value?.mesh?.hash,
  )
  /** Counts openings: an answer that comes after the next opening belongs to nobody. */
  const opening = ref(0)
  return {
    ...{ meta, lookId, document, look, preparation, limits, busy, failure, viewed, readOnly, opening },
    ...{ pictured, hasPicture },
  }
}
export type ProjectState = ReturnType<typeof useProjectState>
