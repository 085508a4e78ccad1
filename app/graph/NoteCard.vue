<script setup lang="ts">
import { changeNote } from '#core/graph/notes'

const props = defineProps<{ id: string; selected: boolean; zoom: number }>()
const project = useProject()
const note = computed(() => project.page.notes?.find(n => `note:${n.id}` === props.id))
const change = (label: string, what: Parameters<typeof changeNote>[2], merge?: string): void =>
  project.editPage(label, look => changeNote(look, props.id.slice(5), what), merge)

let from: { x: number; y: number; size: [number, number] } | undefined
function grab(e: PointerEvent): void {
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
  from = { x: e.clientX, y: e.clientY, size: [...note.value!.size] }
}
function drag(e: PointerEvent): void {
  if (!from || !(e.currentTarget as HTMLElement).hasPointerCapture(e.pointerId)) return
  change(
    'Resize',
    {
      size: [
        Math.round(from.size[0] + (e.clientX - from.x) / props.zoom),
        Math.round(from.size[1] + (e.clientY - from.y) / props.zoom),
      ],
    },
    `size ${props.id}`,
  )
}
function release(): void {
  from = undefined
  project.settle()
}
function key(e: KeyboardEvent): void {
  const step = { ArrowLeft: [-20, 0], ArrowRight: [20, 0], ArrowUp: [0, -20], ArrowDown: [0, 20] }[e.key]
  if (!step) return
  e.preventDefault()
  e.stopPropagation()
  change('Resize', { size: [note.value!.size[0] + step[0]!, note.value!.size[1] + step[1]!] }, `size ${props.id}`)
}
</script>

<template>
  <div
    v-if="note"
    :class="[note.frame ? 'frame' : 'note', { selected }]"
    :style="{ width: `${note.size[0]}px`, height: `${note.size[1]}px` }"
    :data-note="note.id"
  >
    <TextField
      plain
      class="heading nodrag"
      :value="note.title"
      :placeholder="note.frame ? 'What is in here' : 'Note'"
      :label="note.frame ? 'Title of the frame' : 'Title of the note'"
      :limit="80"
      @change="change('Name', { title: $event })"
    />
    <TextField
      v-if="!note.frame || note.text || selected"
      long
      plain
      class="words nodrag nowheel"
      :value="note.text"
      :rows="note.frame ? 1 : undefined"
      placeholder="Words for whoever comes after"
      label="Text"
      :limit="4000"
      @change="change('Write', { text: $event })"
    />
    <UButton
      variant="bare"
      class="corner nodrag"
      aria-label="Resize with the arrow keys or by dragging"
      @pointerdown.stop="grab"
      @pointermove="drag"
      @pointerup="release"
      @keydown="key"
    />
  </div>
</template>

<style scoped>
.note,
.frame {
  position: relative;
  display: flex;
  flex-direction: column;
}
.note {
  background: var(--ub-panel);
  border: 1px solid var(--ub-line-strong);
  border-top-width: 3px;
}
.frame {
  background: color-mix(in srgb, var(--ub-line) 28%, transparent);
  border: 1px dashed var(--ub-line-strong);
}
.selected {
  border-color: var(--ub-accent);
}
.heading {
  height: 26px;
  padding: 0 10px;
  font-weight: 600;
  flex: none;
}
.frame .heading {
  font-size: 15px;
}
:global(.graph.far .frame .heading) {
  height: 40px;
  font-size: 30px;
}
.words {
  flex: 1;
  min-height: 0;
  padding: 2px 10px 8px;
  font-size: 12.5px;
}
.frame .words {
  flex: none;
  color: var(--ub-quiet);
}
.corner {
  position: absolute;
  right: 0;
  bottom: 0;
  width: 14px;
  height: 14px;
  cursor: nwse-resize;
  border-right: 3px solid var(--ub-line-strong);
  border-bottom: 3px solid var(--ub-line-strong);
  touch-action: none;
}
</style>
