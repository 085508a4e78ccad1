<script setup lang="ts">
import BannerLine from './BannerLine.vue'
import { addressOf } from '../shared/request'

/** What is to be known of the project as a whole: that it is old, locked, open elsewhere, not saved, not to be read. */
const props = defineProps<{
  /** What of a material document could not be taken over. */
  lost: readonly string[]
  mayLock: boolean
  /** Whether somebody else has the project open, or has saved it. */
  elsewhere: 'open' | 'saved' | undefined
}>()
const emit = defineEmits<{ forgetLost: []; toggleLock: []; restore: [] }>()
/** What could not be done. */
const problem = defineModel<string>('problem', { required: true })
const project = useProject()
const overlooked = ref(false)
watch(
  () => props.elsewhere,
  () => {
    overlooked.value = false
  },
)
const ELSEWHERE = {
  saved:
    'This project was changed in another window, or by somebody else. Go on there, or reload this one to see what it saved; what you change here is kept in any case.',
  open: 'This project is open in another window, too. Changes in both do not mix: whoever saves second is asked which state goes on.',
}
</script>

<template>
  <BannerLine v-if="problem" warns :actions="[{ label: 'Close', onClick: () => void (problem = '') }]">
    {{ problem }} The project is as it was.
  </BannerLine>
  <BannerLine v-if="lost.length" :actions="[{ label: 'Close', onClick: () => emit('forgetLost') }]">
    The document is the look now; undo brings the old one back. Not everything could be taken over:
    <ul class="lost">
      <li v-for="line in lost" :key="line">{{ line }}</li>
    </ul>
  </BannerLine>
  <BannerLine v-if="project.failure" warns :actions="[{ label: 'Back to all projects', to: '/' }]">
    {{ project.failure }}
  </BannerLine>
  <BannerLine
    v-if="project.viewed"
    :actions="[
      { label: 'Restore it as the newest', disabled: Boolean(project.meta?.locked), onClick: () => emit('restore') },
      { label: 'Back to the newest', variant: 'link', to: `/project/${project.meta?.id}?look=${project.lookId}` },
    ]"
  >
    You look at revision {{ project.viewed.number }}, saved
    {{ new Date(project.viewed.saved).toLocaleString('en-US') }}. It cannot be changed.
  </BannerLine>
  <BannerLine
    v-else-if="project.meta?.locked"
    :actions="mayLock ? [{ label: 'Unlock', onClick: () => emit('toggleLock') }] : []"
  >
    This project is locked against changes<template v-if="project.meta.lockedBy">
      by {{ project.meta.lockedBy }}</template
    >. It can be looked at and delivered.
  </BannerLine>
  <BannerLine v-if="project.takenUp" :actions="[{ label: 'Close', onClick: () => void (project.takenUp = false) }]">
    Changes that could not be saved the last time were kept by this browser and are here again; undo takes them back.
  </BannerLine>
  <BannerLine
    v-if="project.saveState === 'stale'"
    warns
    :actions="[
      { label: 'Go on with mine', onClick: () => void project.resolveStale('mine') },
      {
        label: 'Take the other; mine stays one undo away',
        onClick: () => void project.resolveStale('theirs'),
      },
    ]"
  >
    This project was saved in another window in the meantime. Nothing is lost: choose which state goes on.
  </BannerLine>
  <BannerLine
    v-else-if="elsewhere && !overlooked"
    :actions="[{ label: 'Close', onClick: () => void (overlooked = true) }]"
  >
    {{ ELSEWHERE[elsewhere] }}
  </BannerLine>
  <BannerLine
    v-if="project.signedOut"
    warns
    :actions="[{ label: 'Sign in in another tab', to: addressOf('/sign-in'), target: '_blank', external: true }]"
  >
    You are signed out; this browser keeps what is not saved. Sign in, and it is saved.
  </BannerLine>
  <BannerLine v-if="project.saveState === 'refused'" warns>{{ project.saveError }}</BannerLine>
</template>

<style scoped>
.lost {
  max-height: 120px;
  overflow-y: auto;
  padding-left: 16px;
  list-style: disc;
  font-size: 12px;
}
</style>
