import { EFFECT_WORDS } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import type { Probed } from '@kleidon/probe';
import { bold, count, dim, paint, red, yellow } from './style.ts';
import { plainTable } from './table.ts';

/** What a probe found: visitor by visitor how much agrees, then every difference. */
export function printProbe(probed: Probed): string {
  const { site, website, at, visits, untried, agreed, differed } = probed;
  const names = [...new Set(visits.map(({ visitor }) => visitor))];
  const rows = names.map((name) => {
    const own = visits.filter(({ visitor }) => visitor === name);
    const differing = own.filter(({ difference }) => difference !== null).length;
    const shown = differing === 0 ? dim('0') : red(String(differing));
    return [name, own.length, own.length - differing, shown];
  });
  const head = ['visitor', 'visits', 'agree', 'differ'].map((one) => bold(one));
  const different = visits.filter(({ difference }) => difference !== null);
  return [
    `${bold(site)} ${dim(`at ${at}`)}, as ${website} answers`,
    ...(names.length === 0 ? [] : [plainTable(head, rows, ['left', 'right', 'right', 'right'])]),
    ...different.map(printDifference),
    ...untried.map(({ visitor, because }) => yellow(`! ${visitor} was not tried: ${because}.`)),
    visits.length === 0
      ? red('Nothing could be tried.')
      : differed === 0
        ? paint.reach(`${count(agreed, 'visit')}: all as the rules say.`)
        : red(`${count(differed, 'visit')} of ${visits.length} not as the rules say.`),
  ].join('\n\n');
}

function printDifference({ address, visitor, difference }: decisions.ComparedVisit): string {
  const { hop, address: where, expected, found, effect } = difference!;
  const at = hop === 1 ? '' : `, at hop ${hop} (${where})`;
  return [
    `${red('✗')} ${bold(address)} as ${bold(visitor)}${at}: ${EFFECT_WORDS[effect]}`,
    `  the rules say  ${expected}`,
    `  it answered    ${found}`,
  ].join('\n');
}
