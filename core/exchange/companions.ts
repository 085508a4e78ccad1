import { lines, linesAfter } from './lines'

declare class TextDecoder {
  decode(bytes: Uint8Array): string
}

/** The material libraries that an OBJ file names. */
export function namedByObj(bytes: Uint8Array): string[] {
  return [...linesAfter(bytes, 'mtllib')].filter(Boolean)
}

/** The pictures that a material library names; what stands between the statement and the name are options. */
export function namedByMtl(bytes: Uint8Array): string[] {
  const statement = /^\s*(?:map_\w+|bump|disp|decal|refl|norm)\s+(.+)$/i
  const statements = [...lines(bytes)].map(line => statement.exec(line)?.[1]?.trim()).filter(rest => rest !== undefined)
  return statements.map(s => s.replace(/^(?:-\w+(?:\s+(?:-?[\d.]+|on|off))*\s+)+/i, ''))
}

/** The buffers and pictures that a glTF document names and does not hold; none where it is no JSON. */
export function namedByGltf(bytes: Uint8Array): string[] {
  let document: { buffers?: { uri?: unknown }[]; images?: { uri?: unknown }[] }
  try {
    document = JSON.parse(new TextDecoder().decode(bytes)) as typeof document
  } catch {
    return []
  }
  const uris = [...(document.buffers ?? []), ...(document.images ?? [])].map(r => r.uri)
  const named = uris.filter((u): u is string => typeof u === 'string' && !u.startsWith('data:'))
  return named.flatMap(uri => {
    try {
      return [decodeURIComponent(uri)]
    } catch {
      return [uri]
    }
  })
}
