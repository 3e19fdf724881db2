import { createInterface } from 'node:readline/promises';
import { Option, type Command } from 'commander';
import { type model, proposals, queries } from '@kleidon/core';
import { withTarget, type TargetOptions } from './options.ts';
import { EXIT } from './exit.ts';
import { print } from './output/print.ts';
import { count, dim } from './output/style.ts';
import { preparedFrom } from './source/of-file.ts';
import type { Target } from './target.ts';

/** A proposal may change what is there, where it says so. */
type Proposed = proposals.Proposal & {
  readonly changes?: readonly proposals.Change[];
  readonly patterns?: readonly string[];
};

export interface ProposalOptions extends TargetOptions {
  readonly write?: boolean;
}

/** Adds the options of a command that proposes additions to a site file. */
export function withProposal(command: Command): Command {
  return withTarget(command).addOption(
    new Option('--write', 'write what is proposed without asking').conflicts('dryRun'),
  );
}

/**
 * Shows a proposal, and writes it when it is wanted: by `--write`, or by a yes of whoever sits at the
 * terminal. Where nobody can be asked, nothing is written.
 *
 * @param notes lines to be shown besides
 */
export async function propose(
  target: Target,
  proposal: Proposed,
  options: ProposalOptions,
  notes: readonly string[] = [],
): Promise<void> {
  const { additions, changes = [] } = proposal;
  const isEmpty = additions.length + changes.length === 0;
  const text = isEmpty ? target.text : proposals.withProposed(target.text, proposal);
  const findings = isEmpty ? [] : findIntroduced(target, text);
  // Whatever was refused is for someone to fix: a script must not take the rest for all of it.
  if (proposal.refused.some(({ problem }) => problem.code !== 'tidied'))
    process.exitCode = EXIT.failed;
  if (options.json) {
    if (options.write && !isEmpty) await target.write(text);
    const written = options.write === true && !isEmpty;
    print(true, { ...queries.explainProposal(proposal), findings, written }, () => '');
    return;
  }
  print(false, null, () =>
    [...linesOf(proposal), ...notes, ...findings.map(lineOfFinding)].join('\n'),
  );
  if (isEmpty) return;
  const canAsk = process.stdin.isTTY && process.stdout.isTTY && !options.dryRun;
  const isWanted = options.write === true || (canAsk && (await ask(target.name)));
  if (isWanted) await target.write(text);
  print(false, null, () => {
    if (isWanted) return `Written to ${target.name}.`;
    const hint = canAsk || options.dryRun ? '' : ' Add --write to write it.';
    return `Nothing was written to ${target.name}.${hint}`;
  });
}

/** What would look wrong that does not now: loops and dead ends among others. */
function findIntroduced(target: Target, text: string): model.Finding[] {
  const now = Date.now();
  const [before, after] = [target, { ...target, text }].map((one) =>
    queries.inspect(preparedFrom(one), one.name, now),
  );
  return queries.introducedFindings(before!, after!);
}

const lineOfFinding = ({ severity, code, message }: model.Finding): string =>
  `! ${severity} ${code}: ${message}`;

async function ask(name: string): Promise<boolean> {
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  try {
    return /^y(es)?$/i.test((await terminal.question(`Write this to ${name}? [y/N] `)).trim());
  } finally {
    terminal.close();
  }
}

function linesOf(proposal: Proposed): string[] {
  const { additions, changes = [], known, elsewhere, patterns = [] } = proposal;
  const { refused } = queries.explainProposal(proposal);
  const kinds = (['pages', 'visitors', 'menus', 'redirects'] as const).flatMap((section) => {
    const some = additions.filter((one) => one.section === section).length;
    return some > 0 ? [count(some, section.slice(0, -1))] : [];
  });
  return [
    ...additions.map(
      ({ section, name, value }) =>
        `+ ${section === 'pages' ? '' : `${section.slice(0, -1)} `}${name} ${dim(inShort(value))}`,
    ),
    ...changes.map(
      ({ name, was, value }) =>
        `~ redirect ${name} ${dim(`${inShort(was)} becomes ${inShort(value)}`)}`,
    ),
    ...refused.map(
      ({ what, line, why }) => `! ${line === null ? '' : `line ${line}: `}${what} ${dim(why)}`,
    ),
    ...patterns.map((one) => `? ${one} ${dim('is taken as a pattern')}`),
    `${kinds.length === 0 ? 'nothing' : kinds.join(' and ')} to add${changes.length === 0 ? '' : `, ${changes.length} to change`}; ${known} already there, ${elsewhere} of other hosts, ${refused.length} refused`,
  ];
}

function inShort(value: unknown): string {
  if (typeof value === 'string') return value;
  return Object.entries(value as Record<string, unknown>)
    .map(([name, field]) => {
      const text = typeof field === 'string' ? field : JSON.stringify(field);
      return name === 'title' ? text : `${name}: ${text}`;
    })
    .join(', ');
}
