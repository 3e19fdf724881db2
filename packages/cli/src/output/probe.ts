import Table from 'cli-table3';
import type { ComparedVisit, Effect } from '@kleidon/core';
import type { Probed } from '../probe/probe.ts';
import { NO_LINES } from './no-lines.ts';
import { bold, count, dim, paint, red, yellow } from './style.ts';

const EFFECT_WORDS: Readonly<Record<Effect, string>> = {
  opens: 'sees what is not for them',
  closes: "doesn't see what is for them",
  other: 'something else',
};

/** What a probe found: visitor by visitor how much agrees, then every difference. */
export function printProbe(probed: Probed): string {
  const { site, website, at, visits, untried, agreed, differed } = probed;
  const names = [...new Set(visits.map(({ visitor }) => visitor))];
  const table = new Table({
    head: ['visitor', 'visits', 'agree', 'differ'].map((one) => bold(one)),
    chars: NO_LINES,
    style: { head: [], border: [], compact: true, 'padding-left': 0, 'padding-right': 2 },
    colAligns: ['left', 'right', 'right', 'right'],
  });
  for (const name of names) {
    const own = visits.filter(({ visitor }) => visitor === name);
    const differing = own.filter(({ difference }) => difference !== null).length;
    const shown = differing === 0 ? dim('0') : red(String(differing));
    table.push([name, own.length, own.length - differing, shown]);
  }
  const different = visits.filter(({ difference }) => difference !== null);
  return [
    `${bold(site)} ${dim(`at ${at}`)}, as ${website} answers`,
    ...(names.length === 0 ? [] : [trimmed(table.toString())]),
    ...different.map(printDifference),
    ...untried.map(({ visitor, because }) => yellow(`! ${visitor} was not tried: ${because}.`)),
    differed === 0
      ? paint.reach(`${count(agreed, 'visit')}: all as the rules say.`)
      : red(`${count(differed, 'visit')} of ${visits.length} not as the rules say.`),
  ].join('\n\n');
}

function printDifference({ address, visitor, difference }: ComparedVisit): string {
  const { hop, address: where, expected, found, effect } = difference!;
  const at = hop === 1 ? '' : `, at hop ${hop} (${where})`;
  return [
    `${red('✗')} ${bold(address)} as ${bold(visitor)}${at}: ${EFFECT_WORDS[effect]}`,
    `  the rules say  ${expected}`,
    `  it answered    ${found}`,
  ].join('\n');
}

const trimmed = (text: string): string => text.replace(/ +$/gm, '');
