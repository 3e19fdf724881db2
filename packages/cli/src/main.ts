import { Command, CommanderError, type Argument } from 'commander';
import { ServiceProblem, Unreachable } from '@kleidon/client';
import { addCommands } from './commands/index.ts';
import { EXIT, SiteHasErrors, Stop } from './exit.ts';
import { jsonOf, printable } from './output/print.ts';
import type { queries } from '@kleidon/core';

/** What the site refuses, in place of wrong use. */
const REFUSED = new Set(['draft-changed', 'guarantee-broken', 'fix-refused', 'check-too-slow']);

/** Remedies that the API words for those who send requests, as they are for the command. */
const REMEDIES: Readonly<Record<string, string>> = {
  'guarantee-broken':
    'Change the draft so that it holds, or release it all the same with --override REASON.',
  'site-exists': 'Choose another name with --id NAME, or replace its draft with kleidon draft put.',
  'no-such-visitor': 'Name one of the site file with --as, or describe one with --visitor.',
};

const program = new Command('kleidon')
  .description(
    'Who reaches which page of a website, and where old addresses lead: seen before it is live.',
  )
  .version('0.1.0')
  // That a command has options goes without saying, and takes the room of its description.
  .configureHelp({
    subcommandTerm: (command) =>
      [command.name(), ...command.registeredArguments.map(termOf)].join(' '),
  })
  .showHelpAfterError('(add --help for what there is)')
  .addHelpText(
    'after',
    `
Exit codes: 0 OK, 1 the site has errors or an expectation failed, 2 wrong use,
3 the service can't be reached.

Examples:
  kleidon check --file www.site.yaml
  kleidon grid --file www.site.yaml
  kleidon visit /crew --as gale --file www.site.yaml
  kleidon serve`,
  );

await addCommands(program, process.argv.slice(2));
program.helpCommand(true);
overrideExit(program);

// A reader that goes away, as head does, is no failure of ours.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(EXIT.ok);
  process.exit(complain(EXIT.failed, `The output can't be written: ${error.message}.`));
});

try {
  await program.parseAsync();
} catch (error) {
  process.exitCode = await end(error);
}

/** An argument as it stands in a line that shows how a command is used. */
function termOf(argument: Argument): string {
  const name = `${argument.name()}${argument.variadic ? '…' : ''}`;
  return argument.required ? `<${name}>` : `[${name}]`;
}

function overrideExit(command: Command): void {
  command.exitOverride();
  command.commands.forEach(overrideExit);
}

async function end(error: unknown): Promise<number> {
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.ok : EXIT.wrongUse;
  if (error instanceof SiteHasErrors && process.argv.includes('--json')) {
    process.stdout.write(`${jsonOf({ errors: error.errors, findings: [] })}\n`);
    return error.code;
  }
  if (error instanceof Stop) return complain(error.code, error.message);
  if (error instanceof Unreachable) {
    return complain(
      EXIT.unreachable,
      `${error.message} Start it with "kleidon serve", or name another with --service.`,
    );
  }
  if (error instanceof ServiceProblem) return complainOf(error);
  const { queries } = await import('@kleidon/core');
  if (error instanceof queries.QuestionError)
    return complain(EXIT.wrongUse, error.sentences.join('\n'));
  // Node.js would print a line of the bundle, which helps nobody.
  const { stack, message } = error instanceof Error ? error : new Error(String(error));
  return complain(EXIT.failed, `Internal error: ${stack ?? message}`);
}

async function complainOf({ code, message, problem }: ServiceProblem): Promise<number> {
  if (code === 'site-has-errors') {
    const { printErrors } = await import('./output/check.ts');
    const errors = (problem.errors ?? []) as unknown as queries.ExplainedError[];
    return complain(EXIT.failed, printErrors(errors));
  }
  return complain(
    problem.status >= 500 ? EXIT.unreachable : REFUSED.has(code) ? EXIT.failed : EXIT.wrongUse,
    [message, REMEDIES[code] ?? problem.remedy].filter(Boolean).join(' '),
  );
}

function complain(code: number, message: string): number {
  process.stderr.write(`${printable(message)}\n`);
  return code;
}
