import { describe, expect, it } from 'vitest'
import { pressed, shortcutOf } from '../../app/project/keys'

/** A press of a key, as the browser tells of it. */
const press = (key: string, held: Partial<KeyboardEvent> = {}): string =>
  pressed({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held } as KeyboardEvent)

describe('keys', () => {
  it('are written as commands write them', () => {
    expect(press('d', { ctrlKey: true })).toBe('Ctrl+D')
    expect(press('Z', { metaKey: true, shiftKey: true })).toBe('Ctrl+Shift+Z')
    expect(press('?', { shiftKey: true })).toBe('?')
    expect(press('ArrowLeft', { ctrlKey: true, altKey: true })).toBe('Ctrl+Alt+Left')
    expect(press(' ')).toBe('Space')
    expect(press('PageDown', { shiftKey: true })).toBe('Shift+PageDown')
  })

  it('are the same ones for the shortcuts of the page', () => {
    expect(shortcutOf('Ctrl+Shift+Z')).toBe('meta_shift_z')
    expect(shortcutOf('Shift+PageDown')).toBe('shift_pagedown')
    expect(shortcutOf('?')).toBe('?')
    expect(shortcutOf('Space')).toBe(' ')
  })
})
