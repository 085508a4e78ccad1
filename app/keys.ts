/** Something that can be done: found in the menu by its title and words, and done by its keys. */
export interface Command {
  title: string
  /** As people write them: `Ctrl+D`, `Shift+N`, `F`. Several do the same. */
  keys?: readonly string[]
  words?: string
  /** Where it belongs, as a heading. */
  group: string
  /** Whether it can be done now; always, where there is none. */
  can?: () => boolean
  run: () => void
  /** The keys also count while text is typed. */
  everywhere?: boolean
  /** The browser's own clipboard events do it; the keys are only told. */
  told?: boolean
}

/** What was pressed, as commands write it. The command key of other keyboards counts as Ctrl; Shift is left out where it makes the sign. */
export function pressed(e: KeyboardEvent): string {
  const sign = e.key.length === 1 && !/[a-z0-9 ]/i.test(e.key), name = e.key === ' ' ? 'Space' : e.key.length === 1 ? e.key.toUpperCase() : e.key.replace(/^Arrow/, '')
  return [(e.ctrlKey || e.metaKey) && 'Ctrl', e.altKey && 'Alt', e.shiftKey && !sign && 'Shift', name].filter(Boolean).join('+')
}

/** Every word typed must be found: in the title first, then among the words. Best first. */
export function findCommands<T extends { title: string, words?: string }>(commands: readonly T[], text: string): T[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const score = ({ title, words: more = '' }: T): number => words.reduce((sum, w) => {
    const own = title.toLowerCase()
    return sum + (own.startsWith(w) ? 0 : own.includes(` ${w}`) ? 1 : own.includes(w) ? 2 : more.toLowerCase().includes(w) ? 3 : 1000)
  }, 0)
  return commands.map((c, i) => ({ c, i, s: score(c) })).filter(x => x.s < 1000).sort((a, b) => a.s - b.s || a.i - b.i).map(x => x.c)
}
