/** A name as most formats allow it: letters, digits and underscores, not beginning with a digit. */
export const plainName = (name: string): string => name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_') || '_'

/** A title as a file's name without its ending: small letters and digits, the rest as dashes. */
export const fileStem = (title: string, otherwise = 'look'): string =>
  title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || otherwise

/** What a project is called until it has a mesh or somebody names it. */
export const UNNAMED = 'New project'

/** A mesh file's name as a project's: without folders and ending, and without what unwrapping has added. */
const titleOfFile = (file: string): string =>
  file
    .replace(/^.*[\\/]/, '')
    .replace(/(\.[A-Za-z0-9]+)+$/, '')
    .replace(/( unwrapped)+$/, '')
    .trim()

/**
 * What a project is called when it takes a mesh: as the file, as long as nobody has named it.
 * @param before the name of the mesh file that it had
 */
export function projectNamed(name: string, file: string, before: string | null): string {
  const isOurs = name === UNNAMED || (before !== null && name === titleOfFile(before))
  return (isOurs && titleOfFile(file)) || name
}
