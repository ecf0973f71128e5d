import type { Command } from 'commander';

/** A completion script for bash, made of the commands and options themselves. Files are completed where no option begins. */
export function completionScript(program: Command): string {
  const cases = program.commands.map((command) => {
    const options = command.options.map(({ long }) => long).filter((long) => long);
    return `    ${command.name()}) words="${options.join(' ')} --help" ;;`;
  });
  return `_pampero() {
  local word="\${COMP_WORDS[COMP_CWORD]}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=( $(compgen -W "${program.commands.map((c) => c.name()).join(' ')} help --help" -- "$word") )
    return
  fi
  case "\${COMP_WORDS[1]}" in
${cases.join('\n')}
  esac
  case "$word" in
    -*) COMPREPLY=( $(compgen -W "$words" -- "$word") ) ;;
    *) COMPREPLY=( $(compgen -f -- "$word") ) ;;
  esac
}
complete -o filenames -F _pampero pampero
`;
}
