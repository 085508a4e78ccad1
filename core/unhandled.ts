/**
 * For a `switch` over kinds: fails to compile where one has no case, and throws where data has one that is not known.
 */
export function unhandled(kind: never): never {
  throw new Error(`Nothing is known of the kind ${JSON.stringify(kind)}.`)
}
