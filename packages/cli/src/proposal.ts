import { createInterface } from 'node:readline/promises';
import { Option, type Command } from 'commander';
import { addEntries, type Proposal } from '@kleidon/core';
import { withTarget, type TargetOptions } from './options.ts';
import { print } from './output/print.ts';
import { count, dim } from './output/style.ts';
import type { Target } from './target.ts';

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
  proposal: Proposal,
  options: ProposalOptions,
  notes: readonly string[] = [],
): Promise<void> {
  const { additions } = proposal;
  if (options.json) {
    if (options.write && additions.length > 0) await write(target, proposal);
    print(true, { ...proposal, written: options.write === true && additions.length > 0 }, () => '');
    return;
  }
  print(false, null, () => [...linesOf(proposal), ...notes].join('\n'));
  if (additions.length === 0) return;
  const canAsk = process.stdin.isTTY && process.stdout.isTTY && !options.dryRun;
  const isWanted = options.write === true || (canAsk && (await ask(target.name)));
  if (isWanted) await write(target, proposal);
  print(false, null, () => {
    if (isWanted) return `Written to ${target.name}.`;
    const hint = canAsk || options.dryRun ? '' : ' Add --write to write it.';
    return `Nothing was written to ${target.name}.${hint}`;
  });
}

const write = (target: Target, { additions }: Proposal): Promise<unknown> =>
  target.write(addEntries(target.text, additions));

async function ask(name: string): Promise<boolean> {
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  try {
    return /^y(es)?$/i.test((await terminal.question(`Write this to ${name}? [y/N] `)).trim());
  } finally {
    terminal.close();
  }
}

function linesOf({ additions, known, elsewhere, refused }: Proposal): string[] {
  const kinds = (['pages', 'visitors', 'menus'] as const).flatMap((section) => {
    const some = additions.filter((one) => one.section === section).length;
    return some > 0 ? [count(some, section.slice(0, -1))] : [];
  });
  return [
    ...additions.map(
      ({ section, name, value }) =>
        `+ ${section === 'pages' ? '' : `${section.slice(0, -1)} `}${name} ${dim(inShort(value))}`,
    ),
    ...refused.map(
      ({ what, line, why }) => `! ${line === null ? '' : `line ${line}: `}${what} ${dim(why)}`,
    ),
    `${kinds.length === 0 ? 'nothing' : kinds.join(' and ')} to add; ${known} already there, ${elsewhere} of other hosts, ${refused.length} refused`,
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
