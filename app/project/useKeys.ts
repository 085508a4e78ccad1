import { useEventListener } from '@vueuse/core'
import { pressed, shortcutOf, type Command } from './keys'

const typing = (e: Event): boolean =>
  e.target instanceof HTMLInputElement ||
  e.target instanceof HTMLTextAreaElement ||
  // Open lists and menus find what is in them by its letters.
  (e.target instanceof Element && e.target.closest('[role=listbox], [role=menu], [role=radiogroup]') !== null)

/** Whether text is being typed: that has an undo of its own, the browser's. A number at rest in its field has none. */
export const writing = (e: Event): boolean =>
  e.target instanceof HTMLTextAreaElement ||
  (e.target instanceof HTMLInputElement && e.target.dataset.settled === undefined)

/** Buttons and links keep their own keys. */
const isForButton = (e: KeyboardEvent): boolean =>
  (e.key === 'Enter' || e.key === ' ') &&
  e.target instanceof Element &&
  e.target.closest('button, a, [role=slider]') !== null

/**
 * Has the keys of commands do what they do. Of several commands with the same keys, it is the first that can be done;
 * where none can, the keys are the browser's.
 * @param busy whether something lies over the page that wants all keys for itself
 */
export function useKeys(commands: readonly Command[], busy: () => boolean): void {
  const commandOf = (keys: string): Command | undefined =>
    commands.find(c => !c.told && c.keys?.includes(keys) && (!c.can || c.can()))

  // Before the fields, which keep their keys to themselves: a number that is not being typed leaves undo to the page.
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      if (!e.ctrlKey && !e.metaKey) return
      const keys = pressed(e)
      const everywhere = commands.some(c => c.everywhere && c.keys?.includes(keys))
      const isUndo = typing(e) && !writing(e) && /^Ctrl\+(Shift\+)?[ZY]$/.test(keys)
      const command = everywhere || isUndo ? commandOf(keys) : undefined
      if (!command) return
      command.run()
      e.preventDefault()
    },
    { capture: true },
  )

  // What is left over for the page is known of each press just before the shortcuts hear of it.
  const forPage = ref(false)
  useEventListener(window, 'keydown', (e: KeyboardEvent) => {
    const spoken = e.defaultPrevented || typing(e) || busy() || isForButton(e)
    forPage.value = !spoken && commandOf(pressed(e)) !== undefined
  })
  const shortcuts = Object.fromEntries(
    commands
      .flatMap(c => (c.told ? [] : (c.keys ?? [])))
      .map(keys => [shortcutOf(keys), { usingInput: true, handler: () => commandOf(keys)?.run() }]),
  )
  defineShortcuts(computed(() => (forPage.value ? shortcuts : {})))
}
