import { createInterface } from 'node:readline'
import { passwordSchema, userNameSchema, weakness } from '../../node/store/passwords'
import { ROLES, users, type Role } from '../../node/store/schema'
import { addUser, changeUser, removeUser, type Refusal } from '../../node/store/users'
import { withStore } from '../openStore'
import { UsageError } from '../usage'

const REFUSALS: Record<Refusal, (name: string) => string> = {
  unknown: name => `There is no user "${name}".`,
  last: name => `"${name}" is the last who may manage the server; give somebody else that role first.`,
}

function checked<T>(
  schema: {
    safeParse: (x: unknown) => { success: true; data: T } | { success: false; error: { issues: { message: string }[] } }
  },
  value: unknown,
): T {
  const read = schema.safeParse(value)
  if (!read.success) throw new UsageError(`This cannot be: ${read.error.issues[0]!.message}.`)
  return read.data
}

/** A line of standard input; typed at a terminal, it is not shown. */
async function secret(question: string): Promise<string> {
  const terminal = Boolean(process.stdin.isTTY)
  const lines = createInterface({ input: process.stdin, output: terminal ? process.stderr : undefined, terminal })
  if (terminal) {
    process.stderr.write(question)
    // What is typed is written by this method of readline.
    ;(lines as unknown as { _writeToOutput: (s: string) => void })._writeToOutput = () => {}
  }
  const line = await new Promise<string>(resolve => {
    lines.once('line', resolve)
    lines.once('close', () => resolve(''))
  })
  lines.close()
  if (terminal) process.stderr.write('\n')
  return line
}

/** A new password, typed or piped. @throws UsageError where it is none */
async function newPassword(question: string, name: string): Promise<string> {
  const password = checked(passwordSchema, await secret(question))
  const weak = await weakness(password, name)
  if (weak) throw new UsageError(weak)
  return password
}

function role(asked: string | undefined): Role | undefined {
  if (asked === undefined) return undefined
  const found = ROLES.find(r => r === asked)
  if (!found) throw new UsageError(`--role takes ${ROLES.join(', ')}, not "${asked}".`)
  return found
}

const refused = (why: Refusal | undefined, name: string): void => {
  if (why) throw new UsageError(REFUSALS[why](name))
}

/** `ubblet user list|add|change|remove`: who may sign in. Passwords are read from standard input. */
export async function user(
  action: string | undefined,
  named: string | undefined,
  options: { role?: string | undefined; password: boolean },
): Promise<{ data: unknown; text: string }> {
  if (action === 'list') {
    const list = await withStore(store => store.rows.select({ name: users.name, role: users.role }).from(users))
    return { data: list, text: list.map(u => `${u.role.padEnd(7)} ${u.name}\n`).join('') || 'Nobody may sign in.\n' }
  }
  if (!['add', 'change', 'remove'].includes(action ?? ''))
    throw new UsageError('user takes list, add NAME, change NAME or remove NAME.')
  if (!named) throw new UsageError(`user ${action} needs a name.`)
  const name = checked(userNameSchema, named)
  const asked = role(options.role)
  if (action === 'remove') {
    await withStore(async store => refused(await removeUser(store, name), name))
    return { data: { name }, text: `${name} may not sign in any more.\n` }
  }
  if (action === 'change') {
    if (!asked && !options.password) throw new UsageError('user change takes --role ROLE, --password, or both.')
    const password = options.password ? await newPassword(`New password of ${name}: `, name) : undefined
    await withStore(async store => refused(await changeUser(store, name, { role: asked, password }), name))
    return { data: { name, ...(asked && { role: asked }) }, text: `${name} is changed, and signs in again.\n` }
  }
  const given: Role = asked ?? 'work'
  const password = await newPassword(`Password of ${name}: `, name)
  const added = await withStore(store => addUser(store, name, password, given), undefined, true)
  if (!added) throw new UsageError(`There is a user "${name}" already.`)
  return { data: { name, role: given }, text: `${name} may sign in with the role "${given}".\n` }
}
