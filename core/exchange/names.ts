/** A name as most formats allow it: letters, digits and underscores, not beginning with a digit. */
export const plainName = (name: string): string => name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_') || '_'

/** A title as a file's name without its ending: small letters and digits, the rest as dashes. */
export const fileStem = (title: string, otherwise = 'look'): string => title.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '') || otherwise
