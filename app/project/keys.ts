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

/**
 * What was pressed, as commands write it. The command key of other keyboards counts as Ctrl; Shift is left out where it
 * makes the sign.
 */
export function pressed(e: KeyboardEvent): string {
  const sign = e.key.length === 1 && !/[a-z0-9 ]/i.test(e.key)
  const written = e.key.length === 1 ? e.key.toUpperCase() : e.key.replace(/^Arrow/, '')
  const name = e.key === ' ' ? 'Space' : written
  return [(e.ctrlKey || e.metaKey) && 'Ctrl', e.altKey && 'Alt', e.shiftKey && !sign && 'Shift', name]
    .filter(Boolean)
    .join('+')
}

/** The keys of a command, `Ctrl+Shift+Z`, as shortcuts are defined: a command key, where there is one, is Ctrl. */
export const shortcutOf = (keys: string): string =>
  keys.toLowerCase().replace('ctrl', 'meta').replace('space', ' ').replaceAll('+', '_')

/** An entry of a context menu. */
export interface MenuEntry {
  label: string
  kbds?: string[]
  color?: 'neutral' | 'error'
  onSelect: () => void
}
/** Entries of a context menu, in groups: of the commands of these titles, those that can be done now. */
export const menuOf = (commands: readonly Command[], titles: readonly (readonly string[])[]): MenuEntry[][] =>
  titles
    .map(group =>
      group.flatMap(title => {
        const command = commands.find(c => c.title === title)
        if (!command || (command.can && !command.can())) return []
        return [{ label: title, kbds: command.keys?.[0]?.split('+'), onSelect: command.run }]
      }),
    )
    .filter(group => group.length)

/** More than any number of words can score. */
export const NOT_FOUND = 1000
/** How good a place a word was found at: the number of the first that holds, or {@link NOT_FOUND}. */
export function placeOf(places: readonly boolean[]): number {
  const at = places.indexOf(true)
  return at < 0 ? NOT_FOUND : at
}

/** Every word typed must be found: in the title first, then among the words. Best first. */
export function findCommands<T extends { title: string; words?: string }>(commands: readonly T[], text: string): T[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const score = ({ title, words: more = '' }: T): number => {
    const own = title.toLowerCase()
    const rest = more.toLowerCase()
    return words.reduce(
      (sum, w) => sum + placeOf([own.startsWith(w), own.includes(` ${w}`), own.includes(w), rest.includes(w)]),
      0,
    )
  }
  return commands
    .map((c, i) => ({ c, i, s: score(c) }))
    .filter(x => x.s < NOT_FOUND)
    .sort((a, b) => a.s - b.s || a.i - b.i)
    .map(x => x.c)
}
