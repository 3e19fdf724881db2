import { Argument, type Command } from 'commander';
import { siteFiles } from '@kleidon/core';
import { candidates, type KnownSite } from '../completion/candidates.ts';
import { SCRIPTS, type Shell } from '../completion/scripts.ts';
import { listsBeside } from '../lists.ts';
import { readText } from '../source.ts';

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
    .action((words: readonly string[]) => {
      const lines = candidates(program, words, siteIn).map(
        ({ word, description }) => `${word}\t${description}\n`,
      );
      process.stdout.write(lines.join(''));
    });
}

/** What is known of a site file; nothing where it can't be read, since nobody asked for its errors. */
function siteIn(file: string): KnownSite | null {
  const read = siteFiles.readSite(readText(file), file, listsBeside(file));
  if (!read.ok) return null;
  const { visitors, pages } = read.site;
  return {
    visitors: visitors.map(({ name, summary }) => ({ word: name, description: summary })),
    pages: pages.map(({ example, title }) => ({ word: example, description: title })),
  };
}
