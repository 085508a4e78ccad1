import type { Command } from 'commander'
import { command, type VoiceOptions } from '../command'
import { voiceOf } from '../voice'
import { FOUND_PROBLEMS } from '../usage'
import { backup, restore } from './backup'
import { store } from './store'
import { user } from './user'

/** Commands on the database of the server here (UBBLET_DATABASE). */
const say = (options: VoiceOptions, { data, text }: { data: unknown; text: string }): void =>
  voiceOf(options).answer(data, () => text)

export const storeCommand = (): Command =>
  command('store', {
    summary: 'what the database holds and what could be freed',
    examples: [['store --tidy', 'Frees what nothing names any more.']],
  })
    .option('--tidy', 'frees it')
    .option('--removed', 'removed projects as well, however short ago')
    .action(async (options: VoiceOptions & { tidy?: true; removed?: true }) =>
      say(options, await store({ tidy: options.tidy ?? false, removed: options.removed ?? false })),
    )

export const backupCommand = (): Command =>
  command('backup', {
    summary: 'copies the database, also while a server runs',
    examples: [['backup monday.db', 'Everything that was answered by then is in it.']],
  })
    .argument('<file>', 'the copy')
    .action(async (file: string, options: VoiceOptions) => {
      const { problems, ...done } = await backup(file)
      say(options, done)
      if (problems.length) process.exitCode = FOUND_PROBLEMS
    })

export const restoreCommand = (): Command =>
  command('restore', {
    summary: 'puts a backup in the place of the database; what was there is kept',
    examples: [['restore monday.db', 'Stop the server first.']],
  })
    .argument('<file>', 'a backup')
    .action(async (file: string, options: VoiceOptions) => say(options, await restore(file)))

export const userCommand = (): Command =>
  command('user', {
    summary: 'who may sign in',
    examples: [
      ['user list', 'Everybody, with what they may do.'],
      ['user add odile --role manage', 'Asks for a password.'],
      ['user change odile --password', 'Asks for another one.'],
    ],
  })
    .argument('<action>', 'list, add, change or remove')
    .argument('[name]')
    .option('--role <role>', 'look, work or manage')
    .option('--password', 'asks for another password')
    .action(
      async (action: string, name: string | undefined, options: VoiceOptions & { role?: string; password?: true }) =>
        say(options, await user(action, name, { role: options.role, password: options.password ?? false })),
    )
