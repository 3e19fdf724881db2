import { existsSync } from 'node:fs';
import { Option, type Command } from 'commander';
import {
  createClient,
  filteredDifferences,
  type Comparison,
  type StateToCompare,
} from '@kleidon/client';
import { queries } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { listsBeside, listsNamed } from '../lists.ts';
import { atOption, jsonOption, serviceOption, siteOption } from '../options.ts';
import { printComparison } from '../output/comparison.ts';
import { print } from '../output/print.ts';
import { showProgress } from '../output/progress.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';
import { preparedFrom } from '../source/of-file.ts';

interface CompareOptions {
  readonly site?: string;
  readonly service: string;
  readonly at?: string;
  readonly page?: string;
  readonly rule?: string;
  readonly as?: string;
  readonly json?: boolean;
}

/** `kleidon compare`: who gains access and who loses it between two states. */
export function addCompare(program: Command): void {
  program
    .command('compare')
    .description('say who gains access, and who loses it, from one state of a site to another')
    .argument(
      '<before>',
      'draft, live, the number of a release, a version of the draft (version-7), or a site file',
    )
    .argument('<after>', 'the same')
    .addOption(new Option('--page <address>', 'only what differs at this address'))
    .addOption(
      new Option('--rule <name>', 'only what this rule is the cause of, as in "gate crew-room"'),
    )
    .addOption(new Option('--as <visitor>', 'only what differs for this visitor of the site file'))
    .addOption(atOption())
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText(
      'after',
      `
It is told for every visitor there could be, from now on, across the dates of both states.

Examples:
  kleidon compare live draft --site www
  kleidon compare 3 live --rule 'gate crew-room'
  kleidon compare before.site.yaml after.site.yaml --as gale --json`,
    )
    .action(async (before: string, after: string, options: CompareOptions) => {
      const found = filtered(await compared(before, after, options), options);
      print(options.json, found, () => printComparison(before, after, found));
    });
}

/** Compares two states, or site files. */
export async function compared(
  before: string,
  after: string,
  options: Pick<CompareOptions, 'at' | 'service' | 'site'>,
): Promise<Comparison> {
  const { at } = options;
  if (isFile(before) && isFile(after)) {
    const [was, is] = [before, after].map((file) =>
      preparedFrom({ text: readText(file), name: file, listOf: listsBeside(file) }),
    );
    const moment = queries.readMoment(at, is!.site.timeZone, Date.now());
    const found = queries.compareSites(was!, is!, moment);
    return { ...found, total: found.differences.length };
  }
  const client = createClient(options.service);
  const progress = showProgress();
  progress.say('Comparing …');
  try {
    return await client.compare(await siteFrom(client, options), {
      before: stateOf(before),
      after: stateOf(after),
      ...(at === undefined ? {} : { at }),
    });
  } finally {
    progress.end();
  }
}

const STATE = /^(draft|live|(version-)?[1-9]\d{0,8})$/;

const isFile = (name: string): boolean => !STATE.test(name);

/** A state by its name, or a site file with the lists beside it. */
function stateOf(name: string): StateToCompare {
  if (!isFile(name)) return { state: name };
  if (!existsSync(name))
    throw new Stop(
      EXIT.wrongUse,
      `"${name}" is no state and no file. Name draft, live, the number of a release, version-7 of the draft, or a site file.`,
    );
  const text = readText(name);
  const listOf = listsBeside(name);
  const lists = listsNamed(text).flatMap((list) => {
    const content = listOf(list);
    return content === null ? [] : [[list, content] as const];
  });
  return { text, lists: Object.fromEntries(lists) };
}

/** What is left of a comparison by what was asked for. */
function filtered(all: Comparison, { page, rule, as }: CompareOptions): Comparison {
  const known = all.changes.map((change) => change.rule);
  if (rule !== undefined && !all.changes.some((one) => [one.rule, one.name].includes(rule)))
    throw new Stop(
      EXIT.wrongUse,
      `"${rule}" did not change.${known.length > 0 ? ` What did: ${known.join(', ')}.` : ''}`,
    );
  return { ...all, differences: filteredDifferences(all, { page, rule, visitor: as }) };
}
