import type { Found, ReadOptions } from '../meshFile'

/** What a reader is handed besides the bytes. */
export interface ReadContext {
  /** The file's name without folder and ending: what the object is called where the file does not say. */
  stem: string
  /** The files that came along, by path as the document writes it, or by name alone. */
  beside: ReadonlyMap<string, Uint8Array>
  options: ReadOptions
}

/** A kind of file that holds a mesh: one declaration in one file of this folder, listed in `index.ts`. */
export interface MeshReader {
  /** What it is called in sentences: "GLB". */
  title: string
  endings: readonly string[]
  /** Whether it is text, which may be read without any mark at its beginning. */
  text?: boolean
  /** Whether a file is of this kind for certain, by its bytes. */
  begins?(bytes: Uint8Array): boolean
  /** Whether text is of this kind, by its first 4,000 characters. */
  looksLike?(head: string): boolean
  /** What to say where a file has its ending and is something else. @param text whether it reads as text */
  otherwise(text: boolean): string
  /** @throws MeshFileError with one sentence for the artist */
  read(bytes: Uint8Array, context: ReadContext): Promise<Found>
}
