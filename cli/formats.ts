import { Option } from 'commander'
import { PICTURE_FORMATS, PICTURE_WORDS, type PictureFormat } from '../core/bake/maps'
import { UsageError } from './usage'

/** Formats of pictures as they are written in a call. */
const FORMATS = new Map<string, PictureFormat>(
  PICTURE_WORDS.flatMap(format => PICTURE_FORMATS[format].asked.map(word => [word, format] as const)),
)
const FORMAT_WORDS = [...FORMATS.keys()].join(', ')

/** A format, and the word that it was asked for by. */
export interface AskedFormat {
  word: string
  format: PictureFormat
}

/** Reads a list of formats. @throws UsageError */
function formatsOf(text: string): AskedFormat[] {
  return text.split(',').map(part => {
    const word = part.trim()
    const format = FORMATS.get(word)
    if (!format) throw new UsageError(`--format takes ${FORMAT_WORDS}, not "${word}".`)
    return { word, format }
  })
}

export const formatOption = (flags: string): Option =>
  new Option(flags, `of pictures: ${FORMAT_WORDS}`).argParser(formatsOf).default(formatsOf('png8'), 'png8')
