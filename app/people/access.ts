/** What somebody, or a group, may do in a project that is not open to all. */
export interface Grant {
  kind: 'user' | 'group'
  name: string
  role: 'look' | 'work' | 'manage'
}

export interface Choice {
  value: string
  label: string
}

const keyOf = ({ kind, name }: Pick<Grant, 'kind' | 'name'>): string => `${kind}:${name}`

/** Those of the people and groups that there are who are not named yet, to choose from. */
export function notNamed(known: { users: string[]; groups: string[] }, named: readonly Grant[]): Choice[] {
  const taken = new Set(named.map(keyOf))
  const all = [
    ...known.users.map(name => ({ value: keyOf({ kind: 'user', name }), label: name })),
    ...known.groups.map(name => ({ value: keyOf({ kind: 'group', name }), label: `${name} (group)` })),
  ]
  return all.filter(({ value }) => !taken.has(value))
}

/** Names one of the choices as well: to look, until another role is chosen. */
export function withGrant(named: readonly Grant[], key: string): Grant[] {
  const at = key.indexOf(':')
  const kind = key.slice(0, at) === 'group' ? 'group' : 'user'
  return [...named, { kind, name: key.slice(at + 1), role: 'look' }]
}

export const withoutGrant = (named: readonly Grant[], gone: Grant): Grant[] =>
  named.filter(g => keyOf(g) !== keyOf(gone))
