import { Command } from 'commander'
import { version } from '../package.json'
import { completion, SHELLS, type Shell } from './completion'
import { command } from './command'
import { UsageError } from './usage'

/** All commands, in the order of the help. A call reads the one that it names. */
const COMMANDS: Record<string, () => Promise<() => Command>> = {
  inspect: async () => (await import('./commands/inspect')).inspectCommand,
  check: async () => (await import('./commands/check')).checkCommand,
  values: async () => (await import('./commands/values')).valuesCommand,
  bake: async () => (await import('./commands/bake')).bakeCommand,
  export: async () => (await import('./commands/export')).exportCommand,
  deliver: async () => (await import('./commands/deliver')).deliverCommand,
  diff: async () => (await import('./commands/diff')).diffCommand,
  detail: async () => (await import('./commands/detail')).detailCommand,
  render: async () => (await import('./commands/render')).renderCommand,
  sheet: async () => (await import('./commands/sheet')).sheetCommand,
  turntable: async () => (await import('./commands/turntable')).turntableCommand,
  read: async () => (await import('./commands/read')).readCommand,
  unwrap: async () => (await import('./commands/unwrap')).unwrapCommand,
  demo: async () => (await import('./commands/demo')).demoCommand,
  store: async () => (await import('./commands/keeping')).storeCommand,
  backup: async () => (await import('./commands/keeping')).backupCommand,
  restore: async () => (await import('./commands/keeping')).restoreCommand,
  user: async () => (await import('./commands/keeping')).userCommand,
}

const MORE = `
MESH is .glb, .gltf, .obj, .ply, .stl or a .zip of one with its files. LOOK is a .look.json, the .look.zip of a
delivery, or a .mtlx document. "ubblet help COMMAND" tells the rest, with examples.

Exit codes: 0 done, 1 ran and found problems (or left out what was asked for), 2 could not be done.`

/**
 * The command line.
 * @param named what a call begins with: of the commands, only this one is there where there is one of this name
 */
export async function program(named?: string): Promise<Command> {
  const made = new Command('ubblet')
    .description('Natural color variation for meshes made of many parts, without painting.')
    .version(version, '--version', 'which version this is')
    .helpCommand('help [command]', 'what a command does, with examples')
    .showSuggestionAfterError(true)
    .addHelpText('after', MORE)
    .exitOverride()
    .configureOutput({ writeErr: () => {} })
  const alone = named !== undefined && Object.hasOwn(COMMANDS, named) ? COMMANDS[named] : undefined
  for (const read of alone ? [alone] : Object.values(COMMANDS)) made.addCommand((await read())())
  const completing = command('completion', {
    summary: 'lets a shell complete commands and options',
    examples: [['completion bash > ~/.local/share/bash-completion/completions/ubblet', 'For good.']],
  })
    .argument('<shell>', SHELLS.join(' or '))
    .action((shell: string) => {
      const known = SHELLS.find(s => s === shell)
      if (!known) throw new UsageError(`completion takes ${SHELLS.join(' or ')}, not "${shell}".`)
      process.stdout.write(completion(known satisfies Shell, made))
    })
  made.addCommand(completing)
  return made
}
