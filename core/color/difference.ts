import { differenceCiede2000, modeLab65, modeRgb, useMode, type Rgb } from 'culori/fn'
import { encodeSrgb, type Triple } from './convert'

useMode(modeRgb)
useMode(modeLab65)
const measure = differenceCiede2000()
const encoded = (c: readonly number[]): Rgb => {
  const [r, g, b] = c.map(x => encodeSrgb(Math.min(1, Math.max(0, x)))) as Triple
  return { mode: 'rgb', r, g, b }
}

/** How unlike two linear colors look: CIEDE2000 (CIE 142-2001), where about 2 can just be told side by side. */
export const colorDifference = (a: readonly number[], b: readonly number[]): number => measure(encoded(a), encoded(b))
