import { Command, CommanderError, type Argument } from 'commander';
import { ServiceProblem, Unreachable } from '@kleidon/client';
import { addCheck } from './commands/check.ts';
import { addSuggest } from './commands/suggest.ts';
import { addCompare } from './commands/compare.ts';
import { addCompletion } from './commands/completion.ts';
import { addDraft } from './commands/draft.ts';
import { addEvents } from './commands/events.ts';
import { addExport } from './commands/export.ts';
import { addGrid } from './commands/grid.ts';
import { addImport } from './commands/import.ts';
import { addKinds } from './commands/kinds.ts';
import { addLanding } from './commands/landing.ts';
import { addLists } from './commands/lists.ts';
import { addLive } from './commands/live.ts';
import { addProbe } from './commands/probe.ts';
import { addPurchases } from './commands/purchases.ts';
import { addReport } from './commands/report.ts';
import { addReachedBy } from './commands/reached-by.ts';
import { addFix } from './commands/fix.ts';
import { addRelease } from './commands/release.ts';
import { addServe } from './commands/serve.ts';
import { addVisible } from './commands/visible.ts';
import { addSchema } from './commands/schema.ts';
import { addSites } from './commands/sites.ts';
import { addVerify } from './commands/verify.ts';
import { addVisit } from './commands/visit.ts';
import { addVisitList } from './commands/visit-list.ts';
import { addWhoReaches } from './commands/who-reaches.ts';
import { EXIT, Stop } from './exit.ts';
import { jsonOf, printable } from './output/print.ts';
import { printErrors } from './output/check.ts';
import { SiteHasErrors } from './source.ts';
import { queries } from '@kleidon/core';

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

/** By task, in the order in which people come to each. */
const COMMANDS: readonly (readonly [task: string, commands: readonly ((to: Command) => void)[]])[] =
  [
    [
      'See who reaches what:',
      [addGrid, addWhoReaches, addReachedBy, addKinds, addLanding, addVisible],
    ],
    ['Try addresses:', [addVisit, addVisitList, addSuggest]],
    ['Work on the site file:', [addCheck, addVerify, addFix, addImport, addExport, addSchema]],
    ['Put it live:', [addDraft, addLists, addCompare, addReport, addRelease]],
    ['Watch the website:', [addLive, addProbe, addPurchases, addEvents]],
    ['Set up:', [addServe, addSites, addCompletion]],
  ];
for (const [task, commands] of COMMANDS) {
  program.commandsGroup(task);
  commands.forEach((add) => add(program));
}
program.helpCommand(true);
overrideExit(program);

// A reader that goes away, as head does, is no failure of ours.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(EXIT.ok);
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  process.exitCode = end(error);
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

function end(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.ok : EXIT.wrongUse;
  if (error instanceof SiteHasErrors && process.argv.includes('--json')) {
    process.stdout.write(`${jsonOf({ errors: error.errors, findings: [] })}\n`);
    return error.code;
  }
  if (error instanceof queries.QuestionError)
    return complain(EXIT.wrongUse, error.sentences.join('\n'));
  if (error instanceof Stop) return complain(error.code, error.message);
  if (error instanceof Unreachable) {
    return complain(
      EXIT.unreachable,
      `${error.message} Start it with "kleidon serve", or name another with --service.`,
    );
  }
  if (error instanceof ServiceProblem) return complainOf(error);
  throw error;
}

function complainOf({ code, message, problem }: ServiceProblem): number {
  if (code === 'site-has-errors')
    return complain(
      EXIT.failed,
      printErrors((problem.errors ?? []) as unknown as queries.ExplainedError[]),
    );
  return complain(
    problem.status >= 500
      ? EXIT.unreachable
      : code === 'draft-changed'
        ? EXIT.failed
        : EXIT.wrongUse,
    [message, problem.remedy].filter(Boolean).join(' '),
  );
}

function complain(code: number, message: string): number {
  process.stderr.write(`${printable(message)}\n`);
  return code;
}
