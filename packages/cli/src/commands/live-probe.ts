import { setTimeout as wait } from 'node:timers/promises';
import {
  differenceInWords,
  intervalInWords,
  type Client,
  type ProbeDifference,
  type ProbeInfo,
  type ProbeRun,
} from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import { minuteOf } from '../output/minute.ts';
import { print } from '../output/print.ts';
import { showProgress } from '../output/progress.ts';
import { bold, count, dim, paint, red, yellow } from '../output/style.ts';

interface ProbeOptions {
  readonly json?: boolean;
  readonly limit: number;
  readonly search?: string;
  readonly ended?: boolean;
  readonly now?: boolean;
}

/** How often it is asked whether a run is over, in milliseconds. */
const ASKED_EVERY = 300;

/** `kleidon live probe`: how the probe of a site stands, and what differs. Fails where something does. */
export async function showProbe(
  client: Client,
  site: string,
  { json, limit, search, ended, now }: ProbeOptions,
): Promise<void> {
  if (now) await runNow(client, site);
  const { probe, runs, open } = await client.probe(site);
  const [last] = runs;
  const { found, differences } = await client.probeDifferences(site, {
    ended: ended ? 'yes' : undefined,
    search,
    limit,
  });
  print(json, { probe, last: last ?? null, open, found, differences }, () => {
    if (!probe)
      return 'The settings name no probe for this site: add one under "probes" (docs/probe.md).';
    const shown = differences.length < found ? `, the first ${differences.length} of them` : '';
    return [
      headOf(probe, last),
      ...differences.map(inLines),
      found === 0
        ? ended
          ? 'No differences that are over.'
          : last?.failure === null
            ? paint.reach('Nothing differs.')
            : dim('No differences are known.')
        : (ended ? dim : red)(
            `${count(found, 'difference')}${ended ? ' that are over' : ''}${shown}`,
          ),
    ].join('\n\n');
  });
  if (probe && (open > 0 || last?.failure)) process.exitCode = EXIT.failed;
}

/** Begins a run, or joins the one that goes on, and waits for its end. */
async function runNow(client: Client, site: string): Promise<void> {
  const before = (await client.probe(site)).runs[0]?.number ?? 0;
  await client.beginProbe(site);
  const progress = showProgress();
  try {
    for (;;) {
      const { probe, runs } = await client.probe(site);
      if ((runs[0]?.number ?? 0) > before) return;
      // A release ended it: another one begins by itself.
      const { running } = probe ?? {};
      if (running) progress.say(`${running.done} of ${running.all} visits`);
      if (!probe) throw new Stop(EXIT.failed, 'The probe is not set up any more.');
      await wait(ASKED_EVERY);
    }
  } finally {
    progress.end();
  }
}

function headOf(probe: ProbeInfo, last: ProbeRun | undefined): string {
  const { website, every, nextAt, running, webhook } = probe;
  const next = running
    ? `a run goes on: ${running.done} of ${running.all} visits`
    : nextAt === null
      ? 'nothing is released yet'
      : `the next at ${minuteOf(nextAt)}`;
  return [
    `website   ${website}`,
    `runs      every ${intervalInWords(every)}, ${next}`,
    `last      ${last ? lastInWords(last) : dim('none yet')}`,
    ...(last?.untried ?? []).map(({ visitor, because }) =>
      yellow(`          ! ${visitor} was not tried: ${because}`),
    ),
    ...(last?.endedBy ? [yellow(`          ! the search for pages ended: ${last.endedBy}`)] : []),
    ...(webhook ? [`webhook   ${webhookInWords(webhook)}`] : []),
  ].join('\n');
}

function lastInWords({ endedAt, failure, agreed, differed, pages, release }: ProbeRun): string {
  const at = minuteOf(endedAt);
  if (failure !== null) return `${at}, ${red(failure)}`;
  const visits = `${agreed} of ${count(agreed + differed, 'visit')} as release ${release} says`;
  return `${at}, ${visits}${pages === null ? '' : `; ${count(pages, 'page')} found`}`;
}

function webhookInWords({ address, waiting, last }: NonNullable<ProbeInfo['webhook']>): string {
  const told = last
    ? last.deliveredAt !== null
      ? `told at ${minuteOf(last.deliveredAt)}`
      : red(`not told: ${last.answer ?? 'not tried yet'}`)
    : 'told nothing yet';
  return `${address}, ${told}${waiting > 0 ? `; ${count(waiting, 'message')} to deliver` : ''}`;
}

function inLines(one: ProbeDifference): string {
  const { address, visitor, step, expected, found, firstAt, lastAt, endedAt } = one;
  const at = step === address ? '' : `, at ${step}`;
  const what = `${visitor === null ? '' : ` as ${bold(visitor)}`}${at}: ${differenceInWords(one)}`;
  const times = [
    `first ${minuteOf(firstAt)}`,
    `last ${minuteOf(lastAt)}`,
    ...(endedAt === null ? [] : [`over ${minuteOf(endedAt)}`]),
  ].join(', ');
  return [
    `${endedAt === null ? red('✗') : dim('·')} ${bold(address)}${what}`,
    `  the rules say  ${expected}`,
    `  the website    ${found}`,
    dim(`  ${times}`),
  ].join('\n');
}
