import type { Command } from 'commander'

/** Shells for which completion can be written. */
export const SHELLS = ['bash', 'zsh'] as const
export type Shell = (typeof SHELLS)[number]

const words = (program: Command): { name: string; summary: string; options: string[] }[] =>
  program.commands.map(c => ({
    name: c.name(),
    summary: c.description(),
    options: [...c.options.map(o => o.long!), '--help'],
  }))

/** In single quotes a shell takes everything as it is, but for the quote itself. */
const quoted = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`

function bash(program: Command): string {
  const commands = words(program)
  const cases = commands.map(c => `    ${c.name}) words=${quoted(c.options.join(' '))} ;;`)
  return `_ubblet() {
  local words current=\${COMP_WORDS[COMP_CWORD]}
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W ${quoted(commands.map(c => c.name).join(' '))} -- "$current"))
    return
  fi
  case \${COMP_WORDS[1]} in
${cases.join('\n')}
  esac
  case $current in
    -*) COMPREPLY=($(compgen -W "$words" -- "$current")) ;;
    *) COMPREPLY=($(compgen -f -- "$current")) ;;
  esac
}
complete -o filenames -F _ubblet ubblet
`
}

function zsh(program: Command): string {
  const commands = words(program)
  const list = commands.map(c => `    ${quoted(`${c.name}:${c.summary.replaceAll(':', ' ')}`)}`)
  const cases = commands.map(c => `    ${c.name}) compadd -- ${c.options.join(' ')} ;;`)
  return `#compdef ubblet
_ubblet() {
  local -a commands
  commands=(
${list.join('\n')}
  )
  if (( CURRENT == 2 )); then
    _describe command commands
    return
  fi
  if [[ $words[CURRENT] != -* ]]; then
    _files
    return
  fi
  case $words[2] in
${cases.join('\n')}
  esac
}
compdef _ubblet ubblet
`
}

/** What a shell has to run so that it completes the commands and options of \`ubblet\`. */
export const completion = (shell: Shell, program: Command): string => ({ bash, zsh })[shell](program)
