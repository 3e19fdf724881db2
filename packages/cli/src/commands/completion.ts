import { Argument, type Command } from 'commander';
import { candidates } from '../completion/candidates.ts';
import { SCRIPTS, type Shell } from '../completion/scripts.ts';

/** `kleidon completion`: what a shell needs to complete commands, options, visitors and pages. */
export function addCompletion(program: Command): void {
  const completion = program
    .command('completion')
    .helpCommand(false)
    .description('print what lets a shell complete commands, options, visitors and pages')
    .addArgument(new Argument('<shell>', 'the shell').choices(Object.keys(SCRIPTS)))
    .addHelpText(
      'after',
      `
Examples:
  source <(kleidon completion bash)        in ~/.bashrc
  source <(kleidon completion zsh)         in ~/.zshrc
  kleidon completion fish | source         in ~/.config/fish/config.fish`,
    )
    .action((shell: Shell) => void process.stdout.write(`${SCRIPTS[shell]}\n`));
  completion
    .command('candidates', { hidden: true })
    .argument('[words...]')
    .action(async (words: readonly string[]) => {
      const found = await candidates(program, words, async (file) =>
        (await import('../completion/site-in.ts')).siteIn(file),
      );
      const lines = found.map(({ word, description }) => `${word}\t${description}\n`);
      process.stdout.write(lines.join(''));
    });
}
