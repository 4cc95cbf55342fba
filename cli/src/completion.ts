import { ENDPOINTS } from '@idrel/contract/operations';
import type { Command } from 'commander';
import { CliProblem } from './problem.ts';

/** What can stand behind some words of a command line. */
interface Place {
  /** The words, joined: `policies plan`; empty at the beginning. */
  readonly words: string;
  readonly follows: readonly string[];
}

/** Every command with what can follow it: commands below it, and its options. */
function placesOf(command: Command, words: readonly string[] = []): Place[] {
  const below = command.commands.filter((one) => one.name() !== 'help');
  const options = command.options.flatMap(({ long }) => (long ? [long] : []));
  const operations = words.join(' ') === 'ask' ? ENDPOINTS.map(({ id }) => id) : [];
  return [
    { words: words.join(' '), follows: [...below.map((one) => one.name()), ...operations, ...options, '--help'] },
    ...below.flatMap((one) => placesOf(one, [...words, one.name()])),
  ];
}

const BASH = (places: readonly Place[]) => `# idrel: completion for bash. In ~/.bashrc: eval "$(idrel completion bash)"
_idrel() {
  local current="\${COMP_WORDS[COMP_CWORD]}" path="" word follows
  for word in "\${COMP_WORDS[@]:1:COMP_CWORD-1}"; do
    case "$word" in
      -*) ;;
      *) case "\${path:+$path }$word" in
${places
  .filter(({ words }) => words !== '')
  .map(({ words }) => `        "${words}") path="${words}" ;;`)
  .join('\n')}
        esac ;;
    esac
  done
  case "$path" in
${places.map(({ words, follows }) => `    "${words}") follows="${follows.join(' ')}" ;;`).join('\n')}
  esac
  COMPREPLY=($(compgen -W "$follows" -- "$current"))
  if [ "\${#COMPREPLY[@]}" -eq 0 ]; then COMPREPLY=($(compgen -f -- "$current")); fi
}
complete -o filenames -F _idrel idrel
`;

const ZSH = (places: readonly Place[]) => `# idrel: completion for zsh. In ~/.zshrc: eval "$(idrel completion zsh)"
autoload -Uz bashcompinit && bashcompinit
${BASH(places).split('\n').slice(1).join('\n')}`;

const FISH = (places: readonly Place[]) =>
  `# idrel: completion for fish. idrel completion fish > ~/.config/fish/completions/idrel.fish
${places
  .map(({ words, follows }) => {
    const all = words === '' ? [] : words.split(' ');
    const here =
      all.length === 0
        ? '__fish_use_subcommand'
        : all.map((word) => `__fish_seen_subcommand_from ${word}`).join('; and ');
    return `complete -c idrel -n '${here}' -a '${follows.join(' ')}'`;
  })
  .join('\n')}
`;

const SHELLS = { bash: BASH, zsh: ZSH, fish: FISH } as const;

/** `idrel completion`: a script that completes commands, options and names of operations in a shell. */
export function completion(program: Command, shell: string): void {
  if (!Object.hasOwn(SHELLS, shell))
    throw new CliProblem(`There is no completion for ${shell}.`, `There is one for ${Object.keys(SHELLS).join(', ')}.`);
  process.stdout.write(SHELLS[shell as keyof typeof SHELLS](placesOf(program)));
}
