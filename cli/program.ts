import { Command } from 'commander'
import { version } from '../package.json'
import { bakeCommand } from './commands/bake'
import { checkCommand } from './commands/check'
import { deliverCommand } from './commands/deliver'
import { demoCommand } from './commands/demo'
import { detailCommand } from './commands/detail'
import { diffCommand } from './commands/diff'
import { exportCommand } from './commands/export'
import { inspectCommand } from './commands/inspect'
import { backupCommand, restoreCommand, storeCommand, userCommand } from './commands/keeping'
import { readCommand } from './commands/read'
import { renderCommand } from './commands/render'
import { sheetCommand } from './commands/sheet'
import { turntableCommand } from './commands/turntable'
import { unwrapCommand } from './commands/unwrap'
import { valuesCommand } from './commands/values'
import { completion, SHELLS, type Shell } from './completion'
import { command } from './command'
import { UsageError } from './usage'

/** All commands, in the order of the help. */
const COMMANDS = [
  inspectCommand,
  checkCommand,
  valuesCommand,
  bakeCommand,
  exportCommand,
  deliverCommand,
  diffCommand,
  detailCommand,
  renderCommand,
  sheetCommand,
  turntableCommand,
  readCommand,
  unwrapCommand,
  demoCommand,
  storeCommand,
  backupCommand,
  restoreCommand,
  userCommand,
]

const MORE = `
MESH is .glb, .gltf, .obj, .ply, .stl or a .zip of one with its files. LOOK is a .look.json, the .look.zip of a
delivery, or a .mtlx document. "ubblet help COMMAND" tells the rest, with examples.

Exit codes: 0 done, 1 ran and found problems (or left out what was asked for), 2 could not be done.`

export function program(): Command {
  const made = new Command('ubblet')
    .description('Natural color variation for meshes made of many parts, without painting.')
    .version(version, '--version', 'which version this is')
    .helpCommand('help [command]', 'what a command does, with examples')
    .showSuggestionAfterError(true)
    .addHelpText('after', MORE)
    .exitOverride()
    .configureOutput({ writeErr: () => {} })
  for (const make of COMMANDS) made.addCommand(make())
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
